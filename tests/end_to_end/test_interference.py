"""The second action comes while the first still works in the background; and walks of random actions.

Stories that wait after every action never see what lies between.
"""

from functools import partial

import psutil
import pytest
from hypothesis import HealthCheck, settings
from hypothesis.stateful import run_state_machine_as_test
from PySide6.QtCore import Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication

from exr import write_exr
from film import exact_trial, make_project, make_shot
from pemlo.app.film_work import FORECAST
from pemlo.app.planner import OPTIONS, PLAN
from pemlo.app.trial_rows import RENDER
from pemlo.core.persistence.document import read_project, write_project
from pemlo.core.project.edits import (
    add_trials,
    remove_shots,
    set_delivery,
)
from pemlo.core.project.trials import Trial
from pemlo.core.trade.best_plan import GOALS
from pemlo.core.trialrun import allowed
from pemlo.gui.stages import BRIEF, JUDGE, TRADE, TRIALS
from photographs import gaussian, photograph
from render_programs import HANGS, way_of
from walks import Walk, on_its_thread, settle_again
from window import forget, open_window, run_action, settle, shared_window, undo_all, without_advice

SIZE = (96, 64)
OWN_MEMO = True


@pytest.fixture(scope="module")
def film(tmp_path_factory):
    """A film of three shots; of one there are pictures, some of them in a row."""
    folder = tmp_path_factory.mktemp("film")
    clean = photograph("astronaut", SIZE)
    shots = tuple(make_shot(name, 48).replace(extra_columns=(("scene", "stairs"),)) for name in ("010", "020", "030"))
    trials = [exact_trial(shot.name, frame, samples) for shot in shots for frame, samples in ((5, 16), (40, 256))]
    for number, (frame, samples) in enumerate(((10, 4), (10, 16), (10, 256), (11, 16), (12, 16))):
        name = f"{samples}.{frame:04d}.exr"
        write_exr(folder / name, *gaussian(clean, 40 / samples**0.5, number))
        trials.append(Trial(shot="010", frame=frame, samples=samples, seconds=20 + 0.2 * samples, picture=name))
    path = folder / "film.pemlo"
    project = make_project(shots, tuple(trials), deadline="2031-04-21T13:00Z")
    write_project(project.replace(render_ways=(way_of(folder, HANGS, allow=False),)), path)
    return path


def opened(qtbot, film):
    return open_window(qtbot, read_project(film), film, plots=True)


@pytest.fixture(scope="module")
def bugs():
    return []


@pytest.fixture(scope="module")
def shared(qapp, film, bugs, tmp_path_factory):
    """One window for all of these: each begins with the film as it was opened."""
    with shared_window(tmp_path_factory.mktemp("window"), read_project(film), film) as window:
        window.errors.bug.disconnect()
        window.errors.bug.connect(bugs.append)
        yield window


def back_to_the_start(window, film):
    """Undo everything, so that what is known of the film stays known; or open it again if another is open."""
    undo_all(window)
    if window.document.project != START.setdefault(film, window.document.project):
        window.document.replace(read_project(film), film)


START = {}


@pytest.fixture
def window(qtbot, shared, film, bugs):
    back_to_the_start(shared, film)
    shared.show_stage(BRIEF)
    shared.pick(("010",))
    settle(qtbot, shared)
    yield shared
    told = list(bugs)
    bugs.clear()
    assert not told


# What begins work in the background, by what it is called.


def fits(window):
    forget(window, *{key[0] for key in window.state.memo._made} - {"look"})
    window.document.edit("Add trial", lambda p: add_trials(p, [exact_trial("020", 20, 64)]))
    return FORECAST


def weighs(window):
    window.show_stage(TRADE)
    forget(window, "options")
    window.trade.show_project(window.document.project, window.state.answer)
    return OPTIONS


def plans(window):
    window.show_stage(TRADE)
    window.trade.plan_box.wanted.emit(GOALS[0])
    return PLAN


def show_judge(window):
    """Open Judge; nobody can compare pictures before they are found."""
    window.show_stage(JUDGE)
    while not window.judge.pair.among:
        QApplication.processEvents()


def measures(window):
    show_judge(window)
    still = [one for one in window.judge.pair.among if one.trial and one.trial.frame == 10]
    window.judge.choosing.show_pair(still[0], still[1])
    return ""


def predicts(window):
    window.show_stage(JUDGE)
    window.judge.commands.toggle_errors()
    return ""


def plays(window):
    show_judge(window)
    run = [one for one in window.judge.pair.among if one.trial and one.trial.frame == 11]
    window.judge.choosing.show_pair(run[0], None)
    window.judge.commands.play_or_stop()
    return ""


