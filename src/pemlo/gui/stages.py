"""The stages of the window: each panel is made when it is first opened, or asked for. GUI thread."""

import math
from collections.abc import Callable, Iterable, Sequence
from dataclasses import dataclass
from pathlib import Path
from typing import TYPE_CHECKING, Any, Protocol

from PySide6.QtCore import QEvent, QSize, Qt
from PySide6.QtGui import QResizeEvent
from PySide6.QtWidgets import QFrame, QScrollArea, QStackedWidget, QWidget

from pemlo.core.project.ceiling import ceiling_of
from pemlo.core.project.project import Project
from pemlo.core.units import counted, round_figures
from pemlo.gui import help_words, window_state
from pemlo.gui.common.rail import Rail
from pemlo.gui.common.reading_order import set_reading_order
from pemlo.gui.window import BRIEF, HAND_OVER, JUDGE, RUN_SHEET, TRADE, TRIALS, WATCH, Window

if TYPE_CHECKING:
    from pemlo.app.film_known import FilmForecast
    from pemlo.app.watcher import Watched
    from pemlo.core.project.project import Project
    from pemlo.gui.brief.panel import BriefPanel
    from pemlo.gui.handover.panel import HandoverPanel
    from pemlo.gui.judge.panel import JudgePanel
    from pemlo.gui.runsheet.panel import RunSheetPanel
    from pemlo.gui.trade.panel import TradePanel
    from pemlo.gui.trials.panel import TrialsPanel
    from pemlo.gui.watch.panel import WatchPanel


def brief_stands(project: Project) -> str:
    """Return how many shots and frames there are."""
    frames = sum(shot.frame_count for shot in project.on_screen)
    return (
        f"{counted(len(project.on_screen), 'shot')}, {round_figures(frames, 6)} fr" if project.shots else "no shots yet"
    )


def trials_stands(project: Project) -> str:
    """Return how many trials count, and which shots have none."""
    count = len(project.counted_trials)
    if not count:
        return "no trials yet"
    timed = {trial.shot for trial in project.counted_trials}
    untimed = [shot.name for shot in project.shots if shot.name not in timed]
    if not untimed:
        return f"{count} timed"
    return f"{count} timed, {untimed[0]} not" if len(untimed) == 1 else f"{count} timed, {len(untimed)} not"


def judge_stands(project: Project) -> str:
    """Return of how many shots the ceiling is known."""
    marked = any(trial.mark for trial in project.trials)
    known = sum(ceiling_of(project, shot.name).value is not None for shot in project.shots) if marked else 0
    return f"limits for {known} of {len(project.shots)}" if project.shots else "no shots yet"


def trade_stands(project: Project) -> str:
    """Return how many shots are planned otherwise than asked."""
    count = sum(shot.plan is not None and shot.plan != shot.asked for shot in project.shots)
    return f"{count} of {len(project.shots)} changed" if count else "as asked"


def run_stands(project: Project) -> str:
    """Return how many machines there are."""
    count = sum(machine.count for machine in project.machines)
    return counted(count, "machine") if count else "no machine"


def handover_stands(project: Project) -> str:
    """Return whether a launch was typed, and lines that are not ticked off."""
    left = sum(not line.done for line in project.own_checks)
    if left:
        return f"{counted(left, 'line')} to tick off"
    return f"{counted(len(project.launch), 'launch row')}" if project.launch else "no launch entered"


def watch_stands(project: Project) -> str:
    """Return whether it is known where frames arrive."""
    known = bool(project.watching.place) or any(shot.place for shot in project.shots)
    return "looking" if known else "nothing watched"


class Stage(Protocol):
    """What every stage's panel can do."""

    def show_project(self, project: "Project", answer: "FilmForecast | None") -> None:
        """Show a project, and the forecast that goes with it if there is one."""

    def pick(self, names: tuple[str, ...]) -> None:
        """Show other shots."""


def _brief(stages: "Stages") -> "BriefPanel":
    return stages.window_of.brief


def _trials(stages: "Stages") -> "TrialsPanel":
    from pemlo.gui.trials.panel import TrialsPanel  # noqa: PLC0415 - heavy to load and to make

    window = stages.window_of
    made = TrialsPanel(window.document, window.jobs, window.trial_queue, window.report, window.tables)
    made.shot_wanted.connect(lambda shot: window.pick((shot,)))
    made.files_wanted.connect(lambda names: window.run(lambda: stages.take_files(names)))
    made.offered.connect(window.problems.tell)
    window.trial_queue.refined.connect(made.queue.show_refining)
    window_state.restore(window.preferences.windows, (made.columns,), (made.table,))
    made.show_project(window.document.project, window.answer)
    made.show_advice(window.state.advice)
    made.renders.offer_finished()
    return made


