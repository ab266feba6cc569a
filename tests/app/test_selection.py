"""One place says which shots are picked, and names none that is gone."""

import pytest

from film import make_project, make_shot
from pemlo.app.document import Document
from pemlo.app.selection import Selection
from pemlo.core.project.edits import remove_shots


@pytest.fixture
def made(qapp):
    document = Document(make_project(tuple(make_shot(name) for name in ("010", "020", "030"))))
    selection, told = Selection(document), []
    selection.changed.connect(lambda: told.append(selection.shots))
    return document, selection, told


def test_the_first_is_picked_until_somebody_picks(made):
    _, selection, told = made
    assert (selection.shots, selection.first) == (("010",), "010")
    selection.pick(("030", "020"))
    assert (selection.shots, selection.first) == (("030", "020"), "030")
    selection.pick(("030", "020"))
    assert told == [("030", "020")], "the same again is no news"


def test_what_is_gone_is_picked_no_more_and_one_stays(made):
    document, selection, told = made
    selection.pick(("020", "030"))
    document.edit("Remove", lambda p: remove_shots(p, ["020"]))
    assert selection.shots == ("030",)
    document.edit("Remove", lambda p: remove_shots(p, ["030"]))
    assert selection.shots == ("010",)
    assert told[1:] == [("030",), ("010",)]
    selection.pick(("020", "nobody"))
    assert selection.shots == ("010",), "an earlier film may name some that are gone"


def test_another_film_begins_with_its_first_shot_and_an_empty_one_with_none(made):
    document, selection, _ = made
    selection.pick(("030",))
    document.replace(make_project((make_shot("900"), make_shot("030"))), None)
    assert selection.shots == ("900",)
    document.replace(make_project(()), None)
    assert (selection.shots, selection.first) == ((), "")
