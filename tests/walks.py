"""Random actions at a window, none of which waits for what the one before began; and how long each holds the window."""

import time
from collections import Counter
from contextlib import contextmanager, suppress
from functools import wraps

from hypothesis import strategies as st
from hypothesis.stateful import RuleBasedStateMachine, invariant, rule
from PySide6.QtCore import QObject, QTimer
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication

from film import exact_trial, make_shot
from pemlo.app.film_work import FORECAST
from pemlo.core.errors import PemloError
from pemlo.core.persistence.document import to_text
from pemlo.core.project.edits import (
    add_shots,
    add_trials,
    remove_shots,
    remove_trials,
    set_asked,
    set_delivery,
    set_trial,
)
from pemlo.core.trade.best_plan import GOALS
from pemlo.gui.stages import BRIEF, HAND_OVER, JUDGE, RUN_SHEET, TRADE, TRIALS, WATCH
from window import run_action, settle

STEP_S = 0.2  # of the window's own processor time, that one step may take


class Heartbeat(QObject):
    """Beats once a turn of the event loop: what a turn takes of the processor of this thread is one step."""

    def __init__(self):
        super().__init__()
        self.longest, self.over, self.turns, self.actions = 0.0, Counter(), 0, 0
        self.doing = ""
        self._at = time.thread_time()
        self._timer = QTimer(self)
        self._timer.timeout.connect(self._beat)
        self._timer.start(0)

    def _beat(self):
        now = time.thread_time()
        self.note(now - self._at, "a turn after ")
        self._at = now

    def note(self, took, what=""):
        self.turns += 1
        self.longest = max(self.longest, took)
        if took > STEP_S:
            self.over[f"{what}{self.doing}"] = max(self.over[f"{what}{self.doing}"], round(1000 * took))

    def again(self):
        """Begin a new step: what came before was noted."""
        self._at = time.thread_time()

    def stop(self):
        self._timer.stop()


def on_its_thread(window):
    """Whether every widget, and every timer of the window, lives on the thread of the window."""
    home = QApplication.instance().thread()
    strays = [one for one in QApplication.allWidgets() if one.thread() is not home]
    return not strays and all(one.thread() is home for one in window.findChildren(QTimer))


def action(**given):
    """Make a rule of which the study notes what it takes."""

    def made(body):
        @wraps(body)
        def timed(self, **values):
            with self.step(body.__name__):
                body(self, **values)

        return rule(**given)(timed)

    return made


WHERE = st.integers(0, 20)  # a place among shots or trials, counted round


