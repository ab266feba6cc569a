"""The frame of the window: verdict, tape, strip, rail, the open stage, and the line at the bottom. GUI thread."""

from collections.abc import Callable
from importlib import import_module
from typing import TYPE_CHECKING

from PySide6.QtCore import Qt, QTimer
from PySide6.QtGui import QCloseEvent, QDragEnterEvent, QDropEvent, QShowEvent
from PySide6.QtWidgets import (
    QApplication,
    QFrame,
    QHBoxLayout,
    QScrollArea,
    QVBoxLayout,
    QWidget,
)

from pemlo.app.document import Document
from pemlo.app.error_centre import ErrorCentre
from pemlo.app.export_service import ExportService
from pemlo.app.file_facts import FILES, FileFacts
from pemlo.app.film_known import FilmForecast
from pemlo.app.film_state import FilmState
from pemlo.app.jobs import Jobs
from pemlo.app.launch_checker import LaunchChecker
from pemlo.app.picture_places import base_folder
from pemlo.app.preferences import Preferences
from pemlo.app.recovery import Recovery
from pemlo.app.selection import Selection
from pemlo.app.small_farm import SmallFarm
from pemlo.app.table_reader import TableReader
from pemlo.app.trial_queue import TrialQueue
from pemlo.app.watcher import Watcher
from pemlo.core.cluster import cluster_of
from pemlo.core.errors import PemloError
from pemlo.core.files.written import when_written
from pemlo.core.progress import Monitor
from pemlo.gui import window_state
from pemlo.gui.brief.edit_form import EditReader
from pemlo.gui.brief.frames_folder import FramesFolder
from pemlo.gui.brief.panel import BriefPanel
from pemlo.gui.bug_box import show_bug
from pemlo.gui.common.background_bar import BackgroundBar
from pemlo.gui.common.dotted import show_terms_with
from pemlo.gui.common.glossary import show_glossary
from pemlo.gui.common.labels import rule
from pemlo.gui.common.moment_field import set_first_day
from pemlo.gui.common.problem_bar import ProblemBar
from pemlo.gui.common.rail import Rail
from pemlo.gui.common.strip import Strip
from pemlo.gui.common.strip_pictures import StripPictures
from pemlo.gui.common.tape import Tape
from pemlo.gui.common.theme import apply_theme
from pemlo.gui.common.verdict_bar import VerdictBar
from pemlo.gui.dressing import Dressing
from pemlo.gui.dropped_files import DroppedFiles
from pemlo.gui.film_shown import FilmShown
from pemlo.gui.frames_as_trials import FramesAsTrials
from pemlo.gui.gone_start import GoneStart
from pemlo.gui.menus import Menus
from pemlo.gui.news import News
from pemlo.gui.project_files import ProjectFiles
from pemlo.gui.qt_types import make_types
from pemlo.gui.rest_plans import RestPlans
from pemlo.gui.stages import BRIEF, HAND_OVER, JUDGE, STAGES, TRIALS, Stages, say_stands
from pemlo.gui.window import Window
from pemlo.gui.window_actions import show_where_seen, window_actions

if TYPE_CHECKING:
    from pemlo.app.appearance import Appearance
    from pemlo.app.table_reader import Unmatched
    from pemlo.core.arrivals.live_forecast import LiveForecast

STAGES_LOADED = "stages"
AFTER_SHOWN_MS = 50
LEAST_PX, SMALLEST_PX = (1000, 600), (480, 320)  # of what is in the window, and of the window
# What later stages need, and would hold up the hand that opens them.
HEAVY = (
    *("pemlo.core.cost.fit", "pemlo.core.pixels.display", "pemlo.core.trade.options"),
    *("pemlo.gui.trials.panel", "pemlo.gui.judge.panel", "pemlo.gui.trade.panel", "pemlo.gui.runsheet.panel"),
    *("pemlo.gui.watch.panel", "pemlo.gui.handover.panel"),
)


