"""The sheet: machines down, real time across, one typical run of the frames, the spread of the end. GUI thread."""

from typing import TYPE_CHECKING

from PySide6.QtCore import QEvent, QPointF, QSize, Qt, Signal
from PySide6.QtGui import QHelpEvent, QPaintEvent, QResizeEvent
from PySide6.QtWidgets import QScrollBar, QToolTip, QWidget

from pemlo.core.forecast.finish_density import FinishDensity, density, last_hour
from pemlo.core.project.project import Project
from pemlo.gui.common.plain import show_tip
from pemlo.gui.runsheet import presenter
from pemlo.gui.runsheet.lane_pictures import LanePictures
from pemlo.gui.runsheet.painting import paint_sheet
from pemlo.gui.runsheet.places import BOTTOM, LEAST_ROW, LEFT, RIGHT, TOP, Places
from pemlo.gui.runsheet.presenter import MachineLine
from pemlo.gui.runsheet.scale import Scale
from pemlo.gui.runsheet.sheet_controller import SheetController

if TYPE_CHECKING:
    from pemlo.core.forecast.finish import Finish
    from pemlo.core.forecast.verdict import Forecast
    from pemlo.core.forecast.who_when import SlotRuns


class Sheet(QWidget):
    """The sheet.

    Signals
    -------
    machine_picked(str)
    shot_picked(str)
    end_dragged(str, float, str, float, bool)
        Machine, where the end was, which side, where it is now, and whether the hand has let go.
    part_opened(str, float)
        Machine, and the hour: a night or a day is to be opened there, or what is open closed.
    fold_wanted(str)
        A group is to be folded or unfolded.
    scale_changed(float, float)
        Other hours are shown: from, to, since the start.
    menu_wanted(str, float, QPoint)
        Machine and hour of a right click, and where on the screen.
    """

    machine_picked = Signal(str)
    shot_picked = Signal(str)
    end_dragged = Signal(str, float, str, float, bool)
    part_opened = Signal(str, float)
    fold_wanted = Signal(str)
    menu_wanted = Signal(str, float, object)
    scale_changed = Signal(float, float)

    def __init__(self) -> None:
        super().__init__()
        self.project: Project | None = None
        self.found: Finish | None = None
        self.runs: SlotRuns | None = None
        self.rows: tuple[MachineLine, ...] = ()
        self.density: FinishDensity | None = None
        self.stale = False
        self.lanes = LanePictures()
        self.picked_shots: tuple[str, ...] = ()
        self.picked_machine = ""
        self.scale = Scale(0.0, 1.0, 1.0, LEFT, 100.0)
        self._unfolded: frozenset[str] = frozenset()
        self.bar = QScrollBar(Qt.Orientation.Vertical, self)
        self.bar.valueChanged.connect(self.update)
        self.bar.hide()
        self.setMouseTracking(True)
        self.setMinimumHeight(TOP + BOTTOM + 2 * LEAST_ROW)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self._hands = SheetController(self)
        self.setAccessibleName("Machines over time")

    def sizeHint(self) -> QSize:
        return QSize(700, TOP + BOTTOM + max(2, min(len(self.rows), 14)) * 34)

    # What is shown

    def show_project(self, project: Project, forecast: "Forecast | None") -> None:
        """Show a project's machines and hours; the run that is shown stays until another comes."""
        self.project = project
        deadline = project.deadline_h
        whole = deadline * 1.12 if forecast is None else last_hour(forecast, deadline)
        span = self.scale.last_h - self.scale.first_h
        everything = span >= 0.999 * self.scale.whole_h
        self.density = None if forecast is None or not len(forecast.finish_h) else density(forecast.finish_h, whole)
        self.scale = Scale(self.scale.first_h, self.scale.last_h, whole, self.scale.left, self.scale.width)
        self.scale = self.scale.moved_to(0.0, whole) if everything else self.scale.moved_to(
            self.scale.first_h, min(span, whole)
        )  # fmt: skip
        if self.isVisible():
            self.scale_changed.emit(self.scale.first_h, self.scale.last_h)
        self._lay_rows()

    def show_run(self, finish: "Finish | None", *, stale: bool) -> None:
        """Show who renders what when; `stale` if the film is another by now."""
        if finish is not self.found:
            from pemlo.core.forecast.who_when import slot_runs  # noqa: PLC0415 - heavy to load

            self.found, self.runs = finish, None if finish is None else slot_runs(finish)
        self.stale = stale
        self._lay_rows()

    def pick(self, shots: tuple[str, ...]) -> None:
        """Make some shots stand out."""
        self.picked_shots = shots
        self.update()

    def pick_machine(self, name: str) -> None:
        """Make a machine stand out."""
        self.picked_machine = name
        self.update()

    def fold(self, name: str) -> None:
        """Fold a group, or unfold it."""
        self._unfolded = self._unfolded ^ {name}
        self._lay_rows()

    def _lay_rows(self) -> None:
        if self.project is not None:
            self.rows = presenter.rows_of(self.project, self.found, self._unfolded, self.scale.whole_h)
        self._lay_bar()
        self.setAccessibleDescription("; ".join(f"{row.label} {row.detail}".strip() for row in self.rows))
        self.updateGeometry()
        self.update()

    @property
    def places(self) -> Places:
        """Where things stand now."""
        return Places(self.rows, self.runs, self.scale, self.width(), self.height(), self.bar.value())

    def zoom(self, factor: float, at_h: float | None = None) -> None:
        """Come so many times closer, around an hour or the middle."""
        middle = (self.scale.first_h + self.scale.last_h) / 2
        self.move_to(self.scale.zoomed(factor, middle if at_h is None else at_h))

    def show_whole(self) -> None:
        """Show all of the time."""
        self.move_to(self.scale.moved_to(0.0, self.scale.whole_h))

    def move_to(self, scale: Scale) -> None:
        """Show other hours."""
        self.scale = scale
        self.scale_changed.emit(scale.first_h, scale.last_h)
        self.update()

    def event(self, event: QEvent) -> bool:
        if isinstance(event, QHelpEvent) and event.type() == QEvent.Type.ToolTip:
            self._tell(QPointF(event.pos()), event)
            return True
        return super().event(event)

    def _tell(self, at: QPointF, event: QHelpEvent) -> None:
        number = self.places.row_at(at)
        words = "" if number is None or self.project is None else self.words_at(at, number)
        if words:
            show_tip(event.globalPos(), words, self)
        else:
            QToolTip.hideText()

    def words_at(self, at: QPointF, number: int) -> str:
        """Return what is at a place of a row, in words."""
        assert self.project is not None
        row, hours = self.rows[number], self.scale.hours(at.x())
        if at.x() < LEFT:
            fold = "\nClick to fold or unfold" if row.can_fold else ""
            return f"{row.label} {row.detail}{fold}".strip()
        run = self.places.run_at(at, number)
        if run is not None and self.found is not None and self.runs is not None:
            return presenter.reading(self.project, self.found, self.runs, run, hours)
        moment = presenter.moment_words(self.project, hours)
        free = any(begin <= hours < end for begin, end in row.spans)
        return f"{row.label}, {moment}: " + ("free" if free else "not free; double-click to open this night or day")

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        self._lay_bar()

    def _lay_bar(self) -> None:
        room, whole = self.height() - TOP - BOTTOM, len(self.rows) * self.places.row_px
        more = max(0, round(whole - room))
        self.bar.setRange(0, more)
        self.bar.setPageStep(max(room, 1))
        self.bar.setVisible(more > 0)
        width = self.bar.sizeHint().width() if more else 0
        self.bar.setGeometry(self.width() - width, TOP, width, max(room, 0))
        scale = self.scale
        self.scale = Scale(
            scale.first_h, scale.last_h, scale.whole_h, LEFT, max(self.width() - LEFT - RIGHT - width, 10.0)
        )

    def paintEvent(self, _event: QPaintEvent) -> None:
        paint_sheet(self)
