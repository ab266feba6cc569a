"""Steps that can be undone."""

import gc

import pytest
from hypothesis import given
from hypothesis import strategies as st

from film import make_project
from pemlo.app.document import Document
from pemlo.app.history import DoneStep, History


@pytest.fixture
def shown(qapp):
    values = ["start"]
    return History(values.append), values


def step(history, values, after, gesture="", text="Step"):
    history.push(DoneStep(text, values[-1], after, gesture))


def test_steps_are_taken_back_and_done_again_by_name(shown):
    history, values = shown
    step(history, values, "a", text="A")
    step(history, values, "b", text="B")
    assert (history.undo_text(), history.redo_text()) == ("B", "")
    history.undo()
    assert (values[-1], history.undo_text(), history.redo_text()) == ("a", "A", "B")
    history.redo()
    assert values[-1] == "b"
    history.undo()
    step(history, values, "c", text="C")
    assert not history.can_redo(), "another step takes the place of those that were taken back"
    assert history.count() == 2


def test_nothing_to_take_back_changes_nothing(shown):
    history, values = shown
    history.undo()
    history.redo()
    assert values == ["start"]
    assert (history.undo_text(), history.redo_text(), history.count()) == ("", "", 0)


def test_what_was_saved_is_known_by_where_it_stands(shown):
    history, values = shown
    told = []
    history.clean_changed.connect(told.append)
    assert history.is_clean()
    step(history, values, "a")
    assert not history.is_clean()
    history.set_clean()
    step(history, values, "b")
    history.undo()
    assert history.is_clean()
    history.undo()
    step(history, values, "other")
    assert not history.is_clean(), "the saved state can be reached no more"
    history.undo()
    assert not history.is_clean()
    history.clear()
    assert history.is_clean()
    history.reset_clean()
    assert not history.is_clean()
    assert told[-1] is False


def test_a_gesture_that_goes_on_after_a_save_is_another_step(shown):
    history, values = shown
    step(history, values, "a", "drag")
    step(history, values, "b", "drag")
    assert history.count() == 1
    history.set_clean()
    step(history, values, "c", "drag")
    assert history.count() == 2
    history.undo()
    assert (values[-1], history.is_clean()) == ("b", True)


@given(st.lists(st.sampled_from(["undo", "redo", "save", *"abc"]), max_size=40))
def test_it_is_as_a_list_of_all_states_would_have_it(qapp, acts):
    values, states, at, saved = ["start"], ["start"], 0, 0
    history = History(values.append)
    for number, act in enumerate(acts):
        if act == "undo":
            history.undo()
            at = max(at - 1, 0)
        elif act == "redo":
            history.redo()
            at = min(at + 1, len(states) - 1)
        elif act == "save":
            history.set_clean()
            saved = at
        else:
            step(history, values, f"{act}{number}")
            saved = saved if saved is not None and saved <= at else None
            states = [*states[: at + 1], f"{act}{number}"]
            at += 1
        assert values[-1] == states[at]
        assert history.is_clean() == (saved == at)
        assert (history.can_undo(), history.can_redo()) == (at > 0, at < len(states) - 1)


def test_a_document_that_refers_to_itself_is_collected_with_its_steps(qapp):
    """Qt's own stack ended the process here."""
    for _ in range(20):
        document = Document(make_project())
        for number in range(5):
            document.edit("Title", lambda project, n=number: project.replace(title=f"{n}"))
        document.history.undo()
        document.itself = document
        document.changed.connect(lambda _, document=document: document)
    del document
    gc.collect()
