"""The stage Hand-over: checked before the launch, explained to everybody, delivered at the end. GUI thread."""

from collections.abc import Callable
from typing import TYPE_CHECKING

from PySide6.QtCore import Signal
from PySide6.QtGui import QHideEvent, QShowEvent
from PySide6.QtWidgets import QHBoxLayout, QVBoxLayout, QWidget

from pemlo.app.document import Document
from pemlo.app.export_service import ExportService
from pemlo.app.film_known import FilmForecast
from pemlo.app.launch_checker import CheckedLaunch, LaunchChecker
from pemlo.app.preferences import Preferences
from pemlo.app.selection import Selection
from pemlo.app.table_reader import TableReader
from pemlo.core.errors import PemloError
from pemlo.core.project.project import Project
from pemlo.gui.common.empty_state import lay_out_empty
from pemlo.gui.common.labels import button, label, rule
from pemlo.gui.handover.checks_box import ChecksBox
from pemlo.gui.handover.first_frames import FirstFrames
from pemlo.gui.handover.giving import Giving
from pemlo.gui.handover.handover_edits import HandoverEdits
from pemlo.gui.handover.launch_box import LaunchBox
from pemlo.gui.handover.outputs_box import OutputsBox
from pemlo.handover.outputs import USUAL

if TYPE_CHECKING:
    pass

EMPTY = (
    "What is launched is checked here against the brief and the plan, and handed over: settings to those who enter "
    "them, the case to those who decide, a movie to look at. It begins with shots in the brief."
)


class HandoverPanel(QWidget):
    """The panel.

    Signals
    -------
    shot_wanted(str), shots_wanted(tuple of str)
    brief_wanted()
    render_wanted(str, int, FrameSettings)
        A first frame is to be rendered: of which shot, which, and how.
    """

    shot_wanted = Signal(str)
    shots_wanted = Signal(object)
    brief_wanted = Signal()
    render_wanted = Signal(str, int, object)

    def __init__(
        self,
        document: Document,
        selection: Selection,
        checker: LaunchChecker,
        exports: ExportService,
        preferences: Preferences,
        report: Callable[[PemloError], None],
        tables: TableReader,
    ) -> None:
        super().__init__()
        self._document, self._selection, self._checker, self._exports = document, selection, checker, exports
        self._preferences, self._report = preferences, report
        self.edits = HandoverEdits(document, report)
        self.checks = ChecksBox(self.edits, preferences)
        self.launch = LaunchBox(document, self.edits, report, tables)
        usual = preferences.usual_outputs
        self.outputs = OutputsBox(USUAL if usual is None else usual, preferences.command_template)
        self.first_frames = FirstFrames(self, document, selection, checker, self.render_wanted.emit, report)
        self.giving = Giving(self, document, selection, exports, self.outputs, preferences, report)
        self._lay_out()
        checker.checked.connect(lambda _: self._show_checked())
        self.checks.shot_wanted.connect(self.shot_wanted)
        self.checks.first_frame_wanted.connect(self.first_frames.ask)
        self.checks.render_wanted.connect(self.first_frames.render)
        self.launch.picked.connect(self.shots_wanted)

    def _lay_out(self) -> None:
        self.stage = QWidget()
        row = QHBoxLayout(self.stage)
        row.setContentsMargins(18, 10, 0, 8)
        row.setSpacing(12)
        row.addWidget(self.checks, 2)
        row.addWidget(rule(upright=True))
        row.addWidget(self.launch, 3)
        row.addWidget(rule(upright=True))
        row.addWidget(self.outputs, 1)
        self.nothing, empty = QWidget(), label(EMPTY, wrap=True)
        begin = button("Say what the film is", "Open the brief", self.brief_wanted.emit, main=True)
        lay_out_empty(self.nothing, empty, begin, "frames")
        both = QVBoxLayout(self)
        both.setContentsMargins(0, 0, 0, 0)
        both.addWidget(self.stage)
        both.addWidget(self.nothing)

    # What every stage can do

    def show_project(self, project: Project, answer: FilmForecast | None) -> None:  # noqa: ARG002 - as every stage
        """Show a project; what the checks find is shown as it is found."""
        self.stage.setVisible(bool(project.shots))
        self.nothing.setVisible(not project.shots)
        self.launch.show_project(project)
        self.launch.pick(self._selection.shots)
        self.checks.show_project(project)
        self._checker.ask()
        self._show_checked()

    def pick(self, names: tuple[str, ...]) -> None:
        """Show other shots."""
        self.launch.pick(names)
        self._show_checked()

    def showEvent(self, event: QShowEvent) -> None:
        super().showEvent(event)
        self._checker.look(on=True)

    def hideEvent(self, event: QHideEvent) -> None:
        super().hideEvent(event)
        self._checker.look(on=False)

    @property
    def found(self) -> CheckedLaunch | None:
        """What was found last, if that is of the shots that the film has now."""
        last = self._checker.last
        shots = [shot.name for shot in self._document.project.shots]
        return last if last is not None and [shot.name for shot in last.project.shots] == shots else None

    def _show_checked(self) -> None:
        checked_launch = self.found
        self.checks.show_checked(self._document.project, checked_launch, self._selection.shots)
        self._exports.findings = () if checked_launch is None else checked_launch.findings
