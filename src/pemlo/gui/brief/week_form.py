"""Paints the hours in which machines are free, the whole week at once. GUI thread."""

from collections.abc import Callable
from functools import partial

from PySide6.QtCore import QPointF, QRectF, QSize, Qt, Signal
from PySide6.QtGui import QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QDialog, QHBoxLayout, QLineEdit, QVBoxLayout, QWidget

from pemlo.core.project.hours import DAY_MINUTES, Week, format_week, parse_week
from pemlo.core.project.week_grid import STEP_MINUTES, free_minutes, painted
from pemlo.gui.common.colours import colours
from pemlo.gui.common.fonts import SMALL, font
from pemlo.gui.common.labels import button, label
from pemlo.gui.common.moment_field import first_day
from pemlo.gui.common.plain import set_tip

DAYS = ("Mon", "Tue", "Wed", "Thu", "Fri", "Sat", "Sun")
LEFT_PX, TOP_PX, ROW_PX, CELL_PX = 44, 22, 26, 14
CELLS = DAY_MINUTES // STEP_MINUTES
USUAL = (
    ("Nights", "Mon-Fri 19:00-08:00, Sat-Sun all day"),
    ("Every night", "20:00-07:00"),
    ("Always", "always"),
    ("Never", "never"),
)


class WeekGrid(QWidget):
    """Seven days of half hours; a drag makes them free, or takes them away if it began on a free one.

    Signals
    -------
    changed()
    """

    changed = Signal()

    def __init__(self, week: Week) -> None:
        super().__init__()
        self.week = week
        self._at = (0, 0)  # the half hour that the keys are on: row, cell
        self._free: bool | None = None  # what the drag under way makes of them
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setMinimumSize(LEFT_PX + CELLS * CELL_PX + 12, TOP_PX + 7 * ROW_PX + 2)
        self.setAccessibleName("Hours of the week")
        set_tip(self, "Drag to paint hours free or not; arrow keys and the space bar do the same")
        self.show_week(week)

    def sizeHint(self) -> QSize:
        return self.minimumSize()

    def show_week(self, week: Week) -> None:
        self.week = week
        self.setAccessibleDescription(format_week(week))
        self.update()

    def day_of(self, row: int) -> int:
        """Return the day that a row shows, 0 for Monday."""
        return (row + first_day() - 1) % 7

    def place_of(self, row: int, cell: int) -> QRectF:
        """Return where a half hour stands."""
        return QRectF(LEFT_PX + cell * CELL_PX, TOP_PX + row * ROW_PX, CELL_PX, ROW_PX - 3)

    def paintEvent(self, _event: QPaintEvent) -> None:
        palette, free = colours(), free_minutes(self.week)
        with QPainter(self) as painter:
            painter.setFont(font(SMALL))
            painter.setPen(palette.second)
            for hour in range(0, 25, 3):
                place = QRectF(LEFT_PX + hour * 2 * CELL_PX - 20, 2, 40, TOP_PX - 4)
                painter.drawText(place, int(Qt.AlignmentFlag.AlignCenter), f"{hour}")
            for row in range(7):
                day = self.day_of(row)
                painter.setPen(palette.ink)
                side = QRectF(0, TOP_PX + row * ROW_PX, LEFT_PX - 8, ROW_PX - 3)
                painter.drawText(side, int(Qt.AlignmentFlag.AlignVCenter | Qt.AlignmentFlag.AlignLeft), DAYS[day])
                for cell in range(CELLS):
                    place = self.place_of(row, cell)
                    painter.fillRect(place, palette.raised)
                    begin = day * DAY_MINUTES + cell * STEP_MINUTES
                    self._fill(painter, place, free[begin : begin + STEP_MINUTES])
                    painter.setPen(QPen(palette.second if cell % 6 == 0 else palette.line, 1))
                    painter.drawLine(place.topLeft(), place.bottomLeft())
                painter.setPen(QPen(palette.second, 1))
                painter.drawRect(QRectF(LEFT_PX, TOP_PX + row * ROW_PX, CELLS * CELL_PX, ROW_PX - 3))
            if self.hasFocus():
                painter.setPen(QPen(palette.ink, 2))
                painter.drawRect(self.place_of(*self._at))

    def _fill(self, painter: QPainter, place: QRectF, minutes: list[bool]) -> None:
        """Fill a half hour as far as it is free."""
        for number, free in enumerate(minutes):
            if free and (number == 0 or not minutes[number - 1]):
                end = next((k for k in range(number, len(minutes)) if not minutes[k]), len(minutes))
                width = place.width() / len(minutes)
                left = place.left() + number * width
                painter.fillRect(QRectF(left, place.top(), (end - number) * width, place.height()), colours().time)

    def _cell_at(self, where: QPointF) -> tuple[int, int] | None:
        row, cell = int((where.y() - TOP_PX) // ROW_PX), int((where.x() - LEFT_PX) // CELL_PX)
        return (row, cell) if 0 <= row < 7 and 0 <= cell < CELLS else None

    def _is_free(self, row: int, cell: int) -> bool:
        return free_minutes(self.week)[self.day_of(row) * DAY_MINUTES + cell * STEP_MINUTES]

    def _paint_from_to(self, row: int, first: int, last: int, *, free: bool) -> None:
        low, high = sorted((first, last))
        day = self.day_of(row)
        self.show_week(painted(self.week, day, low * STEP_MINUTES, (high + 1) * STEP_MINUTES, free=free))
        self.changed.emit()

    def mousePressEvent(self, event: QMouseEvent) -> None:
        cell = self._cell_at(event.position())
        if cell is not None and event.button() == Qt.MouseButton.LeftButton:
            self._free, self._at = not self._is_free(*cell), cell
            self._paint_from_to(*cell, cell[1], free=self._free)

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        cell = self._cell_at(event.position())
        if cell is None or self._free is None or cell == self._at:
            return
        before, self._at = self._at, cell
        for row in range(min(before[0], cell[0]), max(before[0], cell[0]) + 1):
            self._paint_from_to(row, before[1], cell[1], free=self._free)

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:  # noqa: ARG002 - Qt's signature
        self._free = None

    def keyPressEvent(self, event: QKeyEvent) -> None:
        row, cell = self._at
        steps = {Qt.Key.Key_Left: (0, -1), Qt.Key.Key_Right: (0, 1), Qt.Key.Key_Up: (-1, 0), Qt.Key.Key_Down: (1, 0)}
        if event.key() == Qt.Key.Key_Space:
            self._paint_from_to(row, cell, cell, free=not self._is_free(row, cell))
        elif event.key() in steps:
            down, right = steps[Qt.Key(event.key())]
            self._at = max(0, min(6, row + down)), max(0, min(CELLS - 1, cell + right))
            self.update()
        else:
            super().keyPressEvent(event)


class WeekForm(QDialog):
    """The grid, the same hours in words, and usual weeks."""

    def __init__(self, parent: QWidget, whose: str, hours: str, take: Callable[[str], None]) -> None:
        super().__init__(parent)
        self.setWindowTitle(f"Hours of {whose}")
        self.setModal(False)
        self.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        self._take = take
        self.grid = WeekGrid(parse_week(hours))
        self.words = QLineEdit(format_week(self.grid.week))
        self.words.setAccessibleName("The same hours in words")
        self.wrong = label("", "limit", small=True, wrap=True)
        self.grid.changed.connect(self._on_painted)
        self.words.textEdited.connect(self._on_typed)
        column = QVBoxLayout(self)
        column.setContentsMargins(18, 14, 18, 14)
        column.setSpacing(8)
        column.addWidget(label(f"When {whose} may render", "title"))
        column.addWidget(self.grid)
        column.addWidget(self.words)
        column.addWidget(self.wrong)
        row = QHBoxLayout()
        for name, text in USUAL:
            row.addWidget(button(name, f"{text[:1].upper()}{text[1:]}", partial(self._show, text), link=True))
        row.addStretch(1)
        row.addWidget(button("Cancel", "Leave the hours as they are", self.reject))
        self.go = button("Take these hours", "Give them to the picked machines", self._on_taken, main=True)
        row.addWidget(self.go)
        column.addLayout(row)

    def _show(self, text: str) -> None:
        self.grid.show_week(parse_week(text))
        self._on_painted()

    def _on_painted(self) -> None:
        self.words.setText(format_week(self.grid.week))
        self.wrong.setText("")

    def _on_typed(self, text: str) -> None:
        try:
            self.grid.show_week(parse_week(text))
        except ValueError as error:
            self.wrong.setText(f"{error}."[:1].upper() + f"{error}."[1:])
        else:
            self.wrong.setText("")

    def _on_taken(self) -> None:
        if not self.wrong.text():
            self._take(format_week(self.grid.week))
            self.accept()
