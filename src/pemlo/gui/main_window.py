"""The frame of the window: verdict, tape, strip, rail, the open stage, and the line at the bottom. GUI thread."""

from collections.abc import Callable
from functools import cached_property
from importlib import import_module
from pathlib import Path
from typing import TYPE_CHECKING, Protocol

from PySide6.QtCore import Qt, QTimer
from PySide6.QtGui import QAction, QCloseEvent, QDragEnterEvent, QDropEvent, QKeySequence
from PySide6.QtWidgets import (
    QApplication,
    QFrame,
    QHBoxLayout,
    QMainWindow,
    QMenu,
    QSplitter,
    QStackedWidget,
    QTableView,
    QVBoxLayout,
    QWidget,
)

from pemlo.app.actions import Action
from pemlo.app.document import Document
from pemlo.app.error_centre import ErrorCentre
from pemlo.app.file_facts import FILES, FileFacts, when_written
from pemlo.app.forecaster import FilmForecast, Forecaster
from pemlo.app.jobs import Jobs
from pemlo.app.preferences import Preferences
from pemlo.app.recovery import Recovery
from pemlo.app.renderings import RenderQueue
from pemlo.core.errors import PemloError
from pemlo.core.files.header import PICTURE_ENDINGS
from pemlo.core.progress import Monitor
from pemlo.gui.brief.panel import BriefPanel
from pemlo.gui.common.background_bar import BackgroundBar
from pemlo.gui.common.labels import rule
from pemlo.gui.common.plain import as_entry, set_tip
from pemlo.gui.common.problem_bar import ProblemBar
from pemlo.gui.common.rail import Rail
from pemlo.gui.common.stands import brief_stands, judge_stands, trade_stands, trials_stands
from pemlo.gui.common.strip import Strip
from pemlo.gui.common.tape import Tape
from pemlo.gui.common.theme import apply_theme
from pemlo.gui.common.verdict_bar import VerdictBar
from pemlo.gui.project_files import ProjectFiles
from pemlo.gui.window_actions import MENUS, window_actions

if TYPE_CHECKING:
    from pemlo.core.cost.next_trial import Advice
    from pemlo.core.project.project import Project
    from pemlo.gui.judge.panel import JudgePanel
    from pemlo.gui.trade.panel import TradePanel
    from pemlo.gui.trials.dropped_pictures import DroppedPictures
    from pemlo.gui.trials.panel import TrialsPanel

STAGES = (
    ("Brief", "What is due: shots, delivery, machines"),
    ("Trials", "What has been timed, and what to time next"),
    ("Judge", "What can be seen, and what passes"),
    ("Trade", "What to give up, and for how many hours"),
)
BRIEF, TRIALS, JUDGE, TRADE = range(len(STAGES))
PLOTS = "plots"
AFTER_PAINT_MS = 50
# What later stages need, and would hold up the hand that opens them.
HEAVY = (
    *("pyqtgraph", "pemlo.core.cost.fit", "pemlo.core.pixels.display", "pemlo.core.trade.options"),
    *("pemlo.gui.trials.panel", "pemlo.gui.judge.panel", "pemlo.gui.trade.panel"),
)


class Stage(Protocol):
    """What every stage's panel can do."""

    def show_project(self, project: "Project", answer: FilmForecast | None) -> None:
        """Show a project, and the forecast that goes with it if there is one."""

    def pick(self, names: tuple[str, ...]) -> None:
        """Show other shots."""


