"""Nothing is shown of two states of the film: the second action comes before the first has settled."""

import threading

import pytest
from PySide6.QtCore import Qt
from PySide6.QtTest import QTest

from film import exact_trial, make_project, make_shot
from limits import until_stopped
from pemlo.app.film_work import FORECAST
from pemlo.app.jobs import THREADS
from pemlo.app.planner import OPTIONS, PLAN
from pemlo.core.cost.fit_input import fit_input
from pemlo.core.film.values import FIT
from pemlo.core.project.edits import add_shots, add_trials, remove_shots, set_asked
from pemlo.core.trade.best_plan import GOALS
from pemlo.gui.stages import BRIEF, TRADE
from window import open_window, run_action, settle, without_advice

OWN_MEMO = True


def film():
    shots = tuple(make_shot(name, samples=256) for name in ("010", "020", "030"))
    trials = [exact_trial(shot.name, frame, samples) for shot in shots for frame, samples in ((5, 16), (50, 256))]
    return make_project(shots=shots, trials=tuple(trials))


@pytest.fixture
def window(qtbot, monkeypatch):
    without_advice(monkeypatch)
    return open_window(qtbot, film())


def is_of_one_state(window):
    """Whether all that Trade has is of the document as it stands."""
    known, project = window.state.known, window.document.project
    if known is None:
        return not window.trade.stage.isVisibleTo(window)
    assert known.project is project
    assert window.state.film.project is project
    assert known.fit is window.state.memo.peek(FIT, fit_input(project))
    assert set(known.fit.shots) == set(known.draws) == {shot.name for shot in project.shots}
    return True


def new_denoiser(window):
    window.document.edit("Set denoising", lambda p: set_asked(p, ["020"], denoise="new one"))


def other_samples(window):
    window.document.edit("Set samples", lambda p: set_asked(p, ["010", "020", "030"], samples=64))


def new_shot(window):
    window.document.edit("Add shot", lambda p: add_shots(p, [make_shot("040")]))


def lost_shot(window):
    window.document.edit("Remove shot", lambda p: remove_shots(p, ["010"]))


def new_trial(window):
    trial = exact_trial("020", 70, 64)
    window.document.edit("Add trial", lambda p: add_trials(p, [trial]))


def no_trials(window):
    window.document.edit("Remove trials", lambda p: p.replace(trials=()))


EDITS = (new_denoiser, other_samples, new_shot, lost_shot, new_trial, no_trials)


@pytest.mark.parametrize("edit", EDITS)
def test_trade_is_opened_before_an_edit_has_settled(qtbot, window, edit):
    window.show_stage(TRADE)
    settle(qtbot, window)
    window.show_stage(BRIEF)
    edit(window)
    window.show_stage(TRADE)
    assert is_of_one_state(window)
    window.trade.plan_box.wanted.emit(GOALS[0])
    settle(qtbot, window)
    assert is_of_one_state(window)
    run_action(window, "undo")
    assert is_of_one_state(window)
    run_action(window, "redo")
    assert is_of_one_state(window)
    run_action(window, "undo")
    settle(qtbot, window)
    assert is_of_one_state(window)
    assert window.trade.stage.isVisibleTo(window)


@pytest.mark.parametrize("edit", EDITS)
def test_undo_and_redo_while_trade_is_open(qtbot, window, edit):
    window.show_stage(TRADE)
    edit(window)
    for name in ("undo", "redo", "undo", "redo"):
        run_action(window, name)
        qtbot.wait(15)
        assert is_of_one_state(window)
    settle(qtbot, window)
    assert is_of_one_state(window)


def test_a_plan_of_before_cannot_be_adopted(qtbot, window):
    window.show_stage(TRADE)
    settle(qtbot, window)
    window.trade.plan_box.wanted.emit(GOALS[0])
    settle(qtbot, window)
    assert window.trade.plan.found is not None
    other_samples(window)
    before = window.document.project
    window.trade.plan_box.adopted.emit()
    assert window.document.project is before
    settle(qtbot, window)
    window.trade.plan_box.adopted.emit()
    assert window.document.project is before, "it was made for other samples"


def test_a_plan_that_is_asked_for_too_soon_comes_when_it_can(qtbot, window):
    window.show_stage(TRADE)
    settle(qtbot, window)
    new_trial(window)
    window.trade.plan_box.wanted.emit(GOALS[0])
    settle(qtbot, window)
    assert window.trade.plan.found.project is window.document.project


def stop(window, key):
    assert key in window.jobs.running
    window.jobs.stop(key)


def slowly():
    """Return a weighing that takes until it is stopped."""

    def work(*args):
        until_stopped(args[-1], "slowly")

    return work


