"""The frame of the window: verdict, tape, strip, rail, the open stage, and the line at the bottom. GUI thread."""

from collections.abc import Callable
from pathlib import Path

from PySide6.QtCore import Qt, QTimer
from PySide6.QtGui import QAction, QCloseEvent, QDragEnterEvent, QDropEvent, QKeySequence
from PySide6.QtWidgets import (
    QApplication,
    QFrame,
    QHBoxLayout,
    QMainWindow,
    QMenu,
    QStackedWidget,
    QVBoxLayout,
    QWidget,
)

from pemlo.app.actions import Action
from pemlo.app.document import Document
from pemlo.app.error_centre import ErrorCentre
from pemlo.app.forecaster import Answer, Forecaster
from pemlo.app.jobs import Jobs
from pemlo.app.planner import Planner
from pemlo.app.preferences import Preferences
from pemlo.app.recovery import Recovery
from pemlo.app.renderings import RenderQueue
from pemlo.core.cost.next_trial import Advice
from pemlo.core.errors import PemloError
from pemlo.core.images.header import PICTURE_ENDINGS
from pemlo.core.progress import Monitor
from pemlo.gui.brief import presenter as brief_presenter
from pemlo.gui.brief.panel import BriefPanel
from pemlo.gui.common.background_bar import BackgroundBar
from pemlo.gui.common.labels import rule
from pemlo.gui.common.problem_bar import ProblemBar
from pemlo.gui.common.rail import Rail
from pemlo.gui.common.strip import Strip
from pemlo.gui.common.tape import Tape
from pemlo.gui.common.theme import apply_theme
from pemlo.gui.common.verdict_bar import VerdictBar
from pemlo.gui.judge import presenter as judge_presenter
from pemlo.gui.judge.panel import JudgePanel
from pemlo.gui.project_files import ProjectFiles
from pemlo.gui.trade import presenter as trade_presenter
from pemlo.gui.trade.panel import TradePanel
from pemlo.gui.trials import presenter as trials_presenter
from pemlo.gui.trials.dropped_pictures import DroppedPictures
from pemlo.gui.trials.panel import TrialsPanel
from pemlo.gui.trials.pictures import base_folder
from pemlo.gui.window_actions import MENUS, window_actions

STAGES = (
    ("Brief", "What is due: shots, delivery, machines"),
    ("Trials", "What has been timed, and what to time next"),
    ("Judge", "What can be seen, and what passes"),
    ("Trade", "What to give up, and for how many hours"),
)
BRIEF, TRIALS, JUDGE, TRADE = range(len(STAGES))
PLOTS = "plots"


