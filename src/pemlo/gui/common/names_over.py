"""Names in a line of their own over what is too narrow to hold them: of as many as have room. GUI thread."""

from collections.abc import Iterable

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QFontMetricsF, QPainter, QPen

from pemlo.gui.common.colours import colours
from pemlo.gui.common.fonts import SMALL, font

NAMES_PX = 15  # how high the line is
ROOM_PX = 6  # between a name and the next
NameOver = tuple[float, float, str]  # left and width, px, and words


def names_over(spans: Iterable[tuple[str, float, float]], end: float) -> list[NameOver]:
    """Return the names that have room before an end, from the left, of spans: name, left and width of each, px."""
    metrics = QFontMetricsF(font(SMALL))
    found: list[NameOver] = []
    for name, left, width in spans:
        needed = metrics.horizontalAdvance(name) + ROOM_PX
        if left + needed <= end and (not found or left >= found[-1][0] + found[-1][1]):
            found.append((left, max(width, needed), name))
    return found


def paint_names_over(painter: QPainter, names: Iterable[NameOver]) -> None:
    """Paint them at the top, with a line where each begins."""
    painter.setFont(font(SMALL))
    for left, width, words in names:
        painter.setPen(QPen(colours().faint, 1))
        painter.drawLine(QPointF(left + 0.5, 4), QPointF(left + 0.5, NAMES_PX + 2))
        painter.setPen(colours().second)
        painter.drawText(QRectF(left + 4, 0, width, NAMES_PX), Qt.AlignmentFlag.AlignVCenter, words)