def test_options_that_were_stopped_are_not_shown_as_current_and_can_be_asked_for_again(qtbot, window, monkeypatch):
    from pemlo.app import planner

    window.show_stage(TRADE)
    settle(qtbot, window)
    assert window.trade.stage.isVisibleTo(window)
    weigh = planner.weigh
    monkeypatch.setattr(planner, "weigh", slowly())
    new_trial(window)
    qtbot.waitUntil(lambda: OPTIONS in window.jobs.running, timeout=20_000)
    stop(window, OPTIONS)
    assert not window.trade.stage.isVisibleTo(window)
    assert window.trade.empty.text() == "What this shot could be is not known: its weighing was stopped, or failed."
    monkeypatch.setattr(planner, "weigh", weigh)
    settle(qtbot, window)
    assert window.background._words.text() == "Not done: Weighing what each shot could be"
    QTest.mouseClick(window.background._again, Qt.MouseButton.LeftButton)
    settle(qtbot, window)
    assert window.trade.stage.isVisibleTo(window)
    assert not window.background._again.isVisibleTo(window)


def test_options_that_failed_can_be_asked_for_again(qtbot, window, monkeypatch):
    from pemlo.app import planner

    weigh = planner.weigh
    monkeypatch.setattr(planner, "weigh", lambda *_: 1 / 0)
    bugs = []
    monkeypatch.setattr("pemlo.gui.main_window.show_bug", lambda _window, details: bugs.append(details))
    window.errors.bug.disconnect()
    window.errors.bug.connect(bugs.append)
    window.show_stage(TRADE)
    settle(qtbot, window)
    assert "ZeroDivisionError" in bugs[0]
    assert not window.trade.stage.isVisibleTo(window)
    monkeypatch.setattr(planner, "weigh", weigh)
    window.jobs.ask_again(OPTIONS)
    settle(qtbot, window)
    assert window.trade.stage.isVisibleTo(window)


def test_a_forecast_that_was_stopped_is_stale_and_can_be_asked_for_again(qtbot, window):
    new_trial(window)
    stop(window, FORECAST)
    assert not window.state.current
    assert window.background._again.isVisibleTo(window)
    QTest.mouseClick(window.background._again, Qt.MouseButton.LeftButton)
    settle(qtbot, window)
    assert window.state.answer.project is window.document.project


def test_a_plan_that_is_asked_for_again_is_of_the_film_as_it_is_by_then(qtbot, window, monkeypatch):
    from pemlo.app import planner

    window.show_stage(TRADE)
    settle(qtbot, window)
    find = planner.find_plan
    monkeypatch.setattr(planner, "find_plan", slowly())
    window.trade.plan_box.wanted.emit(GOALS[0])
    stop(window, PLAN)
    monkeypatch.setattr(planner, "find_plan", find)
    new_trial(window)
    settle(qtbot, window)
    QTest.mouseClick(window.background._again, Qt.MouseButton.LeftButton)
    settle(qtbot, window)
    assert window.trade.plan.found.project is window.document.project


def test_what_was_stopped_is_not_offered_for_another_film(qtbot, window):
    new_trial(window)
    stop(window, FORECAST)
    window.document.replace(film(), None)
    settle(qtbot, window)
    assert not window.jobs.not_done


def test_a_forecast_does_not_wait_behind_long_work(qtbot, window):
    for number in range(6):
        window.jobs.submit(f"long {number}", "Long work", until_stopped, lambda _: None)
    new_trial(window)
    qtbot.waitUntil(lambda: window.state.current, timeout=20_000)
    assert window.state.answer.project is window.document.project
    for number in range(6):
        window.jobs.cancel(f"long {number}")


def test_settings_that_a_lever_came_by_take_bounded_memory(qtbot, window):
    window.show_stage(TRADE)
    settle(qtbot, window)
    memo = window.state.memo
    memo._most, held = 300_000, memo.bytes
    for samples in range(33, 93):
        window.trade.edits.move("samples", samples)
        assert memo.bytes <= held + 2 * memo._most
    settle(qtbot, window)
    assert window.document.project.shot("010").settings.samples == 92


def test_a_job_that_waits_is_dropped_when_it_is_stopped(qtbot, window):
    assert PLAN not in window.jobs.running
    run, held = [], threading.Event()
    for number in range(THREADS):  # every thread is at work: what comes now waits
        window.jobs.submit(f"long {number}", "Long work", lambda _: held.wait(20), lambda _: None)
    window.jobs.submit("a", "A", lambda monitor: run.append("a"), run.append)
    window.jobs.submit("b", "B", lambda monitor: run.append("b"), lambda _: None)
    window.jobs.stop("a")
    held.set()
    settle(qtbot, window)
    assert run == ["b"]
