"""What the mouse, the wheel and the keys do on the sheet. GUI thread."""

from typing import TYPE_CHECKING

from PySide6.QtCore import QEvent, QObject, Qt
from PySide6.QtGui import QKeyEvent, QMouseEvent, QWheelEvent

from pemlo.core.project.machine_hours import Side
from pemlo.gui.runsheet.places import LEAST_ROW, LEFT

if TYPE_CHECKING:
    from pemlo.gui.runsheet.sheet import Sheet

ZOOM_STEP = 1.25


class SheetController(QObject):
    """Hears what happens to a sheet before it does."""

    def __init__(self, sheet: "Sheet") -> None:
        super().__init__(sheet)
        self._sheet = sheet
        self._drag: tuple[str, float, Side] | None = None
        self._pan: tuple[float, float] | None = None
        sheet.installEventFilter(self)

    def eventFilter(self, _watched: QObject, event: QEvent) -> bool:
        """Take an event; what is left to the sheet is not."""
        if isinstance(event, QMouseEvent):
            act = {
                QEvent.Type.MouseButtonPress: self._press,
                QEvent.Type.MouseMove: self._drag_on,
                QEvent.Type.MouseButtonRelease: self._let_go,
                QEvent.Type.MouseButtonDblClick: self._double_click,
            }.get(event.type())
            if act is not None:
                act(event)
            return act is not None
        if isinstance(event, QWheelEvent):
            self._turn_wheel(event)
            return True
        return event.type() == QEvent.Type.KeyPress and isinstance(event, QKeyEvent) and self._press_key(event)

    def _press(self, event: QMouseEvent) -> None:
        sheet = self._sheet
        at, number = event.position(), sheet.places.row_at(event.position())
        if event.button() == Qt.MouseButton.RightButton:
            if number is not None:
                sheet.machine_picked.emit(sheet.rows[number].machine)
                sheet.menu_wanted.emit(
                    sheet.rows[number].machine, sheet.scale.hours(at.x()), event.globalPosition().toPoint()
                )
            return
        if event.button() != Qt.MouseButton.LeftButton:
            return
        if number is not None:
            row = sheet.rows[number]
            sheet.machine_picked.emit(row.machine)
            if at.x() < LEFT and row.can_fold and row.heads:
                sheet.fold_wanted.emit(row.machine)
                return
            self._drag = sheet.places.edge_at(at)
            if self._drag is not None:
                return
            run = sheet.places.run_at(at, number)
            if run is not None and sheet.found is not None and sheet.runs is not None:
                sheet.shot_picked.emit(sheet.found.jobs[int(sheet.runs.job[run])].shot.name)
        if at.x() >= LEFT:
            self._pan = at.x(), sheet.scale.first_h

    def _drag_on(self, event: QMouseEvent) -> None:
        sheet = self._sheet
        at = event.position()
        if self._drag is not None:
            name, hours, side = self._drag
            sheet.end_dragged.emit(name, hours, side, sheet.scale.hours(at.x()), False)
            return
        if self._pan is not None and event.buttons() & Qt.MouseButton.LeftButton:
            begun, first = self._pan
            span = sheet.scale.last_h - sheet.scale.first_h
            sheet.move_to(sheet.scale.moved_to(first - (at.x() - begun) / sheet.scale.width * span, span))
            return
        edge = sheet.places.edge_at(at)
        sheet.setCursor(Qt.CursorShape.SplitHCursor if edge is not None else Qt.CursorShape.ArrowCursor)

    def _let_go(self, event: QMouseEvent) -> None:
        sheet = self._sheet
        if self._drag is not None:
            name, hours, side = self._drag
            self._drag = None
            sheet.end_dragged.emit(name, hours, side, sheet.scale.hours(event.position().x()), True)
        self._pan = None

    def _double_click(self, event: QMouseEvent) -> None:
        sheet = self._sheet
        at, number = event.position(), sheet.places.row_at(event.position())
        if number is None or at.x() < LEFT:
            return
        hours, row = sheet.scale.hours(at.x()), sheet.rows[number]
        if not any(begin <= hours < end for begin, end in row.spans):
            sheet.part_opened.emit(row.machine, hours)

    def _turn_wheel(self, event: QWheelEvent) -> None:
        sheet = self._sheet
        turned = event.angleDelta().y() or event.angleDelta().x()
        span = sheet.scale.last_h - sheet.scale.first_h
        if event.modifiers() & Qt.KeyboardModifier.ControlModifier:
            sheet.zoom(ZOOM_STEP ** (turned / 120), sheet.scale.hours(event.position().x()))
        elif event.modifiers() & Qt.KeyboardModifier.ShiftModifier or event.angleDelta().x():
            sheet.move_to(sheet.scale.panned(-turned / 120 * span / 10))
        elif sheet.bar.isVisible():
            sheet.bar.setValue(sheet.bar.value() - round(turned / 120 * LEAST_ROW))
        event.accept()

    def _press_key(self, event: QKeyEvent) -> bool:
        """Do what a key does; False for one that does nothing."""
        sheet = self._sheet
        span = sheet.scale.last_h - sheet.scale.first_h
        names = list(dict.fromkeys(row.machine for row in sheet.rows))
        here = names.index(sheet.picked_machine) if sheet.picked_machine in names else 0
        key = event.key()
        if key in (Qt.Key.Key_Plus, Qt.Key.Key_Equal, Qt.Key.Key_Minus):
            sheet.zoom(1 / ZOOM_STEP if key == Qt.Key.Key_Minus else ZOOM_STEP)
        elif key == Qt.Key.Key_0:
            sheet.show_whole()
        elif key in (Qt.Key.Key_Left, Qt.Key.Key_Right):
            sheet.move_to(sheet.scale.panned(span / 10 * (1 if key == Qt.Key.Key_Right else -1)))
        elif key in (Qt.Key.Key_Up, Qt.Key.Key_Down) and names:
            step = 1 if key == Qt.Key.Key_Down else -1
            sheet.machine_picked.emit(names[max(0, min(len(names) - 1, here + step))])
        elif key in (Qt.Key.Key_Return, Qt.Key.Key_Enter) and names:
            sheet.fold_wanted.emit(names[here])
        else:
            return False
        return True