class MainWindow(QMainWindow):
    """The window of one document."""

    def __init__(self, document: Document, errors: ErrorCentre, preferences: Preferences) -> None:
        super().__init__()
        self.document, self.errors, self.preferences = document, errors, preferences
        self.jobs = Jobs()
        self.renderings = RenderQueue(self.jobs)
        self.forecaster = Forecaster(document, self.jobs)
        self.recovery = Recovery(document, self.jobs)
        self.files = ProjectFiles(self)
        self.picked: tuple[str, ...] = ()
        self._lay_out()
        self.actions_table = window_actions(self)
        self.menus = self._make_menus()
        self._connect()
        self.setAcceptDrops(True)
        self.resize(1280, 800)
        self.setMinimumSize(1000, 640)
        self._restore()
        self._on_replaced()

    def _lay_out(self) -> None:
        self.verdict, self.tape, self.strip = VerdictBar(), Tape(), Strip()
        self.problems = ProblemBar()
        self.rail = Rail(STAGES)
        self.brief = BriefPanel(self.document, self.report)
        self.trials = TrialsPanel(self.document, self.jobs, self.report)
        self.judge = JudgePanel(self.document, self.jobs, self.preferences, self.report)
        planner = Planner(self.document, self.jobs, lambda: base_folder(self.document.path))
        self.trade = TradePanel(self.document, self.jobs, planner, self.report, self.pick)
        self.pictures = DroppedPictures(self, self.document, self.jobs, self.preferences, self.report)
        self.stack = QStackedWidget()
        self.panels = (self.brief, self.trials, self.judge, self.trade)
        for panel in self.panels:
            self.stack.addWidget(panel)
        self.background = BackgroundBar(self.jobs)
        middle = QWidget()
        row = QHBoxLayout(middle)
        row.setContentsMargins(0, 0, 0, 0)
        row.setSpacing(0)
        row.addWidget(self.rail)
        row.addWidget(self.stack, 1)
        whole = QFrame()
        column = QVBoxLayout(whole)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(0)
        for one in (self.verdict, self.tape, self.strip, rule(), self.problems):
            column.addWidget(one)
        column.addWidget(middle, 1)
        column.addWidget(self.background)
        self.setCentralWidget(whole)

    def _make_menus(self) -> dict[str, QMenu]:
        menus = {name: self.menuBar().addMenu(name) for name in MENUS}
        self._shown_actions: list[tuple[QAction, Action]] = []
        for action in self.actions_table:
            made = QAction(action.text, self)
            made.setToolTip(action.tip)
            made.setStatusTip(action.tip)
            if action.shortcut:
                made.setShortcut(QKeySequence(action.shortcut))
            made.triggered.connect(lambda _=False, action=action: self.run(action.run))
            menus[action.menu].addAction(made)
            self._shown_actions.append((made, action))
        self._recent_menu = QMenu("Recent projects", self)
        menus["Project"].insertMenu(menus["Project"].actions()[3], self._recent_menu)
        self._recent_menu.aboutToShow.connect(lambda: self.files.fill_recent(self._recent_menu))
        self.document.history.canUndoChanged.connect(lambda _: self._refresh_actions())
        self.document.history.indexChanged.connect(lambda _: self._refresh_actions())
        self.document.history.cleanChanged.connect(lambda _: self._name_window())
        return menus

    def _connect(self) -> None:
        self.errors.trouble.connect(self._on_trouble)
        self.errors.bug.connect(self.files.show_bug)
        self.jobs.failed.connect(lambda _key, error: self.errors.report(error))
        self.document.changed.connect(self._on_changed)
        self.document.replaced.connect(self._on_replaced)
        self.forecaster.answered.connect(self._on_answered)
        self.forecaster.advised.connect(self._on_advised)
        self.forecaster.outdated.connect(self.tape.mark_stale)
        self.rail.chosen.connect(self.show_stage)
        self.strip.picked.connect(self.pick)
        self.brief.picked.connect(self.pick)
        self.trials.shot_wanted.connect(lambda shot: self.pick((shot,)))
        self.trials.files_wanted.connect(lambda names: self.run(lambda: self.files.take_dropped(names)))
        self.trials.render_wanted.connect(self.renderings.add)
        self.judge.region_wanted.connect(self._on_region_wanted)
        self.trade.side.look.written.connect(self._on_foretold)
        for stage in (self.judge, self.trade):
            stage.trial_wanted.connect(lambda one: self.trials.render_one(one.shot, one.frame, one.settings))
        self.renderings.landed.connect(lambda done, header: self.run(lambda: self.trials.take_rendered(done, header)))
        self.renderings.refined.connect(self.trials.card.show_refining)
        self.renderings.changed.connect(lambda: self.trials.card.show_waiting(self.renderings.waiting))

    def _on_foretold(self, path: Path, beside: Path) -> None:
        """Show a frame that was foretold in Judge, beside what it is to be held against."""
        self.show_stage(JUDGE)
        self.pick((self.trade.shown_shot,))
        self.judge.show_foretold(path, f"predicted, no render: {self.trade.shown_settings}", beside)

    def _on_region_wanted(self, wanted: tuple[str, int, tuple[int, int, int, int]]) -> None:
        """Open the form of a ladder in Trials, of a region that was drawn in Judge."""
        shot, frame, region = wanted
        self.show_stage(TRIALS)
        self.pick((shot,))
        self.trials.ask_to_render(frame, region)

    def _on_trouble(self, message: str, hint: str) -> None:
        self.problems.tell(message, hint)

    def load_plots(self) -> None:
        """Load the library of the plots in the background, then put the plots in."""

        def work(monitor: Monitor) -> None:
            monitor.step(0.0, "Loading the plots")
            import pyqtgraph  # noqa: F401, PLC0415 - heavy to load, and the window comes up first

        self.jobs.submit(PLOTS, "Loading the plots", work, lambda _: self.trials.add_plots())

    def run(self, act: Callable[[], None]) -> None:
        """Run an action; expected trouble is told and blocks nothing."""
        try:
            act()
        except PemloError as error:
            self.report(error)

    def report(self, error: PemloError) -> None:
        self.errors.report(error)

    def show_stage(self, number: int) -> None:
        self.stack.setCurrentIndex(number)
        self.rail.show_stage(number)
        self._show(number)
        (self.brief.shots, self.trials.table, self.judge.canvas, self.trade.hours.chart)[number].setFocus()

    def pick(self, names: tuple[str, ...]) -> None:
        """Pick shots on the strip and in every stage."""
        if names == self.picked:
            return
        self.picked = names
        self.strip.pick(names)
        for panel in self.panels:
            panel.pick(names)

    def show_theme(self, name: str) -> None:
        app = QApplication.instance()
        assert isinstance(app, QApplication)
        apply_theme(app, name)
        self.preferences.theme = name
        if self.trials.ladder_plot is not None:
            self.trials.add_plots()

    def _answer(self) -> Answer | None:
        """Return the last answer, if it is of the shots and trials that the document has now."""
        answer, project = self.forecaster.answer, self.document.project
        if answer is None or [s.name for s in answer.project.shots] != [s.name for s in project.shots]:
            return None
        return answer

    def _show(self, number: int) -> None:
        """Bring the open stage up to date; the others are when they are opened."""
        self.panels[number].show_project(self.document.project, self._answer())

    def _on_changed(self, fields: frozenset[str]) -> None:  # noqa: ARG002 - every field shows in some place
        project = self.document.project
        names = tuple(name for name in self.picked if any(shot.name == name for shot in project.shots))
        self.problems.clear()
        answer = self._answer()
        self.strip.show_project(project, None if answer is None else answer.forecast)
        self._show(self.stack.currentIndex())
        if names != self.picked:
            self.pick(names or ((project.shots[0].name,) if project.shots else ()))
        self._say_stands()

    def _on_replaced(self) -> None:
        project = self.document.project
        self.renderings.forget()  # they are of the film that was here before
        self.jobs.forget_not_done()
        self.picked = ()
        self.problems.clear()
        self.strip.show_project(project, None)
        self.forecaster.ask()
        for number in range(len(STAGES)):
            self._show(number)
        self.show_stage(self.stack.currentIndex())
        if project.shots:
            self.pick((project.shots[0].name,))
        self._say_stands()
        self._name_window()
        self._refresh_actions()

    def _on_answered(self, answer: Answer) -> None:
        self.verdict.show_forecast(answer.project, answer.forecast)
        self.tape.show_forecast(answer.project, answer.forecast)
        self.strip.show_project(answer.project, answer.forecast)
        self._show(self.stack.currentIndex())
        count = answer.known.fit.timed_trials
        words = f"Forecast from 1 000 draws of {count} trials" if count else "No trial yet"
        undo = self.document.history.undoText()
        self.background.rest(words + (f"  ·  Undo: {undo}" if undo else ""))

    def _on_advised(self, advice: tuple[Advice, ...]) -> None:
        self.trials.show_advice(advice)

    def _say_stands(self) -> None:
        self.rail.buttons[BRIEF].say(brief_presenter.stands(self.document.project))
        self.rail.buttons[TRIALS].say(trials_presenter.stands(self.document.project))
        self.rail.buttons[JUDGE].say(judge_presenter.stands(self.document.project))
        self.rail.buttons[TRADE].say(trade_presenter.stands(self.document.project))

    def _name_window(self) -> None:
        kept = self.document.path.name if self.document.path is not None else "not saved yet"
        changed = " (changed)" if self.document.unsaved else ""
        self.setWindowTitle(f"{self.document.project.title} – {kept}{changed} – Pemlo")

    def _refresh_actions(self) -> None:
        history = self.document.history
        named = {"undo": f"Undo: {history.undoText()}", "redo": f"Redo: {history.redoText()}"}
        for made, action in self._shown_actions:
            made.setEnabled(action.enabled())
            if action.name in named:
                made.setText(named[action.name] if action.enabled() else action.text)
        self._name_window()

    def _restore(self) -> None:
        geometry = self.preferences.state("geometry")
        if geometry is not None:
            self.restoreGeometry(geometry)
        for splitter in (self.brief.tables, self.trials.columns):
            state = self.preferences.state(splitter.objectName())
            if state is not None:
                splitter.restoreState(state)
        for table in (self.brief.shots, self.brief.machines, self.trials.table):
            state = self.preferences.state(f"columns of {table.objectName()}")
            if state is not None:
                table.horizontalHeader().restoreState(state)

    def _keep_states(self) -> None:
        self.preferences.keep_state("geometry", self.saveGeometry())
        for splitter in (self.brief.tables, self.trials.columns):
            self.preferences.keep_state(splitter.objectName(), splitter.saveState())
        for table in (self.brief.shots, self.brief.machines, self.trials.table):
            state = table.horizontalHeader().saveState()
            self.preferences.keep_state(f"columns of {table.objectName()}", state)

    def dragEnterEvent(self, event: QDragEnterEvent) -> None:
        if event.mimeData().hasUrls():
            event.acceptProposedAction()

    def dropEvent(self, event: QDropEvent) -> None:
        paths = [url.toLocalFile() for url in event.mimeData().urls() if url.isLocalFile()]
        # The drop is answered first: a question that stays open would hold up the program it came from.
        QTimer.singleShot(0, lambda: self.run(lambda: self._take_dropped(paths)))
        event.acceptProposedAction()

    def _take_dropped(self, names: list[str]) -> None:
        """Take files: in Judge pictures are only looked at, elsewhere they become trials."""
        pictures = [Path(name) for name in names if name.lower().endswith(PICTURE_ENDINGS)]
        if self.stack.currentIndex() == JUDGE and len(pictures) == len(names):
            self.judge.show_files(pictures)
        else:
            self.files.take_dropped(names)

    def closeEvent(self, event: QCloseEvent) -> None:
        if not self.files.may_leave():
            event.ignore()
            return
        self._keep_states()
        self.renderings.close()
        self.jobs.shut_down()
        self.recovery.forget()
        # A history that is taken down tells of it, when half the window is gone already.
        self.document.history.blockSignals(True)
        event.accept()


def make_window(document: Document, errors: ErrorCentre, preferences: Preferences) -> MainWindow:
    """Make the window, in the theme that was chosen last."""
    app = QApplication.instance()
    assert isinstance(app, QApplication)
    apply_theme(app, preferences.theme)
    window = MainWindow(document, errors, preferences)
    window.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose, on=False)
    return window
