"""What the parts of the window may ask of it. GUI thread."""

from collections.abc import Callable
from typing import TYPE_CHECKING, Any, Protocol

from PySide6.QtWidgets import QMainWindow, QWidget

if TYPE_CHECKING:
    from pemlo.app.actions import Action
    from pemlo.app.appearance import Appearance
    from pemlo.app.document import Document
    from pemlo.app.export_service import ExportService
    from pemlo.app.file_facts import FileFacts
    from pemlo.app.film_known import FilmForecast
    from pemlo.app.film_state import FilmState
    from pemlo.app.jobs import Jobs
    from pemlo.app.launch_checker import LaunchChecker
    from pemlo.app.preferences import Preferences
    from pemlo.app.recovery import Recovery
    from pemlo.app.selection import Selection
    from pemlo.app.small_farm import SmallFarm
    from pemlo.app.table_reader import TableReader
    from pemlo.app.trial_queue import TrialQueue
    from pemlo.app.watcher import Watcher
    from pemlo.core.arrivals.live_forecast import LiveForecast
    from pemlo.core.errors import PemloError
    from pemlo.gui.brief.edit_form import EditReader
    from pemlo.gui.brief.frames_folder import FramesFolder
    from pemlo.gui.brief.panel import BriefPanel
    from pemlo.gui.common.background_bar import BackgroundBar
    from pemlo.gui.common.problem_bar import ProblemBar
    from pemlo.gui.common.rail import Rail
    from pemlo.gui.common.strip import Strip
    from pemlo.gui.common.tape import Tape
    from pemlo.gui.common.verdict_bar import VerdictBar
    from pemlo.gui.handover.panel import HandoverPanel
    from pemlo.gui.judge.panel import JudgePanel
    from pemlo.gui.runsheet.panel import RunSheetPanel
    from pemlo.gui.trade.panel import TradePanel
    from pemlo.gui.trials.panel import TrialsPanel
    from pemlo.gui.watch.panel import WatchPanel


BRIEF, TRIALS, JUDGE, TRADE, RUN_SHEET, WATCH, HAND_OVER = range(7)


class Panels(Protocol):
    """The panels of the stages, each made when it is first asked for."""

    def has(self, number: int) -> bool:
        """Whether the panel of a stage was made."""

    def panel(self, number: int) -> Any:  # noqa: ANN401 - `Window` says which panel each is
        """Return the panel of a stage."""

    def currentIndex(self) -> int:
        """Return which stage is open."""

    def currentWidget(self) -> QWidget | None:
        """Return what is shown of the open stage."""


class Window(QMainWindow):
    """The window as its parts know it; `MainWindow` is the one there is."""

    document: "Document"
    preferences: "Preferences"
    jobs: "Jobs"
    written: "FileFacts"
    state: "FilmState"
    recovery: "Recovery"
    trial_queue: "TrialQueue"
    watcher: "Watcher"
    farm: "SmallFarm"
    tables: "TableReader"
    checker: "LaunchChecker"
    exports: "ExportService"
    problems: "ProblemBar"
    brief: "BriefPanel"
    folder: "FramesFolder"
    edits: "EditReader"
    stack: Panels
    actions_table: "tuple[Action, ...]"
    selection: "Selection"
    tape: "Tape"
    verdict: "VerdictBar"
    strip: "Strip"
    rail: "Rail"
    background: "BackgroundBar"

    @property
    def trials(self) -> "TrialsPanel":
        """The panel of Trials."""
        panel: TrialsPanel = self.stack.panel(TRIALS)
        return panel

    @property
    def judge(self) -> "JudgePanel":
        """The panel of Judge."""
        panel: JudgePanel = self.stack.panel(JUDGE)
        return panel

    @property
    def trade(self) -> "TradePanel":
        """The panel of Trade."""
        panel: TradePanel = self.stack.panel(TRADE)
        return panel

    @property
    def run_sheet(self) -> "RunSheetPanel":
        """The panel of Run sheet."""
        panel: RunSheetPanel = self.stack.panel(RUN_SHEET)
        return panel

    @property
    def watch(self) -> "WatchPanel":
        """The panel of Watch."""
        panel: WatchPanel = self.stack.panel(WATCH)
        return panel

    @property
    def handover(self) -> "HandoverPanel":
        """The panel of Hand-over."""
        panel: HandoverPanel = self.stack.panel(HAND_OVER)
        return panel

    @property
    def answer(self) -> "FilmForecast | None":
        """The last forecast, if it is of the shots that the document has now."""
        raise NotImplementedError

    def run(self, act: Callable[[], None]) -> None:
        """Run an action; expected trouble is reported and blocks nothing."""
        raise NotImplementedError

    def report(self, error: "PemloError") -> None:
        """Tell of trouble."""
        raise NotImplementedError

    def show_stage(self, number: int) -> None:
        """Open a stage."""
        raise NotImplementedError

    def show_appearance(self, appearance: "Appearance") -> None:
        """Show the program as a person wants it, and remember that."""
        raise NotImplementedError

    def show_theme(self, name: str) -> None:
        """Show another theme."""
        raise NotImplementedError

    @property
    def picked(self) -> tuple[str, ...]:
        """The shots that are picked."""
        return self.selection.shots

    def pick(self, names: tuple[str, ...]) -> None:
        """Pick shots on the strip and in every stage."""
        self.selection.pick(names)

    def plan_rest(self, found: "LiveForecast") -> None:
        """Plan what is left of a film."""
        raise NotImplementedError
