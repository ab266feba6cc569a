"""The stages of the window: each panel is made when it is first opened, or asked for. GUI thread."""

import math
from collections.abc import Callable, Iterable, Sequence
from pathlib import Path
from typing import TYPE_CHECKING, Protocol

from PySide6.QtWidgets import QStackedWidget, QWidget

from pemlo.gui import window_state
from pemlo.gui.common.rail import Rail
from pemlo.gui.common.stands import (
    brief_stands,
    handover_stands,
    judge_stands,
    run_stands,
    trade_stands,
    trials_stands,
    watch_stands,
)
from pemlo.gui.window import Window

if TYPE_CHECKING:
    from pemlo.app.film_state import FilmForecast
    from pemlo.app.watcher import Watched
    from pemlo.core.project.project import Project
    from pemlo.core.project.settings import FrameSettings
    from pemlo.gui.handover.panel import HandoverPanel
    from pemlo.gui.judge.panel import JudgePanel
    from pemlo.gui.runsheet.panel import RunSheetPanel
    from pemlo.gui.trade.panel import TradePanel
    from pemlo.gui.trials.panel import TrialsPanel
    from pemlo.gui.watch.panel import WatchPanel

STAGES = (
    ("Brief", "What is due: shots, delivery, machines"),
    ("Trials", "What has been timed, and what to time next"),
    ("Judge", "What can be seen, and what passes"),
    ("Trade", "What to give up, and for how many hours"),
    ("Run sheet", "Who renders when, and what would be done sooner"),
    ("Watch", "What has come in, and when the rest is done"),
    ("Hand-over", "Checked before the launch, explained, delivered"),
)
BRIEF, TRIALS, JUDGE, TRADE, RUN_SHEET, WATCH, HAND_OVER = range(len(STAGES))


class Stage(Protocol):
    """What every stage's panel can do."""

    def show_project(self, project: "Project", answer: "FilmForecast | None") -> None:
        """Show a project, and the forecast that goes with it if there is one."""

    def pick(self, names: tuple[str, ...]) -> None:
        """Show other shots."""