class MainWindow(QMainWindow):
    """The window of one document.

    All stages but the first are heavy: their panels are made when they are first opened, or asked for.
    """

    def __init__(self, document: Document, errors: ErrorCentre, preferences: Preferences) -> None:
        super().__init__()
        self.document, self.errors, self.preferences = document, errors, preferences
        self.jobs = Jobs()
        self.written = FileFacts(self.jobs, FILES, when_written)
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
        self.stack = QStackedWidget()
        self._made: dict[int, Stage] = {BRIEF: self.brief}
        self._trials: TrialsPanel | None = None
        self._judge: JudgePanel | None = None
        self._trade: TradePanel | None = None
        for place in (self.brief, QWidget(), QWidget(), QWidget()):
            self.stack.addWidget(place)
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

    @cached_property
    def pictures(self) -> "DroppedPictures":
        """What takes pictures in as trials."""
        from pemlo.gui.trials.dropped_pictures import DroppedPictures  # noqa: PLC0415 - heavy to load

        return DroppedPictures(self, self.document, self.jobs, self.preferences, self.report)

    @property
    def trials(self) -> "TrialsPanel":
        """The panel of Trials."""
        if self._trials is None:
            from pemlo.gui.trials.panel import TrialsPanel  # noqa: PLC0415 - heavy to load and to make

            made = self._trials = TrialsPanel(self.document, self.jobs, self.report)
            made.shot_wanted.connect(lambda shot: self.pick((shot,)))
            made.files_wanted.connect(lambda names: self.run(lambda: self.files.take_dropped(names)))
            made.render_wanted.connect(self.renderings.add)
            self.renderings.landed.connect(lambda done, header: self.run(lambda: made.take_rendered(done, header)))
            self.renderings.refined.connect(lambda _, picture: made.card.show_refining(picture))
            self.renderings.changed.connect(lambda: made.card.show_waiting(self.renderings.waiting))
            self._restore_parts((made.columns,), (made.table,))
            self._put(TRIALS, made, made)
            made.show_project(self.document.project, self._answer())
            made.show_advice(self.forecaster.advice)
        return self._trials

    @property
    def judge(self) -> "JudgePanel":
        """The panel of Judge."""
        if self._judge is None:
            from pemlo.gui.judge.panel import JudgePanel  # noqa: PLC0415 - heavy to load and to make

            made = self._judge = JudgePanel(self.document, self.jobs, self.written, self.preferences, self.report)
            made.region_wanted.connect(self._on_region_wanted)
            made.trial_wanted.connect(lambda one: self.trials.render_one(one.shot, one.frame, one.settings))
            self._put(JUDGE, made, made)
        return self._judge

    @property
    def trade(self) -> "TradePanel":
        """The panel of Trade."""
        if self._trade is None:
            from pemlo.app.picture_places import base_folder  # noqa: PLC0415 - as above
            from pemlo.app.planner import Planner  # noqa: PLC0415 - heavy to load and to make
            from pemlo.gui.trade.panel import TradePanel  # noqa: PLC0415 - as above

            planner = Planner(self.document, self.jobs, self.written, lambda: base_folder(self.document.path))
            made = self._trade = TradePanel(self.document, self.jobs, planner, self.report, self.pick)
            made.side.preview.written.connect(self._on_predicted)
            made.trial_wanted.connect(lambda one: self.trials.render_one(one.shot, one.frame, one.settings))
            self._put(TRADE, made, made)
        return self._trade

    def _put(self, number: int, panel: QWidget, stage: Stage) -> None:
        """Put a panel in the place that was kept for it."""
        shown, place = self.stack.currentIndex(), self.stack.widget(number)
        assert place is not None
        self.stack.removeWidget(place)
        place.deleteLater()
        self.stack.insertWidget(number, panel)
        self.stack.setCurrentIndex(shown)
        self._made[number] = stage
        stage.pick(self.picked)

    def _stage(self, number: int) -> Stage:
        stages: dict[int, Callable[[], Stage]] = {
            BRIEF: lambda: self.brief,
            TRIALS: lambda: self.trials,
            JUDGE: lambda: self.judge,
            TRADE: lambda: self.trade,
        }
        return stages[number]()

    def _make_menus(self) -> dict[str, QMenu]:
        menus = {name: self.menuBar().addMenu(name) for name in MENUS}
        self._shown_actions: list[tuple[QAction, Action]] = []
        for action in self.actions_table:
            made = QAction(action.text, self)
            set_tip(made, action.tip)
            made.setStatusTip(action.tip)
            if action.shortcut:
                made.setShortcut(QKeySequence(action.shortcut))
            made.triggered.connect(lambda _=False, action=action: self.run(action.run))
            menus[action.menu].addAction(made)
            self._shown_actions.append((made, action))
        self._recent_menu = QMenu("Recent projects", self)
        menus["Project"].insertMenu(menus["Project"].actions()[3], self._recent_menu)
        menus["Project"].aboutToShow.connect(lambda: self.written.known(self.preferences.recent()))
        self._recent_menu.aboutToShow.connect(lambda: self.files.fill_recent(self._recent_menu))
        self.document.history.canUndoChanged.connect(lambda _: self._refresh_actions())
        self.document.history.indexChanged.connect(lambda _: self._refresh_actions())
        self.document.history.cleanChanged.connect(lambda _: self._name_window())
        return menus

    def _connect(self) -> None:
        self.errors.trouble.connect(self._on_trouble)
        self.errors.bug.connect(self.files.show_bug)
        self.written.changed.connect(lambda: self._show(self.stack.currentIndex()))
        self.jobs.failed.connect(lambda _key, error: self.errors.report(error))
        self.document.changed.connect(self._on_changed)
        self.document.replaced.connect(self._on_replaced)
        self.forecaster.answered.connect(self._on_answered)
        self.forecaster.advised.connect(self._on_advised)
        self.forecaster.outdated.connect(self.tape.mark_stale)
        self.rail.chosen.connect(self.show_stage)
        self.strip.picked.connect(self.pick)
        self.brief.picked.connect(self.pick)

    def _on_predicted(self, path: Path, beside: Path) -> None:
        """Show a frame that was predicted in Judge, beside what it is to be held against."""
        self.show_stage(JUDGE)
        self.pick((self.trade.shown_shot,))
        self.judge.show_prediction(path, f"predicted, no render: {self.trade.shown_settings}", beside)

    def _on_region_wanted(self, wanted: tuple[str, int, tuple[int, int, int, int]]) -> None:
        """Open the form of a ladder in Trials, of a region that was drawn in Judge."""
        shot, frame, region = wanted
        self.show_stage(TRIALS)
        self.pick((shot,))
        self.trials.ask_to_render(frame, region)

    def _on_trouble(self, message: str, hint: str) -> None:
        self.problems.tell(message, hint)

    def load_plots(self) -> None:
        """Load the library of the plots and what is heavy besides in the background, then put the plots in."""

        def work(monitor: Monitor) -> None:
            for number, name in enumerate(HEAVY):
                monitor.step(number / len(HEAVY), "Loading the plots and the other stages")
                import_module(name)

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
        stage = self._stage(number)
        self.stack.setCurrentIndex(number)
        self.rail.show_stage(number)
        stage.show_project(self.document.project, self._answer())
        first: QWidget = (
            self.brief.shots
            if number == BRIEF
            else self.trials.table
            if number == TRIALS
            else self.judge.canvas
            if number == JUDGE
            else self.trade.hours.chart
        )
        first.setFocus()

    def pick(self, names: tuple[str, ...]) -> None:
        """Pick shots on the strip and in every stage."""
        if names == self.picked:
            return
        self.picked = names
        self.strip.pick(names)
        for stage in self._made.values():
            stage.pick(names)

    def show_theme(self, name: str) -> None:
        app = QApplication.instance()
        assert isinstance(app, QApplication)
        apply_theme(app, name)
        self.preferences.theme = name
        if self._trials is not None and self._trials.ladder_plot is not None:
            self._trials.add_plots()

    def _answer(self) -> FilmForecast | None:
        """Return the last answer, if it is of the shots and trials that the document has now."""
        answer, project = self.forecaster.answer, self.document.project
        if answer is None or [s.name for s in answer.project.shots] != [s.name for s in project.shots]:
            return None
        return answer

    def _show(self, number: int) -> None:
        """Bring the open stage up to date; the others are when they are opened."""
        self._stage(number).show_project(self.document.project, self._answer())

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
        self.written.forget()
        if self._judge is not None:
            self._judge.forget()
        self.picked = ()
        self.problems.clear()
        self.strip.show_project(project, None)
        if self.isVisible():
            self.forecaster.ask()
        else:
            QTimer.singleShot(AFTER_PAINT_MS, self.forecaster.ask)  # the window comes up first
        # Judge and Trade are heavy to show: that is done when they are opened.
        for number in {BRIEF, TRIALS} & self._made.keys():
            self._show(number)
        self.show_stage(self.stack.currentIndex())
        if project.shots:
            self.pick((project.shots[0].name,))
        self._say_stands()
        self._name_window()
        self._refresh_actions()

    def _on_answered(self, answer: FilmForecast) -> None:
        self.verdict.show_forecast(answer.project, answer.forecast)
        self.tape.show_forecast(answer.project, answer.forecast)
        self.strip.show_project(answer.project, answer.forecast)
        self._show(self.stack.currentIndex())
        count = answer.known.fit.timed_trials
        words = f"Forecast from 1 000 draws of {count} trials" if count else "No trial yet"
        undo = self.document.history.undoText()
        self.background.rest(words + (f"  ·  Undo: {undo}" if undo else ""))

    def _on_advised(self, advice: "tuple[Advice, ...]") -> None:
        if self._trials is not None:
            self._trials.show_advice(advice)

    def _say_stands(self) -> None:
        self.rail.buttons[BRIEF].say(brief_stands(self.document.project))
        self.rail.buttons[TRIALS].say(trials_stands(self.document.project))
        self.rail.buttons[JUDGE].say(judge_stands(self.document.project))
        self.rail.buttons[TRADE].say(trade_stands(self.document.project))

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
                made.setText(as_entry(named[action.name]) if action.enabled() else action.text)
        self._name_window()

    def _restore(self) -> None:
        geometry = self.preferences.state("geometry")
        if geometry is not None:
            self.restoreGeometry(geometry)
        self._restore_parts((self.brief.tables,), (self.brief.shots, self.brief.machines))

    def _restore_parts(self, splitters: tuple[QSplitter, ...], tables: tuple[QTableView, ...]) -> None:
        for splitter in splitters:
            state = self.preferences.state(splitter.objectName())
            if state is not None:
                splitter.restoreState(state)
        for table in tables:
            state = self.preferences.state(f"columns of {table.objectName()}")
            if state is not None:
                table.horizontalHeader().restoreState(state)

    def _keep_states(self) -> None:
        self.preferences.keep_state("geometry", self.saveGeometry())
        splitters, tables = [self.brief.tables], [self.brief.shots, self.brief.machines]
        if self._trials is not None:
            splitters.append(self._trials.columns)
            tables.append(self._trials.table)
        for splitter in splitters:
            self.preferences.keep_state(splitter.objectName(), splitter.saveState())
        for table in tables:
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
