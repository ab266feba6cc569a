"""What a stage will look like once it has contents: outlines without any number, in the faintest ink. GUI thread."""

import itertools
from collections.abc import Callable

from PySide6.QtCore import QPointF, QRectF, QSize, Qt
from PySide6.QtGui import QPainter, QPainterPath, QPaintEvent, QPen
from PySide6.QtWidgets import QLabel, QPushButton, QVBoxLayout, QWidget

from pemlo.gui.common.colours import colours

_MARGIN = 24


class EmptyState(QWidget):
    """An outline: ``ladder``, ``course``, ``levers``, ``pictures``, ``machines`` or ``frames``."""

    def __init__(self, kind: str) -> None:
        super().__init__()
        self._paint = _KINDS[kind]
        self.setMinimumSize(120, 80)
        self.setAccessibleName("An outline of what will stand here")

    def sizeHint(self) -> QSize:
        return QSize(480, 220)

    def paintEvent(self, _event: QPaintEvent) -> None:
        with QPainter(self) as painter:
            painter.setRenderHint(QPainter.RenderHint.Antialiasing)
            painter.setPen(QPen(colours().line, 1.5))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            self._paint(painter, QRectF(self.rect()).adjusted(_MARGIN, 16, -_MARGIN, -16))


def lay_out_empty(place: QWidget, words: QLabel, begin: QPushButton, kind: str) -> None:
    """Put what a stage without contents says above the one action that fills it, and an outline of it."""
    words.setAlignment(Qt.AlignmentFlag.AlignTop)
    column = QVBoxLayout(place)
    column.setContentsMargins(24, 20, 24, 20)
    column.setSpacing(10)
    column.addWidget(words)
    column.addWidget(begin, 0, Qt.AlignmentFlag.AlignLeft)
    column.addWidget(EmptyState(kind), 1)


def _axes(painter: QPainter, room: QRectF) -> None:
    painter.drawLine(room.bottomLeft(), room.topLeft())
    painter.drawLine(room.bottomLeft(), room.bottomRight())


def _at(room: QRectF, x: float, y: float) -> QPointF:
    return QPointF(room.left() + x * room.width(), room.bottom() - y * room.height())


def _curve(painter: QPainter, room: QRectF, *points: tuple[float, float]) -> None:
    path = QPainterPath(_at(room, *points[0]))
    for before, here in itertools.pairwise(points):
        middle = (before[0] + here[0]) / 2
        path.cubicTo(_at(room, middle, before[1]), _at(room, middle, here[1]), _at(room, *here))
    painter.drawPath(path)


def _ladder(painter: QPainter, room: QRectF) -> None:
    _axes(painter, room)
    _curve(painter, room, (0.05, 0.12), (0.45, 0.4), (0.95, 0.9))
    for x, y in ((0.2, 0.2), (0.45, 0.4), (0.7, 0.66)):
        painter.drawEllipse(_at(room, x, y), 4.0, 4.0)


def _course(painter: QPainter, room: QRectF) -> None:
    _axes(painter, room)
    _curve(painter, room, (0.02, 0.5), (0.4, 0.42), (0.75, 0.6), (0.98, 0.55))
    painter.drawEllipse(_at(room, 0.4, 0.42), 4.0, 4.0)


def _levers(painter: QPainter, room: QRectF) -> None:
    third = room.width() / 4
    for row in range(5):
        y = room.top() + 20 + row * 46
        painter.drawLine(QPointF(room.left(), y), QPointF(room.left() + third, y))
        painter.drawRect(QRectF(room.left() + third * (0.3 + 0.12 * row), y - 8, 6, 16))
    middle = QRectF(room.left() + 1.25 * third, room.top(), 1.5 * third, min(room.height(), 260.0))
    _axes(painter, middle)
    for number, (low, high) in enumerate(((0.0, 0.85), (0.55, 0.85), (0.4, 0.55), (0.0, 0.4))):
        box = QRectF(_at(middle, 0.08 + 0.24 * number, high), _at(middle, 0.22 + 0.24 * number, low))
        painter.drawRect(box)
    painter.drawLine(_at(middle, 0.0, 0.6), _at(middle, 1.0, 0.6))
    for row in range(6):
        y = room.top() + 20 + row * 24
        painter.drawLine(QPointF(room.left() + 3 * third, y), QPointF(room.right() - (row % 3) * 40, y))


def _pictures(painter: QPainter, room: QRectF) -> None:
    high = min(room.height(), room.width() * 0.4, 360.0)
    frame = QRectF(room.left(), room.top(), high * 16 / 9, high)
    painter.drawRect(frame)
    painter.drawLine(QPointF(frame.center().x(), frame.top()), QPointF(frame.center().x(), frame.bottom()))
    for row in range(5):
        y = frame.top() + 20 + row * 26
        painter.drawLine(QPointF(frame.right() + 30, y), QPointF(min(frame.right() + 240, room.right()), y))


def _machines(painter: QPainter, room: QRectF) -> None:
    painter.drawLine(room.topLeft(), room.topRight())
    for row, (begin, end) in enumerate(((0.1, 0.35), (0.1, 0.35), (0.0, 0.9), (0.4, 0.75))):
        y = room.top() + 24 + row * 44
        painter.drawLine(QPointF(room.left(), y + 34), QPointF(room.right(), y + 34))
        left, width = room.left() + begin * room.width(), (end - begin) * room.width()
        painter.drawRect(QRectF(left, y, width, 26))
        painter.drawLine(QPointF(left + 0.6 * width, y), QPointF(left + 0.6 * width, y + 26))
    painter.drawLine(_at(room, 0.82, 0.0), _at(room, 0.82, 1.0))


def _frames(painter: QPainter, room: QRectF) -> None:
    for row, count in enumerate((24, 16, 12, 28)):
        for number in range(count):
            painter.drawRect(QRectF(room.left() + number * 18, room.top() + 12 + row * 30, 12, 12))


_KINDS: dict[str, Callable[[QPainter, QRectF], None]] = {
    "ladder": _ladder,
    "course": _course,
    "levers": _levers,
    "pictures": _pictures,
    "machines": _machines,
    "frames": _frames,
}