def _judge(stages: "Stages") -> "JudgePanel":
    from pemlo.gui.judge.panel import JudgePanel  # noqa: PLC0415 - heavy to load and to make

    window = stages.window_of
    made = JudgePanel(window.document, window.jobs, window.written, window.preferences, window.report)
    made.shot_wanted.connect(lambda shot: window.pick((shot,)))
    made.region_wanted.connect(stages.on_region_wanted)
    made.offered.connect(window.problems.tell)
    made.trial_wanted.connect(lambda one: window.trials.renders.render_one(one.shot, one.frame, one.settings))
    return made


def _trade(stages: "Stages") -> "TradePanel":
    from pemlo.app.planner import Planner  # noqa: PLC0415 - heavy to load and to make
    from pemlo.gui.trade.panel import TradePanel  # noqa: PLC0415 - as above

    window = stages.window_of
    planner = Planner(window.state, window.jobs)
    made = TradePanel(window.document, window.jobs, window.selection, planner, window.report)
    made.side.preview.written.connect(stages.on_predicted)
    made.trials_wanted.connect(lambda: window.show_stage(TRIALS))
    made.trial_wanted.connect(lambda one: window.trials.renders.render_one(one.shot, one.frame, one.settings))
    return made


def _run_sheet(stages: "Stages") -> "RunSheetPanel":
    from pemlo.gui.runsheet.panel import RunSheetPanel  # noqa: PLC0415 - heavy to load and to make

    window = stages.window_of
    made = RunSheetPanel(window.document, window.jobs, window.selection, window.report)
    made.trials_wanted.connect(lambda: window.show_stage(TRIALS))
    made.shot_wanted.connect(lambda shot: window.pick((shot,)))
    made.sheet.scale_changed.connect(window.tape.mark_shown)
    return made


def _watch(stages: "Stages") -> "WatchPanel":
    from pemlo.gui.watch.panel import WatchPanel  # noqa: PLC0415 - heavy to load and to make

    window = stages.window_of
    made = WatchPanel(window.document, window.jobs, window.selection, window.watcher, window.farm, window.report)
    made.shot_wanted.connect(lambda shot: window.pick((shot,)))
    made.plan_wanted.connect(window.plan_rest)
    return made


def _handover(stages: "Stages") -> "HandoverPanel":
    from pemlo.gui.handover.panel import HandoverPanel  # noqa: PLC0415 - heavy to load and to make

    window = stages.window_of
    made = HandoverPanel(
        *(window.document, window.selection, window.checker, window.exports, window.preferences, window.report),
        window.tables,
    )
    made.shot_wanted.connect(lambda shot: window.pick((shot,)))
    made.shots_wanted.connect(window.pick)
    window_state.restore(window.preferences.windows, (), (made.launch.table,))
    made.brief_wanted.connect(lambda: window.show_stage(BRIEF))
    # A first frame becomes a trial, too; the panel of trials is made only then.
    made.render_wanted.connect(
        lambda shot, frame, settings: window.trials.renders.render_one(shot, frame, settings)  # noqa: PLW0108 - as said
    )
    window.trial_queue.landed.connect(lambda found: made.first_frames.on_landed(found))  # noqa: PLW0108 - as above
    return made


@dataclass(frozen=True)
class StageKind:
    """A stage.

    Attributes
    ----------
    title, tip, help : str
        What it is called, what it is for in a line, and at length.
    stands : callable
        Says how far it is.
    make : callable
        Makes its panel, when it is first wanted.
    focus : callable
        Returns what of the panel has the keys when it is opened.
    """

    title: str
    tip: str
    help: str
    stands: "Callable[[Project], str]"
    make: "Callable[[Stages], Any]"
    focus: Callable[[Any], QWidget]


STAGES = (
    StageKind(
        "Brief",
        "What is due: shots, delivery, machines",
        help_words.BRIEF,
        brief_stands,
        _brief,
        lambda panel: panel.first_field,
    ),
    StageKind(
        "Trials",
        "What has been timed, and what to time next",
        help_words.TRIALS,
        trials_stands,
        _trials,
        lambda panel: panel.table,
    ),
    StageKind(
        "Judge", "What can be seen, and what passes", help_words.JUDGE, judge_stands, _judge, lambda panel: panel.canvas
    ),
    StageKind(
        "Trade",
        "What to give up, and for how many hours",
        help_words.TRADE,
        trade_stands,
        _trade,
        lambda panel: panel.hours.chart,
    ),
    StageKind(
        "Run sheet",
        "Who renders when, and what would be done sooner",
        help_words.RUN_SHEET,
        run_stands,
        _run_sheet,
        lambda panel: panel.sheet,
    ),
    StageKind(
        "Watch",
        "What has come in, and when the rest is done",
        help_words.WATCH,
        watch_stands,
        _watch,
        lambda panel: panel.frames.view,
    ),
    StageKind(
        "Hand-over",
        "Checked before the launch, explained, delivered",
        help_words.HAND_OVER,
        handover_stands,
        _handover,
        lambda panel: panel.launch.table,
    ),
)
__all__ = ["BRIEF", "HAND_OVER", "JUDGE", "RUN_SHEET", "STAGES", "TRADE", "TRIALS", "WATCH", "Stages"]


