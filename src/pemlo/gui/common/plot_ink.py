"""Paints a plot: axes, layers, dots and words. GUI thread."""

from typing import TYPE_CHECKING

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QPainter, QPen, QPolygonF

from pemlo.gui.common.colours import colours
from pemlo.gui.common.fonts import SMALL, bold, font

if TYPE_CHECKING:
    from pemlo.gui.common.plot import Dots, Plot

DOT_PX = 4.5  # half the width of a dot
_SHAPES: dict[str, tuple[tuple[float, float], ...]] = {
    "s": ((-1, -1), (1, -1), (1, 1), (-1, 1)),
    "t": ((-1.1, 1), (1.1, 1), (0, -1.2)),
    "d": ((0, -1.3), (1, 0), (0, 1.3), (-1, 0)),
    "p": ((0, -1.2), (1.1, -0.3), (0.7, 1), (-0.7, 1), (-1.1, -0.3)),
    "h": ((-0.6, -1), (0.6, -1), (1.2, 0), (0.6, 1), (-0.6, 1), (-1.2, 0)),
}


def ink(name: str) -> QColor:
    """Return a colour of the theme that is shown, by its name."""
    color: QColor = getattr(colours(), name)
    return color


def paint_plot(painter: QPainter, plot: "Plot") -> None:
    """Paint all of a plot, or what it says where there is nothing."""
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    painter.setFont(font(SMALL))
    if not plot.layers and not plot.dots:
        painter.setPen(colours().second)
        painter.drawText(plot.field, Qt.AlignmentFlag.AlignCenter | Qt.TextFlag.TextWordWrap, plot.nothing)
        return
    _paint_axes(plot, painter)
    painter.setClipRect(plot.field.adjusted(-1, -1, 1, 1))
    for layer, right in plot.layers:
        painter.save()
        layer(painter, lambda x, y, right=right: plot.place(x, y, right=right))  # type: ignore[misc]
        painter.restore()
    painter.setClipping(False)
    for shown in plot.dots:
        _paint_dots(plot, painter, shown)
    _paint_ring(plot, painter)
    _paint_words(plot, painter)


def _paint_axes(plot: "Plot", painter: QPainter) -> None:
    field, palette = plot.field, colours()
    faint = QColor(palette.line)
    faint.setAlphaF(0.45)
    for value in plot.left.ticks(plot.y_range.low, plot.y_range.high, field.height()):
        y = plot.place(plot.x_range.low, value).y()
        painter.setPen(QPen(faint, 1))
        painter.drawLine(QPointF(field.left(), y), QPointF(field.right(), y))
        painter.setPen(palette.second)
        beside = QRectF(0, y - 8, field.left() - 6, 16)
        painter.drawText(beside, Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter, plot.left.name(value))
    for value in plot.bottom.ticks(plot.x_range.low, plot.x_range.high, field.width()):
        x = plot.place(value, plot.y_range.low).x()
        painter.setPen(QPen(faint, 1))
        painter.drawLine(QPointF(x, field.top()), QPointF(x, field.bottom()))
        painter.setPen(palette.second)
        words = plot.bottom.name(value)
        wide = painter.fontMetrics().horizontalAdvance(words) + 2.0
        left = min(max(x - wide / 2, 0.0), plot.width() - wide)
        painter.drawText(QRectF(left, field.bottom() + 4, wide, 14), Qt.AlignmentFlag.AlignCenter, words)
    painter.setPen(QPen(palette.line, 1))
    painter.drawLine(field.bottomLeft(), field.bottomRight())
    painter.drawLine(field.bottomLeft(), field.topLeft())
    painter.setPen(palette.second)
    below = QRectF(field.left(), field.bottom() + 20, field.width(), 16)
    painter.drawText(below, Qt.AlignmentFlag.AlignCenter, plot.bottom.title)
    _paint_upright(plot, painter, plot.left.title, 8.0, palette.second)
    if plot.right is not None:
        for value in plot.right.ticks(plot.right_range.low, plot.right_range.high, field.height()):
            y = plot.place(plot.x_range.low, value, right=True).y()
            painter.setPen(ink(plot.right_ink))
            beside = QRectF(field.right() + 6, y - 8, 80.0, 16)
            painter.drawText(beside, Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter, plot.right.name(value))
        _paint_upright(plot, painter, plot.right.title, plot.width() - 8.0, ink(plot.right_ink))


def _paint_upright(plot: "Plot", painter: QPainter, words: str, x: float, colour: QColor) -> None:
    """Write words from the bottom to the top, with dots where the axis is too short for them."""
    room = plot.height() - 8.0
    painter.save()
    painter.translate(x, plot.height() / 2)
    painter.rotate(-90)
    painter.setPen(colour)
    words = painter.fontMetrics().elidedText(words, Qt.TextElideMode.ElideRight, int(room))
    painter.drawText(QRectF(-room / 2, -8, room, 16), Qt.AlignmentFlag.AlignCenter, words)
    painter.restore()


def _paint_dots(plot: "Plot", painter: QPainter, shown: "Dots") -> None:
    edge = QPen(colours().sheet, 1) if shown.size >= DOT_PX else QPen(Qt.PenStyle.NoPen)
    for x, y in zip(shown.x, shown.y, strict=True):
        at = plot.place(x, y, right=shown.right)
        painter.setPen(edge)
        painter.setBrush(ink(shown.colour))
        size = shown.size
        if shown.symbol == "x":
            painter.setPen(QPen(ink(shown.colour), 2.4))
            for down in (size, -size):
                painter.drawLine(at + QPointF(-size, -down), at + QPointF(size, down))
        elif shown.symbol == "o":
            painter.drawEllipse(at, size, size)
        else:
            painter.drawPolygon(QPolygonF([at + QPointF(a, b) * size for a, b in _SHAPES[shown.symbol]]))


def _paint_ring(plot: "Plot", painter: QPainter) -> None:
    if plot.ring is not None:
        x, y, colour = plot.ring
        painter.setPen(QPen(ink(colour), 2))
        painter.setBrush(colours().sheet)
        painter.drawEllipse(plot.place(x, y), 6, 6)


def _paint_words(plot: "Plot", painter: QPainter) -> None:
    """Write all words, strong ones first, each where no other lies."""
    taken: list[QRectF] = []
    for words, x, y, anchor, colour, strong in sorted(plot.words, key=lambda one: not one[5]):
        painter.setFont(bold(SMALL) if strong else font(SMALL))
        wide, high = painter.fontMetrics().horizontalAdvance(words) + 2.0, 15.0
        at, field = plot.place(x, y), plot.field
        left = min(max(at.x() - anchor[0] * wide, field.left()), max(field.right() - wide, field.left()))
        room = QRectF(left, at.y() - anchor[1] * high, wide, high)
        for down in (0.0, high, -high, 2 * high, -2 * high):
            here = room.translated(0, down)
            inside = here.top() >= 0 and here.bottom() <= field.bottom()
            if inside and not any(here.intersects(other) for other in taken):
                room = here
                break
        taken.append(room)
        painter.setPen(ink(colour))
        painter.drawText(room, Qt.AlignmentFlag.AlignCenter, words)
