"""The sheet: machines down, real time across, one typical run of the frames, the spread of the end. GUI thread."""

from typing import TYPE_CHECKING

import numpy as np
from PySide6.QtCore import QEvent, QPointF, QRect, QRectF, QSize, Qt, Signal
from PySide6.QtGui import QHelpEvent, QKeyEvent, QMouseEvent, QPaintEvent, QResizeEvent, QWheelEvent
from PySide6.QtWidgets import QScrollBar, QToolTip, QWidget

from pemlo.core.project.machine_hours import Side
from pemlo.core.project.project import Project
from pemlo.gui.common.finish_hump import Hump, hump
from pemlo.gui.common.plain import show_tip
from pemlo.gui.common.tape import last_hour
from pemlo.gui.runsheet import presenter
from pemlo.gui.runsheet.painting import paint_sheet
from pemlo.gui.runsheet.presenter import MachineLine
from pemlo.gui.runsheet.scale import Scale

if TYPE_CHECKING:
    from pemlo.core.forecast.finish import Finish
    from pemlo.core.forecast.verdict import Forecast
    from pemlo.core.forecast.who_when import SlotRuns

LEFT, RIGHT, TOP, BOTTOM = 118, 14, 24, 40
LEAST_ROW, MOST_ROW = 22, 60
EDGE_PX = 5
ZOOM_STEP = 1.25