class Stages(QStackedWidget):
    """Holds the panels that were made, and an empty place for each of the others.

    Attributes
    ----------
    window_of : Window
    take_files : callable
        Takes files that somebody dropped on a panel.
    """

    def __init__(self, window: Window, take_files: Callable[[Sequence[str]], None]) -> None:
        super().__init__()
        self.window_of = window
        self.take_files = take_files
        self._made: dict[int, Stage] = {BRIEF: window.brief}
        for place in (_scrolled(window.brief), *(QWidget() for _ in STAGES[1:])):
            self.addWidget(place)

    @property
    def made(self) -> Iterable[Stage]:
        """Panels that were made."""
        return self._made.values()

    def has(self, number: int) -> bool:
        """Whether the panel of a stage was made."""
        return number in self._made

    def panel(self, number: int) -> Any:  # noqa: ANN401 - `Window` says which panel each is
        """Return the panel of a stage; made now if it is asked for first."""
        if number not in self._made:
            made = STAGES[number].make(self)
            if number not in self._made:  # a stage may ask for another while it is made
                self._put(number, made)
        return self._made[number]

    def _put(self, number: int, panel: Any) -> None:  # noqa: ANN401 - as above
        """Put a panel in the place that was kept for it."""
        shown, place = self.currentIndex(), self.widget(number)
        assert place is not None
        self.removeWidget(place)
        place.deleteLater()
        self.insertWidget(number, _scrolled(panel))
        self.setCurrentIndex(shown)
        self._made[number] = panel
        set_reading_order(panel)
        panel.pick(self.window_of.picked)

    def open(self, number: int) -> None:
        """Open a stage, and give it the keys."""
        window, stage = self.window_of, self.panel(number)
        self.setCurrentIndex(number)
        stage.show_project(window.document.project, window.answer)
        if self.has(RUN_SHEET):  # the tape brackets what the sheet shows while it is open
            scale = window.run_sheet.sheet.scale
            shown = (scale.first_h, scale.last_h) if number == RUN_SHEET else (0.0, math.inf)
            window.tape.mark_shown(*shown)
        STAGES[number].focus(stage).setFocus()

    def on_predicted(self, path: Path, beside: Path) -> None:
        """Show a predicted frame in Judge, beside what it is to be held against."""
        window = self.window_of
        trade = window.trade
        window.show_stage(JUDGE)
        window.pick((trade.shown_shot,))
        window.judge.choosing.show_prediction(path, f"predicted, no render: {trade.shown_settings}", beside)

    def on_region_wanted(self, wanted: tuple[str, int, tuple[int, int, int, int]]) -> None:
        """Open the form of a ladder in Trials, of a region that was drawn in Judge."""
        shot, frame, region = wanted
        self.window_of.show_stage(TRIALS)
        self.window_of.pick((shot,))
        self.window_of.trials.ask_to_render(frame, region)


class _Room(QWidget):
    """Gives a panel all the room there is, and asks for no more than the least that it needs.

    An area that holds the panel itself would give it the height that it would like, and scroll where it need not.
    """

    def __init__(self, panel: QWidget) -> None:
        super().__init__()
        self._panel = panel
        panel.setParent(self)

    def minimumSizeHint(self) -> QSize:
        least, layout = self._panel.minimumSizeHint(), self._panel.layout()
        wide = max(self.width(), least.width())
        high = layout.minimumHeightForWidth(wide) if layout is not None and layout.hasHeightForWidth() else 0
        return QSize(least.width(), max(high, least.height()))

    def event(self, event: QEvent) -> bool:
        if event.type() == QEvent.Type.LayoutRequest:
            self.updateGeometry()
        return super().event(event)

    def resizeEvent(self, _event: QResizeEvent) -> None:
        self._panel.resize(self.size())


def _scrolled(panel: QWidget) -> QScrollArea:
    """Return a panel in an area that scrolls where the window is smaller than what the panel needs."""
    area = QScrollArea()
    area.setWidgetResizable(True)
    area.setFrameShape(QFrame.Shape.NoFrame)
    area.setFocusPolicy(Qt.FocusPolicy.NoFocus)
    area.setWidget(_Room(panel))
    return area


def say_stands(rail: Rail, project: "Project") -> None:
    """Say on the rail how far each stage has come."""
    for button, stage in zip(rail.buttons, STAGES, strict=True):
        button.say(stage.stands(project))


def say_watched(rail: Rail, watched: "Watched") -> None:
    """Say on the rail what has come in."""
    snapshot = watched.live_forecast.snapshot
    rail.buttons[WATCH].say(f"{snapshot.done_count} of {snapshot.wanted} in")