def renders(window):
    window.show_stage(TRIALS)
    shot = window.document.project.shots[0]
    allowed.allow(window.document.project.render_ways[0], window.document.path.parent)
    window.trials.renders.render_one(shot.name, 3, shot.asked)
    return next(key for key in window.jobs.running if key.startswith(RENDER))


# What comes before that has ended.


def undoes(window, _key, _folder):
    run_action(window, "undo")


def redoes(window, _key, _folder):
    run_action(window, "undo")
    run_action(window, "redo")


def picks(window, _key, _folder):
    window.pick(("030",))
    window.pick(("020", "010"))


def removes_the_shot(window, _key, _folder):
    window.document.edit("Remove shot", lambda p: remove_shots(p, ["010"]))


def stops(window, key, _folder):
    for name in [key] if key else list(window.jobs.running):
        window.jobs.stop(name)


def saves(window, _key, folder):
    path = window.document.path
    window.files.saving.save_to(folder / "saved.pemlo")
    window.files.saving.wait_until_saved()
    assert len(read_project(folder / "saved.pemlo").trials) == len(window.document.project.trials)
    window.document._path = path  # the next test begins with the film


def opens_another(window, _key, _folder):
    window.document.replace(make_project(), None)


def turns_stages(window, _key, _folder):
    for stage in (BRIEF, TRADE, JUDGE, TRIALS, TRADE):
        window.show_stage(stage)


FIRST = (fits, weighs, plans, measures, predicts, plays, renders)
THEN = (undoes, redoes, picks, removes_the_shot, stops, saves, opens_another, turns_stages)


@pytest.mark.parametrize("then", THEN, ids=lambda act: act.__name__)
@pytest.mark.parametrize("first", FIRST, ids=lambda act: act.__name__)
def test_the_second_action_comes_before_the_first_has_ended(qtbot, window, tmp_path, first, then):
    if then in (undoes, redoes):
        window.document.edit("Set assembly", lambda p: set_delivery(p, assembly_minutes=5))
    key = first(window)
    then(window, key if key in window.jobs.running else "", tmp_path)
    if any(key.startswith(RENDER) for key in window.jobs.running):
        window.trial_queue.forget()
    if window.judge.player.playing:
        window.judge.commands.play_or_stop()
    if then is stops and not window.state.current:
        window.jobs.ask_again(FORECAST)
    settle(qtbot, window)
    project = window.document.project
    assert window.state.answer.project is project
    known = window.state.known
    assert known is None or known.project is project
    if then in (removes_the_shot, opens_another):
        for stage in (BRIEF, TRIALS, JUDGE, TRADE):
            window.show_stage(stage)
        settle(qtbot, window)


@pytest.mark.parametrize("first", FIRST, ids=lambda act: act.__name__)
def test_the_window_closes_before_the_first_has_ended(qtbot, film, first, monkeypatch):
    without_advice(monkeypatch)
    window = opened(qtbot, film)
    key = first(window)
    jobs = window.jobs
    assert not key or jobs.running, "it has not ended"
    heard = []
    jobs.ended.connect(lambda *ended: heard.append(ended))
    window.document.history.set_clean()
    assert window.close()
    assert not jobs.running
    # No thread is at work any more, nothing waits for one, and nothing is begun.
    assert [pool.activeThreadCount() for pool in (jobs._pool, jobs._first, jobs._watching, jobs._rendering)] == [
        0,
        0,
        0,
        0,
    ]
    assert not jobs._alive
    assert not [one for one in psutil.Process().children() if one.is_running() and one.status() != psutil.STATUS_ZOMBIE]
    heard.clear()
    jobs.submit("late", "Late", heard.append, heard.append)
    qtbot.wait(50)
    assert heard == []


# Walks


def test_walks_can_be_undone_to_their_start(qtbot, window):
    class WalkHere(Walk):
        settle = staticmethod(partial(settle_again, qtbot, window))

    WalkHere.window = window
    run_state_machine_as_test(
        WalkHere,
        settings=settings(
            max_examples=6, stateful_step_count=50, deadline=None, derandomize=True, database=None,
            suppress_health_check=list(HealthCheck),
        ),
    )  # fmt: skip
    assert on_its_thread(window)


def test_keys_typed_while_a_forecast_runs_go_where_the_hand_is(qtbot, window):
    window.show_stage(TRIALS)
    field = window.trials.entry.inputs["frame"]
    field.setFocus()
    QTest.keyClicks(field, "1")
    fits(window)
    QTest.keyClicks(field, "2")
    settle(qtbot, window)
    QTest.keyClicks(field, "3")
    assert field.text() == "123"
    QTest.keyClick(field, Qt.Key.Key_Escape)