class Stages(QStackedWidget):
    """Holds the panels that were made, and an empty place for each of the others."""

    def __init__(self, window: Window, take_files: Callable[[Sequence[str]], None]) -> None:
        super().__init__()
        self._window, self._take_files = window, take_files
        self._made: dict[int, Stage] = {BRIEF: window.brief}
        self._trials: TrialsPanel | None = None
        self._judge: JudgePanel | None = None
        self._trade: TradePanel | None = None
        self._run_sheet: RunSheetPanel | None = None
        self._watch: WatchPanel | None = None
        self._handover: HandoverPanel | None = None
        for place in (window.brief, *(QWidget() for _ in STAGES[1:])):
            self.addWidget(place)

    @property
    def made(self) -> Iterable[Stage]:
        """Panels that were made."""
        return self._made.values()

    def has(self, number: int) -> bool:
        """Whether the panel of a stage was made."""
        return number in self._made

    def panel(self, number: int) -> Stage:
        """Return the panel of a stage; made now if it is asked for first."""
        panels: dict[int, Callable[[], Stage]] = {
            BRIEF: lambda: self._window.brief,
            TRIALS: self.trials,
            JUDGE: self.judge,
            TRADE: self.trade,
            RUN_SHEET: self.run_sheet,
            WATCH: self.watch,
            HAND_OVER: self.handover,
        }
        return panels[number]()

    def trials(self) -> "TrialsPanel":
        """Return the panel of Trials."""
        if self._trials is None:
            from pemlo.gui.trials.panel import TrialsPanel  # noqa: PLC0415 - heavy to load and to make

            window = self._window
            made = self._trials = TrialsPanel(window.document, window.jobs, window.report, window.tables)
            made.shot_wanted.connect(lambda shot: window.pick((shot,)))
            made.files_wanted.connect(lambda names: window.run(lambda: self._take_files(names)))
            made.renders.wanted.connect(window.renderings.add)
            window.renderings.landed.connect(
                lambda done, header: window.run(lambda: made.renders.take_rendered(done, header))
            )
            window.renderings.refined.connect(lambda _, picture: made.card.show_refining(picture))
            window.renderings.changed.connect(lambda: made.card.show_waiting(window.renderings.waiting))
            window_state.restore(window.preferences, (made.columns,), (made.table,))
            self._put(TRIALS, made, made)
            made.show_project(window.document.project, window.answer)
            made.show_advice(window.state.advice)
        return self._trials

    def judge(self) -> "JudgePanel":
        """Return the panel of Judge."""
        if self._judge is None:
            from pemlo.gui.judge.panel import JudgePanel  # noqa: PLC0415 - heavy to load and to make

            window = self._window
            made = self._judge = JudgePanel(
                window.document, window.jobs, window.written, window.preferences, window.report
            )
            made.region_wanted.connect(self._on_region_wanted)
            made.trial_wanted.connect(lambda one: self.trials().renders.render_one(one.shot, one.frame, one.settings))
            self._put(JUDGE, made, made)
        return self._judge

    def trade(self) -> "TradePanel":
        """Return the panel of Trade."""
        if self._trade is None:
            from pemlo.app.planner import Planner  # noqa: PLC0415 - heavy to load and to make
            from pemlo.gui.trade.panel import TradePanel  # noqa: PLC0415 - as above

            window = self._window
            planner = Planner(window.state, window.jobs)
            made = self._trade = TradePanel(window.document, window.jobs, planner, window.report, window.pick)
            made.side.preview.written.connect(self._on_predicted)
            made.trials_wanted.connect(lambda: window.show_stage(TRIALS))
            made.trial_wanted.connect(lambda one: self.trials().renders.render_one(one.shot, one.frame, one.settings))
            self._put(TRADE, made, made)
        return self._trade

    def run_sheet(self) -> "RunSheetPanel":
        """Return the panel of Run sheet."""
        if self._run_sheet is None:
            from pemlo.gui.runsheet.panel import RunSheetPanel  # noqa: PLC0415 - heavy to load and to make

            window = self._window
            made = self._run_sheet = RunSheetPanel(window.document, window.jobs, window.report)
            made.trials_wanted.connect(lambda: window.show_stage(TRIALS))
            made.shot_wanted.connect(lambda shot: window.pick((shot,)))
            made.sheet.scale_changed.connect(window.tape.mark_shown)
            self._put(RUN_SHEET, made, made)
        return self._run_sheet

    def watch(self) -> "WatchPanel":
        """Return the panel of Watch."""
        if self._watch is None:
            from pemlo.gui.watch.panel import WatchPanel  # noqa: PLC0415 - heavy to load and to make

            window = self._window
            made = self._watch = WatchPanel(window.document, window.jobs, window.watcher, window.farm, window.report)
            made.shot_wanted.connect(lambda shot: window.pick((shot,)))
            made.plan_wanted.connect(window.plan_rest)
            self._put(WATCH, made, made)
        return self._watch

    def handover(self) -> "HandoverPanel":
        """Return the panel of Hand-over."""
        if self._handover is None:
            from pemlo.gui.handover.panel import HandoverPanel  # noqa: PLC0415 - heavy to load and to make

            window = self._window
            made = self._handover = HandoverPanel(
                window.document, window.checker, window.outs, window.preferences, window.report, window.tables
            )
            made.shot_wanted.connect(lambda shot: window.pick((shot,)))
            made.shots_wanted.connect(window.pick)
            made.brief_wanted.connect(lambda: window.show_stage(BRIEF))
            made.render_wanted.connect(self._render_first)
            window.renderings.landed.connect(lambda done, _: made.on_rendered(done))
            self._put(HAND_OVER, made, made)
        return self._handover

    def _render_first(self, shot: str, frame: int, settings: "FrameSettings") -> None:
        """Have a first frame rendered; it becomes a trial, too."""
        self.trials().renders.render_one(shot, frame, settings)

    def _put(self, number: int, panel: QWidget, stage: Stage) -> None:
        """Put a panel in the place that was kept for it."""
        shown, place = self.currentIndex(), self.widget(number)
        assert place is not None
        self.removeWidget(place)
        place.deleteLater()
        self.insertWidget(number, panel)
        self.setCurrentIndex(shown)
        self._made[number] = stage
        stage.pick(self._window.picked)

    def open(self, number: int) -> None:
        """Open a stage, and give it the keys."""
        stage = self.panel(number)
        self.setCurrentIndex(number)
        stage.show_project(self._window.document.project, self._window.answer)
        if self._run_sheet is not None:  # the tape brackets what the sheet shows while it is open
            scale = self._run_sheet.sheet.scale
            shown = (scale.first_h, scale.last_h) if number == RUN_SHEET else (0.0, math.inf)
            self._window.tape.mark_shown(*shown)
        first: dict[int, QWidget] = {BRIEF: self._window.brief.shots}
        if self._trials is not None:
            first[TRIALS] = self._trials.table
        if self._judge is not None:
            first[JUDGE] = self._judge.canvas
        if self._trade is not None:
            first[TRADE] = self._trade.hours.chart
        if self._run_sheet is not None:
            first[RUN_SHEET] = self._run_sheet.sheet
        if self._watch is not None:
            first[WATCH] = self._watch.frames.view
        if self._handover is not None:
            first[HAND_OVER] = self._handover.launch.table
        first[number].setFocus()

    def _on_predicted(self, path: Path, beside: Path) -> None:
        """Show a predicted frame in Judge, beside what it is to be held against."""
        trade, window = self.trade(), self._window
        window.show_stage(JUDGE)
        window.pick((trade.shown_shot,))
        self.judge().choosing.show_prediction(path, f"predicted, no render: {trade.shown_settings}", beside)

    def _on_region_wanted(self, wanted: tuple[str, int, tuple[int, int, int, int]]) -> None:
        """Open the form of a ladder in Trials, of a region that was drawn in Judge."""
        shot, frame, region = wanted
        self._window.show_stage(TRIALS)
        self._window.pick((shot,))
        self.trials().ask_to_render(frame, region)


def say_stands(rail: Rail, project: "Project") -> None:
    """Say on the rail how far each stage has come."""
    for number, stands in enumerate(
        (brief_stands, trials_stands, judge_stands, trade_stands, run_stands, watch_stands, handover_stands)
    ):
        rail.buttons[number].say(stands(project))


def say_watched(rail: Rail, watched: "Watched") -> None:
    """Say on the rail what has come in."""
    came = watched.outlook.came
    rail.buttons[WATCH].say(f"{came.there} of {came.wanted} in")