class Sheet(QWidget):
    """The sheet.

    Signals
    -------
    machine_picked(str)
    shot_picked(str)
    end_dragged(str, float, str, float, bool)
        Machine, where the end was, which side, where it is now, and whether the hand has let go.
    part_opened(str, float), stretch_closed(str, float)
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
        self.hump: Hump | None = None
        self.stale = False
        self.picked_shots: tuple[str, ...] = ()
        self.picked_machine = ""
        self.scale = Scale(0.0, 1.0, 1.0, LEFT, 100.0)
        self._unfolded: frozenset[str] = frozenset()
        self._drag: tuple[str, float, Side] | None = None
        self._pan: tuple[float, float] | None = None
        self.bar = QScrollBar(Qt.Orientation.Vertical, self)
        self.bar.valueChanged.connect(self.update)
        self.bar.hide()
        self.setMouseTracking(True)
        self.setMinimumHeight(TOP + BOTTOM + 2 * LEAST_ROW)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName("Machines over time")

    def sizeHint(self) -> QSize:
        return QSize(700, TOP + BOTTOM + max(2, min(len(self.rows), 14)) * 34)

    # What is shown

    def show_project(self, project: Project, forecast: "Forecast | None") -> None:
        """Show a project's machines and hours; the run that is shown stays until another comes."""
        self.project = project
        deadline = (project.delivery.deadline - project.start).total_seconds() / 3600
        whole = deadline * 1.12 if forecast is None else last_hour(forecast, deadline)
        span = self.scale.last_h - self.scale.first_h
        everything = span >= 0.999 * self.scale.whole_h
        self.hump = None if forecast is None or not len(forecast.finish_h) else hump(forecast.finish_h, whole)
        self.scale = Scale(self.scale.first_h, self.scale.last_h, whole, self.scale.left, self.scale.width)
        self.scale = self.scale.moved_to(0.0, whole) if everything else self.scale.moved_to(
            self.scale.first_h, min(span, whole)
        )  # fmt: skip
        if self.isVisible():
            self.scale_changed.emit(self.scale.first_h, self.scale.last_h)
        self._lay_rows()

    def show_run(self, found: "Finish | None", *, stale: bool) -> None:
        """Show who renders what when; `stale` if the film is another by now."""
        if found is not self.found:
            from pemlo.core.forecast.who_when import slot_runs  # noqa: PLC0415 - heavy to load

            self.found, self.runs = found, None if found is None else slot_runs(found)
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

    # Where things stand

    @property
    def row_px(self) -> float:
        """Height of a row."""
        room = (self.height() - TOP - BOTTOM) / max(len(self.rows), 1)
        return min(max(room, LEAST_ROW), MOST_ROW)

    def row_rect(self, number: int) -> QRectF:
        """Return where a row's hours are drawn."""
        top = TOP + number * self.row_px - self.bar.value()
        return QRectF(self.scale.left, top + 3, self.scale.width, self.row_px - 6)

    @property
    def inside(self) -> QRect:
        """Where rows are drawn; what is scrolled away is not."""
        return QRect(0, TOP, self.width(), self.height() - TOP - BOTTOM)

    def row_at(self, at: QPointF) -> int | None:
        """Return which row is at a place."""
        if not self.inside.contains(at.toPoint()):
            return None
        number = int((at.y() - TOP + self.bar.value()) // self.row_px)
        return number if 0 <= number < len(self.rows) else None

    def run_at(self, row: MachineLine, at: QPointF, number: int) -> int | None:
        """Return which run of frames is at a place of a row."""
        if self.runs is None or not row.slots:
            return None
        rect = self.row_rect(number)
        lane = int((at.y() - rect.top()) / rect.height() * len(row.slots))
        if not 0 <= lane < len(row.slots):
            return None
        hours = self.scale.hours(at.x())
        mine = np.arange(len(self.runs.slot))[self.runs.of_slot(row.slots[lane])]
        here = mine[(self.runs.begin[mine] <= hours) & (self.runs.end[mine] > hours)]
        return int(here[0]) if len(here) else None

    def _edge_at(self, at: QPointF) -> tuple[str, float, Side] | None:
        number = self.row_at(at)
        if number is None:
            return None
        row = self.rows[number]
        near: list[tuple[float, float, Side]] = []
        for begin, end in row.spans:
            near += [(abs(self.scale.x(begin) - at.x()), begin, "begin")] if begin > 0 else []
            near += [(abs(self.scale.x(end) - at.x()), end, "end")]
        distance, hours, side = min(near, default=(EDGE_PX + 1.0, 0.0, "end"))
        return (row.machine, hours, side) if distance <= EDGE_PX else None

    # Hands

    def mousePressEvent(self, event: QMouseEvent) -> None:
        at, number = event.position(), self.row_at(event.position())
        if event.button() == Qt.MouseButton.RightButton:
            if number is not None:
                self.machine_picked.emit(self.rows[number].machine)
                self.menu_wanted.emit(
                    self.rows[number].machine, self.scale.hours(at.x()), event.globalPosition().toPoint()
                )
            return
        if event.button() != Qt.MouseButton.LeftButton:
            return
        if number is not None:
            row = self.rows[number]
            self.machine_picked.emit(row.machine)
            if at.x() < LEFT and row.can_fold and row.heads:
                self.fold_wanted.emit(row.machine)
                return
            self._drag = self._edge_at(at)
            if self._drag is not None:
                return
            run = self.run_at(row, at, number)
            if run is not None and self.found is not None and self.runs is not None:
                self.shot_picked.emit(self.found.jobs[int(self.runs.job[run])].shot.name)
        if at.x() >= LEFT:
            self._pan = at.x(), self.scale.first_h

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        at = event.position()
        if self._drag is not None:
            name, hours, side = self._drag
            self.end_dragged.emit(name, hours, side, self.scale.hours(at.x()), False)
            return
        if self._pan is not None and event.buttons() & Qt.MouseButton.LeftButton:
            begun, first = self._pan
            hour_px = self.scale.width / (self.scale.last_h - self.scale.first_h)
            self._move(self.scale.moved_to(first - (at.x() - begun) / hour_px, self.scale.last_h - self.scale.first_h))
            return
        edge = self._edge_at(at)
        self.setCursor(Qt.CursorShape.SplitHCursor if edge is not None else Qt.CursorShape.ArrowCursor)

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        if self._drag is not None:
            name, hours, side = self._drag
            self._drag = None
            self.end_dragged.emit(name, hours, side, self.scale.hours(event.position().x()), True)
        self._pan = None

    def mouseDoubleClickEvent(self, event: QMouseEvent) -> None:
        at, number = event.position(), self.row_at(event.position())
        if number is None or at.x() < LEFT:
            return
        hours, row = self.scale.hours(at.x()), self.rows[number]
        if not any(begin <= hours < end for begin, end in row.spans):
            self.part_opened.emit(row.machine, hours)

    def wheelEvent(self, event: QWheelEvent) -> None:
        turned = event.angleDelta().y() or event.angleDelta().x()
        span = self.scale.last_h - self.scale.first_h
        if event.modifiers() & Qt.KeyboardModifier.ControlModifier:
            self.zoom(ZOOM_STEP ** (turned / 120), self.scale.hours(event.position().x()))
        elif event.modifiers() & Qt.KeyboardModifier.ShiftModifier or event.angleDelta().x():
            self._move(self.scale.panned(-turned / 120 * span / 10))
        elif self.bar.isVisible():
            self.bar.setValue(self.bar.value() - round(turned / 120 * LEAST_ROW))
        event.accept()

    def keyPressEvent(self, event: QKeyEvent) -> None:
        span = self.scale.last_h - self.scale.first_h
        names = list(dict.fromkeys(row.machine for row in self.rows))
        here = names.index(self.picked_machine) if self.picked_machine in names else 0
        key = event.key()
        if key in (Qt.Key.Key_Plus, Qt.Key.Key_Equal, Qt.Key.Key_Minus):
            self.zoom(1 / ZOOM_STEP if key == Qt.Key.Key_Minus else ZOOM_STEP)
        elif key == Qt.Key.Key_0:
            self.show_whole()
        elif key in (Qt.Key.Key_Left, Qt.Key.Key_Right):
            self._move(self.scale.panned(span / 10 * (1 if key == Qt.Key.Key_Right else -1)))
        elif key in (Qt.Key.Key_Up, Qt.Key.Key_Down) and names:
            step = 1 if key == Qt.Key.Key_Down else -1
            self.machine_picked.emit(names[max(0, min(len(names) - 1, here + step))])
        elif key in (Qt.Key.Key_Return, Qt.Key.Key_Enter) and names:
            self.fold_wanted.emit(names[here])
        else:
            super().keyPressEvent(event)

    def zoom(self, factor: float, at_h: float | None = None) -> None:
        """Come so many times closer, around an hour or the middle."""
        middle = (self.scale.first_h + self.scale.last_h) / 2
        self._move(self.scale.zoomed(factor, middle if at_h is None else at_h))

    def show_whole(self) -> None:
        """Show all of the time."""
        self._move(self.scale.moved_to(0.0, self.scale.whole_h))

    def _move(self, scale: Scale) -> None:
        self.scale = scale
        self.scale_changed.emit(scale.first_h, scale.last_h)
        self.update()

    def event(self, event: QEvent) -> bool:
        if isinstance(event, QHelpEvent) and event.type() == QEvent.Type.ToolTip:
            self._tell(QPointF(event.pos()), event)
            return True
        return super().event(event)

    def _tell(self, at: QPointF, event: QHelpEvent) -> None:
        number = self.row_at(at)
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
        run = self.run_at(row, at, number)
        if run is not None and self.found is not None and self.runs is not None:
            return presenter.reading(self.project, self.found, self.runs, run, hours)
        moment = presenter.moment_words(self.project, hours)
        free = any(begin <= hours < end for begin, end in row.spans)
        return f"{row.label}, {moment}: " + ("free" if free else "not free; double-click to open this night or day")

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        self._lay_bar()

    def _lay_bar(self) -> None:
        room, whole = self.height() - TOP - BOTTOM, len(self.rows) * self.row_px
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
