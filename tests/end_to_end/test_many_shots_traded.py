"""A lever of a film with many shots: it answers at once, and what is said of the whole film follows, the same as ever."""

import pytest
from PySide6.QtWidgets import QLabel

from film import make_project, make_shot, well_timed
from pemlo.app import film_state
from pemlo.gui.trade import panel
from window import open_window, run_action, settle, without_advice

SHOTS = ("010", "020", "030", "040")


@pytest.fixture
def window(qtbot, monkeypatch):
    """A film of four shots, which count as many."""
    without_advice(monkeypatch)
    for module in (film_state, panel):
        monkeypatch.setattr(module, "MANY_SHOTS", len(SHOTS))
    trials = tuple(trial for name in SHOTS for trial in well_timed(name, frames=(1, 25)))
    made = open_window(qtbot, make_project(tuple(make_shot(name, 50) for name in SHOTS), trials))
    made.pick(("020",))
    run_action(made, "trade")
    settle_all(qtbot, made)
    return made


def settle_all(qtbot, window):
    bargains = window.trade.bargains
    settle(qtbot, window)
    before = None
    while before != said(window):  # what one part asks for once another is there
        before = said(window)
        qtbot.waitUntil(lambda: not window.trade.waits and not bargains.waits_for_rest, timeout=60_000)
        qtbot.wait(100)
        settle(qtbot, window)


def said(window):
    """All that Trade and the verdict say."""
    labels = [*window.trade.findChildren(QLabel), *window.verdict.findChildren(QLabel)]
    return [one.text() for one in labels if one.isVisible()]


def film_words(window):
    return [one.text() for one in window.trade.waterfall_heading.findChildren(QLabel)]


def stands(window):
    row = window.trade.boxes["samples"]._row
    return row.texts[row.at]


def move(window, text):
    box = window.trade.boxes["samples"]
    box.slider.setValue(box._row.texts.index(text))


def test_a_lever_answers_before_the_film_does(qtbot, window):
    film_line, steps = film_words(window), window.trade.boxes["samples"]._row.down
    move(window, "64")
    assert stands(window) == "64"
    assert window.trade.boxes["samples"]._row.down != steps
    assert film_words(window) == film_line
    assert not window.state.rests
    settle_all(qtbot, window)
    assert film_words(window) != film_line
    assert window.state.current


def test_what_is_said_in_the_end_is_what_is_said_of_few_shots(qtbot, window, monkeypatch):
    for text in ("64", "128", "32"):
        move(window, text)  # the next before anything of the last has come
    settle_all(qtbot, window)
    soon = said(window)
    for module in (film_state, panel):
        monkeypatch.setattr(module, "MANY_SHOTS", 1000)
    move(window, "64")
    move(window, "32")
    settle_all(qtbot, window)
    assert said(window) == soon


def test_undone_before_the_film_was_asked_for_all_is_as_it_was(qtbot, window):
    before = said(window)
    move(window, "64")
    window.trade.edits.let_go()
    window.document.history.undo()
    settle_all(qtbot, window)
    now = said(window)
    assert [one for one in now if "Undo" not in one] == [one for one in before if "Undo" not in one]


def test_another_shot_picked_meanwhile_is_the_one_that_is_shown(qtbot, window):
    move(window, "64")
    window.pick(("030",))
    settle_all(qtbot, window)
    assert stands(window) == "256"
    assert any("030" in one for one in said(window))
    assert window.document.project.shot("020").plan.samples == 64