class MainWindow(Window):
    """The window of one document.

    All stages but the first are heavy: their panels are made when they are first opened, or asked for.
    """

    def __init__(self, document: Document, errors: ErrorCentre, preferences: Preferences) -> None:
        super().__init__()
        self.document, self.errors, self.preferences = document, errors, preferences
        self.jobs, self.selection = Jobs(), Selection(document)
        self.tables = TableReader(self.jobs, self.report, lambda: self.preferences.column_names)
        self.written = FileFacts(self.jobs, FILES, when_written)
        self.state = FilmState(document, self.jobs, self.written, lambda: base_folder(document.path))
        self.state.work_on(cluster_of(preferences.cluster))
        self.trial_queue = TrialQueue(document, self.jobs, lambda: self.state.film)
        self.recovery = Recovery(document, self.jobs)
        self.watcher, self.farm = Watcher(document, self.jobs, lambda: self.state.film), SmallFarm(self.jobs)
        self.checker = LaunchChecker(document, self.jobs, lambda: self.answer)
        self.exports = ExportService(document, self.jobs, self.state)
        self._asks_when_shown = False
        self.files = ProjectFiles(self)
        self.dropped = DroppedFiles(self, self.files.open_if_may)
        self.dressed = Dressing(self)
        self._lay_out()
        self.actions_table = window_actions(self, self.files)
        self.menus = Menus(self, self.files.fill_recent)
        self.shown = FilmShown(self)
        self._connect()
        self.setAcceptDrops(True)
        self.resize(1280, 800)
        self.setMinimumSize(*SMALLEST_PX)
        geometry = preferences.windows.state("geometry")
        if geometry is not None:
            self.restoreGeometry(geometry)
        window_state.restore(preferences.windows, (self.brief.tables,), (self.brief.shots, self.brief.machines))
        self._on_replaced()
        self.gone_start = GoneStart(self)
        self.frames_as_trials = FramesAsTrials(self)
        self.brief.start.show_recent(self.files.recent())

    def _lay_out(self) -> None:
        self.strip_pictures = StripPictures(self.document, self.jobs)
        self.verdict, self.tape, self.strip = VerdictBar(), Tape(), Strip(self.strip_pictures.of)
        self.strip_pictures.changed.connect(self.strip.update)
        self.problems = ProblemBar()
        self.rail = Rail((stage_kind.title, stage_kind.tip) for stage_kind in STAGES)
        self.brief = BriefPanel(self.document, self.report, self.tables)
        self.folder = FramesFolder(self.document, self.jobs, self.report, self.problems.also, self)
        self.edits = EditReader(self, self.document, self.jobs, self.report)
        self.stack: Stages = Stages(self, self.dropped.take)
        self.background = BackgroundBar(self.jobs)
        middle = QWidget()
        row = QHBoxLayout(middle)
        row.setContentsMargins(0, 0, 0, 0)
        row.setSpacing(0)
        row.addWidget(self.rail)
        row.addWidget(self.stack, 1)
        scrolled = QScrollArea()  # on a small screen, or with large text, nothing is squeezed
        scrolled.setWidgetResizable(True)
        self.setCentralWidget(scrolled)
        whole = QFrame()
        whole.setMinimumSize(*LEAST_PX)
        scrolled.setWidget(whole)
        column = QVBoxLayout(whole)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(0)
        for one in (self.verdict, self.tape, self.strip, rule(), self.problems):
            column.addWidget(one)
        column.addWidget(middle, 1)
        column.addWidget(self.background)

    def _connect(self) -> None:
        self.errors.trouble.connect(self.problems.tell)
        self.document.replaced.connect(self.tables.forget)
        self.tables.unmatched.connect(self._on_unmatched)
        self.errors.bug.connect(lambda details: show_bug(self, details))
        self.jobs.failed.connect(lambda _key, error: self.errors.report(error))
        self.document.changed.connect(self._on_changed)
        self.document.replaced.connect(self._on_replaced)
        self.state.changed.connect(self.shown.on_state)
        self.document.history.moved.connect(lambda _: self.shown.show_foot())
        self.watcher.looked.connect(self.shown.on_looked)
        self.watcher.changed.connect(self.shown.on_watching)
        self.farm.failed.connect(self.problems.tell)
        self.news, self.rest_plans = News(self, self.watcher), RestPlans(self)
        self.rail.chosen.connect(self.show_stage)
        self.strip.picked.connect(self.selection.pick)
        self.selection.changed.connect(self._on_picked)
        self.brief.picked.connect(self.pick)
        self.brief.where_wanted.connect(lambda: show_where_seen(self))
        start = self.brief.start
        start.folder_chosen.connect(self.folder.take)
        start.edit_wanted.connect(self.edits.ask)
        start.demo_wanted.connect(lambda: self.run(self.files.open_demo))
        start.project_wanted.connect(lambda path: self.run(lambda: self.files.open_chosen(path)))
        self.written.changed.connect(lambda: start.show_recent(self.files.recent()))

    def load_stages(self) -> None:
        """Load what the other stages need in the background."""

        def work(monitor: Monitor) -> None:
            for number, name in enumerate(HEAVY):
                monitor.step(number / len(HEAVY), "Loading the other stages")
                import_module(name)

        make_types()
        self.jobs.submit(STAGES_LOADED, "Loading the other stages", work, lambda _: None)

    def run(self, act: Callable[[], None]) -> None:
        """Run an action; expected trouble is reported and blocks nothing."""
        try:
            act()
        except PemloError as error:
            self.report(error)

    def report(self, error: PemloError) -> None:
        self.errors.report(error)

    def show_stage(self, number: int) -> None:
        self.rail.show_stage(number)
        self.stack.open(number)

    def _on_picked(self) -> None:
        names = self.selection.shots
        self.strip.pick(names)
        for stage in self.stack.made:
            stage.pick(names)

    def show_theme(self, name: str) -> None:
        self.show_appearance(self.preferences.appearance.having(theme=name))

    def show_appearance(self, appearance: "Appearance") -> None:
        self.preferences.appearance = appearance
        set_first_day(appearance.first_day)
        self.dressed.begin()

    @property
    def dressing(self) -> bool:
        """Whether another theme is being shown."""
        return self.dressed.under_way

    @property
    def answer(self) -> FilmForecast | None:
        answer, project = self.state.answer, self.document.project
        if answer is None or [s.name for s in answer.project.shots] != [s.name for s in project.shots]:
            return None
        return answer

    def _on_changed(self, fields: frozenset[str]) -> None:
        if fields != {"start"}:  # that is the clock, which settles nothing
            self.problems.clear()
        self.shown.show_now()
        say_stands(self.rail, self.document.project)

    def _on_replaced(self) -> None:
        project = self.document.project
        self.trial_queue.forget()  # they are of the film that was here before
        self.jobs.forget_not_done()
        self.written.forget()
        if self.stack.has(JUDGE):
            self.judge.forget()
        self.problems.clear()
        self.strip.show_project(project, None)
        if self.isVisible():
            self.state.ask()
        else:
            self._asks_when_shown = True  # the window comes up first
        # Judge and Trade are heavy to show: that is done when they are opened.
        for number in filter(self.stack.has, (BRIEF, TRIALS)):
            self.shown.show(number)
        self.show_stage(self.stack.currentIndex())
        self._on_picked()
        say_stands(self.rail, self.document.project)
        self.menus.refresh()

    def _on_unmatched(self, table: "Unmatched") -> None:
        from pemlo.gui.common.column_form import ColumnStep  # noqa: PLC0415 - only where a table is read

        ColumnStep(self, self.preferences, self.report, self.problems.also).on_unmatched(table)

    def plan_rest(self, live: "LiveForecast") -> None:
        self.run(lambda: self.rest_plans.show(live))

    def showEvent(self, event: QShowEvent) -> None:
        super().showEvent(event)
        if self._asks_when_shown:
            self._asks_when_shown = False
            QTimer.singleShot(AFTER_SHOWN_MS, self.state.ask)

    def dragEnterEvent(self, event: QDragEnterEvent) -> None:
        if event.mimeData().hasUrls():
            event.acceptProposedAction()

    def dropEvent(self, event: QDropEvent) -> None:
        paths = [url.toLocalFile() for url in event.mimeData().urls() if url.isLocalFile()]
        # In Judge pictures are only shown, elsewhere they become trials.
        take = self.dropped.take_in_judge if self.stack.currentIndex() == JUDGE else self.dropped.take
        # The drop is answered first: a question that stays open would hold up the program it came from.
        QTimer.singleShot(0, lambda: self.run(lambda: take(paths)))
        event.acceptProposedAction()

    def closeEvent(self, event: QCloseEvent) -> None:
        if not self.files.may_leave():
            event.ignore()
            return
        self.preferences.windows.keep_state("geometry", self.saveGeometry())
        window_state.keep(self.preferences.windows, (self.brief.tables,), (self.brief.shots, self.brief.machines))
        if self.stack.has(TRIALS):
            window_state.keep(self.preferences.windows, (self.trials.columns,), (self.trials.table,))
        if self.stack.has(HAND_OVER):
            window_state.keep(self.preferences.windows, (), (self.handover.launch.table,))
        self.trial_queue.stop()
        self.rest_plans.close()
        self.farm.stop()
        self.jobs.shut_down()
        self.watcher.close()
        self.checker.close()
        self.recovery.forget()
        # While the window is destroyed the history emits signals; their receivers may be gone by then.
        self.document.history.blockSignals(True)
        event.accept()


def make_window(document: Document, errors: ErrorCentre, preferences: Preferences) -> MainWindow:
    """Make the window, in the theme that was chosen last."""
    app = QApplication.instance()
    assert isinstance(app, QApplication)
    apply_theme(app, preferences.appearance)
    set_first_day(preferences.appearance.first_day)
    show_terms_with(show_glossary)
    window = MainWindow(document, errors, preferences)
    window.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose, on=False)
    return window
