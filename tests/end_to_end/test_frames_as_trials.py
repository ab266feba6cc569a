"""Frames came before anything was timed: one state of knowledge in every stage, and the frames as trials in one click."""

import pytest

from pemlo.core.persistence.document import write_project
from pemlo.words.film_verdict import rests_on
from watching_window import Watched
from window import run_action


@pytest.fixture
def untimed(qtbot, monkeypatch, tmp_path):
    made = Watched(qtbot, monkeypatch, tmp_path)
    made.window.close()
    write_project(made.played.project.replace(trials=()), made.path)
    made.open()
    made.go_to(made.played.at_share(0.4))
    return made


def test_what_frames_tell_is_known_in_the_verdict_the_tape_and_below(untimed):
    window, found = untimed.window, untimed.found
    assert found.snapshot.done_count == 28
    assert "machine-hours left" in window.verdict.detail.text()
    assert window.tape.reading().startswith("50 % by ")
    # There is no trial: none is counted, though some of the frames stand for trials.
    assert window.rail.buttons[1]._stands == "no trials yet"
    assert rests_on(found).endswith("from 28 frames that are in")


def test_frames_become_trials_in_one_click(untimed):
    window = untimed.window
    assert "Nothing was timed before frames came in. 3 of them can be" in window.problems.words
    window.problems.acts[-1].click()
    untimed.see()
    trials = window.document.project.trials
    assert [trial.frame for trial in trials] == [1, 14, 28]
    assert {trial.machine for trial in trials} <= {"desk", "blade"}
    assert window.problems.words == ""
    wanted = "from 3 trials and 28 frames that are in"
    untimed.qtbot.waitUntil(lambda: rests_on(untimed.found).endswith(wanted), timeout=30_000)
    run_action(window, "trade")
    untimed.qtbot.waitUntil(lambda: window.state.rests, timeout=60_000)
    assert window.answer.forecast.hours is not None
    window.document.history.undo()
    assert not window.document.project.trials


def test_an_offer_stays_beside_a_message(untimed):
    bar = untimed.window.problems
    bar.tell("Something else is wrong.")
    bar.tell("And now this.")
    assert "Something else" not in bar.words
    assert bar.words.startswith("Nothing was timed before")
    assert bar.words.endswith("And now this.")
    assert len(bar.acts) == 1