class Walk(RuleBasedStateMachine):
    """Random actions at a window, none of which waits for what the one before began; undone to the start at the end."""

    window = None  # the test's
    settle = None
    beat = None  # of the study

    def __init__(self):
        super().__init__()
        self.begins = to_text(self.window.document.project)
        self.window.show_stage(TRADE)
        self.settle()

    @property
    def project(self):
        return self.window.document.project

    @contextmanager
    def step(self, name):
        """Note what an action itself takes of the processor, apart from the turns after it."""
        begun = time.thread_time()
        if self.beat is not None:
            self.beat.doing = name
        yield
        if self.beat is not None:
            self.beat.actions += 1
            self.beat.note(time.thread_time() - begun)
            self.beat.again()

    def shot(self, at):
        return self.project.shots[at % len(self.project.shots)].name

    def edit(self, text, change):
        with suppress(PemloError, ValueError, ZeroDivisionError):  # not everything is possible everywhere
            self.window.document.edit(text, change)

    @action(number=st.integers(0, 999), frames=st.integers(1, 80))
    def adds_a_shot(self, number, frames):
        self.edit("Add shot", lambda p: add_shots(p, [make_shot(f"{number:03d}x", frames)]))

    @action(at=WHERE)
    def removes_a_shot(self, at):
        self.edit("Remove shot", lambda p: remove_shots(p, [self.shot(at)]))

    @action(at=WHERE, samples=st.integers(1, 4096))
    def asks_for_other_samples(self, at, samples):
        self.edit("Set samples", lambda p: set_asked(p, [self.shot(at)], samples=samples))

    @action(at=WHERE, denoise=st.sampled_from(["none", "frame", "another"]))
    def asks_for_denoising(self, at, denoise):
        self.edit("Set denoising", lambda p: set_asked(p, [self.shot(at)], denoise=denoise))

    @action(at=WHERE, frame=st.integers(1, 40), samples=st.sampled_from([4, 64]))
    def times_a_frame(self, at, frame, samples):
        self.edit("Add trial", lambda p: add_trials(p, [exact_trial(self.shot(at), frame, samples)]))

    @action(at=WHERE)
    def removes_a_trial(self, at):
        self.edit("Remove trial", lambda p: remove_trials(p, [at % len(p.trials)]))

    @action(at=WHERE, seconds=st.floats(0.1, 900), left_out=st.sampled_from(["", "cold"]))
    def changes_a_trial(self, at, seconds, left_out):
        self.edit("Set trial", lambda p: set_trial(p, at % len(p.trials), seconds=seconds, left_out=left_out))

    @action()
    def removes_all_trials(self):
        self.edit("Remove trials", lambda p: p.replace(trials=()))

    @action(minutes=st.integers(0, 500))
    def sets_the_assembly(self, minutes):
        self.edit("Set assembly", lambda p: set_delivery(p, assembly_minutes=minutes))

    @action(times=st.integers(1, 3))
    def undoes(self, times):
        for _ in range(times):
            run_action(self.window, "undo")

    @action()
    def redoes(self):
        run_action(self.window, "redo")

    @action(stage=st.sampled_from([BRIEF, TRIALS, JUDGE, TRADE, RUN_SHEET, WATCH, HAND_OVER]))
    def opens_a_stage(self, stage):
        self.window.show_stage(stage)

    @action(theme=st.sampled_from(["Day", "Dim"]))
    def turns_the_light(self, theme):
        self.window.show_theme(theme)

    @action(place=st.sampled_from(["", "r/{shot}/{shot}.{frame:04}.exr", "gone/{frame}.exr"]))
    def says_where_frames_arrive(self, place):
        self.edit("Watch", lambda p: p.replace(watching=p.watching.replace(place=place)))

    @action(row=WHERE, frame=WHERE)
    def clicks_a_frame(self, row, frame):
        """What is shown may be of a film before: a shot that is clicked may be gone."""
        self.window.show_stage(WATCH)
        rows = self.window.watch.frames.view.rows
        if rows:
            one = rows[row % len(rows)]
            number = int(one.frames[frame % len(one.frames)])
            self.window.watch.frames.view.frame_picked.emit(one.shot, number)
            self.window.watch.frames.copy()

    @action(at=WHERE)
    def clicks_an_alarm(self, at):
        self.window.show_stage(WATCH)
        last = self.window.watcher.last
        if last is not None and last.live_forecast.alarms:
            self.window.watch.frames.show_alarm(last.live_forecast.alarms[at % len(last.live_forecast.alarms)])

    @action(places=st.lists(WHERE, min_size=1, max_size=3))
    def picks_shots(self, places):
        if self.project.shots:
            self.window.pick(tuple(dict.fromkeys(map(self.shot, places))))

    @action(every=st.integers(1, 3))
    def stops_work(self, every):
        for key in list(self.window.jobs.running)[::every]:
            self.window.jobs.stop(key)

    @action(goal=st.sampled_from(GOALS))
    def asks_for_a_plan(self, goal):
        self.window.show_stage(TRADE)
        self.window.trade.plan_box.wanted.emit(goal)

    @action()
    def adopts_the_plan(self):
        self.window.trade.plan_box.adopted.emit()

    @action(samples=st.integers(1, 300))
    def moves_a_lever(self, samples):
        if self.window.trade.stage.isVisibleTo(self.window):
            self.window.trade.edits.move("samples", samples)

    @rule(ms=st.sampled_from([0, 1, 5, 40, 150]))
    def waits(self, ms):
        QTest.qWait(ms)

    @rule()
    def waits_for_all(self):
        self.window.show_stage(TRADE)
        self.settle()

    @invariant()
    def options_are_those_of_the_film_as_it_is(self):
        for shot in self.project.shots:
            options = self.window.trade.planner.options_of(shot.name)
            assert options is None or options.settings[0] == shot.asked

    def teardown(self):
        self.settle()
        while self.window.document.history.can_undo():
            run_action(self.window, "undo")
        assert to_text(self.project) == self.begins
        self.window.show_theme("Day")
        self.window.show_stage(TRADE)
        self.settle()
        # Where frames arrive is nothing that a forecast reads: that one may be of before.
        assert self.window.state.answer.project.replace(watching=self.project.watching) == self.project


def ask_again(window):
    """Ask for the forecast where it was stopped."""
    if not window.state.current and FORECAST not in window.jobs.running:
        window.state.ask()


def settle_again(qtbot, window):
    """Wait for what was stopped too."""
    ask_again(window)
    settle(qtbot, window)
