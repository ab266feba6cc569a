"""A still plot: bands, lines, dots that can be picked, and words, over two axes or three. GUI thread.

What it shows is kept as layers, and said to a screen reader as its values.
"""

from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace
from typing import Protocol

import numpy as np
from PySide6.QtCore import QEvent, QPointF, QRectF, QSize, Qt, Signal
from PySide6.QtGui import QColor, QHelpEvent, QMouseEvent, QPainter, QPaintEvent, QPen, QPolygonF
from PySide6.QtWidgets import QSizePolicy, QWidget

from pemlo.core.arrays import Floats
from pemlo.gui.common.axes import Axis
from pemlo.gui.common.colours import colours
from pemlo.gui.common.fonts import SMALL, bold, font
from pemlo.gui.common.plain import show_tip

DOT_PX, NEAR_PX = 4.5, 8.0
BAND_OPACITY = 0.7
_LEFT, _RIGHT, _TOP, _BOTTOM, _BARE = 60.0, 74.0, 8.0, 40.0, 12.0
_MOST_SAID = 40  # dots that are said one by one
_SHAPES: dict[str, tuple[tuple[float, float], ...]] = {
    "s": ((-1, -1), (1, -1), (1, 1), (-1, 1)),
    "t": ((-1.1, 1), (1.1, 1), (0, -1.2)),
    "d": ((0, -1.3), (1, 0), (0, 1.3), (-1, 0)),
    "p": ((0, -1.2), (1.1, -0.3), (0.7, 1), (-0.7, 1), (-1.1, -0.3)),
    "h": ((-0.6, -1), (0.6, -1), (1.2, 0), (0.6, 1), (-0.6, 1), (-1.2, 0)),
}


class Dot(Protocol):
    """What is known of a dot: the words that it shows, and the trial that a click on it picks."""

    @property
    def words(self) -> str: ...

    @property
    def index(self) -> int: ...


@dataclass(frozen=True)
class _Dots:
    """Dots, where they stand, and how they look; at the scale of the right axis or the left one."""

    dots: Sequence[Dot]
    x: Floats
    y: Floats
    colour: QColor
    symbol: str
    right: bool


@dataclass(frozen=True)
class Range:
    """Lowest and highest values that are shown."""

    low: float = 0.0
    high: float = 1.0

    def share(self, value: float) -> float:
        """Return where a value lies between the lowest (0) and the highest (1)."""
        return (value - self.low) / max(self.high - self.low, 1e-12)


Place = Callable[[float, float], QPointF]
Layer = Callable[[QPainter, Place], None]


class Plot(QWidget):
    """A still plot; a click on a dot picks its trial.

    Signals
    -------
    picked(int)
        Index of a trial in the project.
    """

    picked = Signal(int)

    def __init__(self, name: str, left: Axis, bottom: Axis) -> None:
        super().__init__()
        self.left, self.bottom = left, bottom
        self.right: Axis | None = None
        self._x, self._y, self._y_right = Range(), Range(), Range()
        self._layers: list[tuple[Layer, bool]] = []
        self._dots: list[_Dots] = []
        self._words: list[tuple[str, float, float, tuple[float, float], QColor, bool]] = []
        self._ring: tuple[float, float, QColor] | None = None
        self.lines: list[tuple[Floats, Floats]] = []
        self.setAccessibleName(name)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)
        self.setMouseTracking(True)

    def sizeHint(self) -> QSize:
        return QSize(360, 220)

    def minimumSizeHint(self) -> QSize:
        return QSize(160, 90)

    # What is shown

    def clear(self) -> None:
        """Take everything away."""
        for shown in (self._layers, self._dots, self._words, self.lines):
            shown.clear()
        self._ring, self.right = None, None
        self.update()

    def add_band(
        self, x: Floats, low: Floats, high: Floats, colour: QColor, opacity: float = 1.0, *, right: bool = False
    ) -> None:
        """Fill between two curves."""

        def paint(painter: QPainter, place: Place) -> None:
            edge = [place(*at) for at in zip(x, low, strict=True)] + [
                place(*at) for at in zip(x[::-1], high[::-1], strict=True)
            ]
            painter.setOpacity(opacity)
            painter.setPen(Qt.PenStyle.NoPen)
            painter.setBrush(colour)
            painter.drawPolygon(QPolygonF(edge))

        self._layers.append((paint, right))

    def add_line(
        self,
        x: Floats,
        y: Floats,
        colour: QColor,
        width: float = 2.0,
        style: Qt.PenStyle = Qt.PenStyle.SolidLine,
        *,
        right: bool = False,
    ) -> None:
        """Draw a curve."""
        self.lines.append((x, y))

        def paint(painter: QPainter, place: Place) -> None:
            painter.setPen(QPen(colour, width, style))
            painter.drawPolyline(QPolygonF([place(*at) for at in zip(x, y, strict=True)]))

        self._layers.append((paint, right))

    def add_level(self, y: float, colour: QColor) -> None:
        """Draw a line across."""
        self._layers.append(
            (lambda painter, place: self._across(painter, colour, place(self._x.low, y), upright=False), False)
        )

    def add_moment(self, x: float, colour: QColor) -> None:
        """Draw a dotted line from the bottom to the top."""
        self._layers.append(
            (lambda painter, place: self._across(painter, colour, place(x, self._y.low), upright=True), False)
        )

    def add_dots(
        self, dots: Sequence[Dot], x: Floats, y: Floats, colour: QColor, symbol: str = "o", *, right: bool = False
    ) -> None:
        """Show trials."""
        if len(dots):
            self._dots.append(_Dots(dots, np.asarray(x, float), np.asarray(y, float), colour, symbol, right))

    def add_words(
        self, words: str, x: float, y: float, anchor: tuple[float, float], colour: QColor, *, strong: bool = False
    ) -> None:
        """Write words whose `anchor` - shares of their width and height - lies at a place."""
        self._words.append((words, x, y, anchor, colour, strong))

    def show_ring(self, x: float | None, y: float | None, colour: QColor) -> None:
        """Show one hollow mark at what log10 of two values says, in place of the last; none without values."""
        self._ring = (float(np.log10(x)), float(np.log10(y)), colour) if x and y else None
        self.update()

    def set_range(self, x: Floats, y: Floats, *, margins: tuple[float, float] = (0.02, 0.08)) -> None:
        """Show all of some values, with a little room around, and say them."""
        self._x, self._y = _around(x, margins[0]), _around(y, margins[1])
        self.setAccessibleDescription(self.values())
        self.update()

    def set_right(self, axis: Axis, y: Floats) -> None:
        """Show an axis at the right, over all of some values."""
        self.right, self._y_right = axis, _around(y, 0.08)

    def values(self) -> str:
        """Return what it shows, in words: its axes, and each of its dots."""
        said = [dot.words for shown in self._dots for dot in shown.dots]
        more = f"; and {len(said) - _MOST_SAID} more" if len(said) > _MOST_SAID else ""
        axes = f"{self.left.title} over {self.bottom.title}"
        names = [words for words, *_ in self._words]
        return f"{axes}. {'; '.join(names)}. {'; '.join(said[:_MOST_SAID])}{more}"

    # Where things lie

    @property
    def field(self) -> QRectF:
        """The part between the axes, px."""
        beside = _BARE if self.right is None else _RIGHT
        return QRectF(_LEFT, _TOP, max(self.width() - _LEFT - beside, 10.0), max(self.height() - _TOP - _BOTTOM, 10.0))

    def place(self, x: float, y: float, *, right: bool = False) -> QPointF:
        """Return where a value lies, px."""
        field, up = self.field, self._y_right if right else self._y
        return QPointF(field.left() + field.width() * self._x.share(x), field.bottom() - field.height() * up.share(y))

    def dot_at(self, at: QPointF) -> Dot | None:
        """Return the dot under the mouse, if any."""
        near, found = NEAR_PX, None
        for shown in self._dots:
            for dot, x, y in zip(shown.dots, shown.x, shown.y, strict=True):
                away = self.place(x, y, right=shown.right) - at
                if np.hypot(away.x(), away.y()) <= near:
                    near, found = float(np.hypot(away.x(), away.y())), dot
        return found

    # Hands

    def mousePressEvent(self, event: QMouseEvent) -> None:
        dot = self.dot_at(event.position())
        if dot is not None and event.button() is Qt.MouseButton.LeftButton:
            self.picked.emit(dot.index)

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        on_dot = self.dot_at(event.position()) is not None
        self.setCursor(Qt.CursorShape.PointingHandCursor if on_dot else Qt.CursorShape.ArrowCursor)

    def event(self, event: QEvent) -> bool:
        if isinstance(event, QHelpEvent) and event.type() == QEvent.Type.ToolTip:
            dot = self.dot_at(QPointF(event.pos()))
            show_tip(event.globalPos(), "" if dot is None else dot.words, self)
            return True
        return super().event(event)

    # Ink

    def paintEvent(self, _event: QPaintEvent) -> None:
        with QPainter(self) as painter:
            painter.setRenderHint(QPainter.RenderHint.Antialiasing)
            painter.setFont(font(SMALL))
            self._paint_axes(painter)
            painter.setClipRect(self.field.adjusted(-1, -1, 1, 1))
            for layer, right in self._layers:
                painter.save()
                layer(painter, lambda x, y, right=right: self.place(x, y, right=right))  # type: ignore[misc]
                painter.restore()
            painter.setClipping(False)
            for shown in self._dots:
                self._paint_dots(painter, shown)
            self._paint_ring(painter)
            self._paint_words(painter)

    def _across(self, painter: QPainter, colour: QColor, at: QPointF, *, upright: bool) -> None:
        field = self.field
        painter.setPen(QPen(colour, 1.5, Qt.PenStyle.DotLine if upright else Qt.PenStyle.SolidLine))
        if upright:
            painter.drawLine(QPointF(at.x(), field.top()), QPointF(at.x(), field.bottom()))
        else:
            painter.drawLine(QPointF(field.left(), at.y()), QPointF(field.right(), at.y()))

    def _paint_axes(self, painter: QPainter) -> None:
        field, palette = self.field, colours()
        faint = QColor(palette.line)
        faint.setAlphaF(0.45)
        for value in self.left.ticks(self._y.low, self._y.high, field.height()):
            y = self.place(self._x.low, value).y()
            painter.setPen(QPen(faint, 1))
            painter.drawLine(QPointF(field.left(), y), QPointF(field.right(), y))
            painter.setPen(palette.second)
            beside = QRectF(0, y - 8, field.left() - 6, 16)
            painter.drawText(beside, Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter, self.left.name(value))
        for value in self.bottom.ticks(self._x.low, self._x.high, field.width()):
            x = self.place(value, self._y.low).x()
            painter.setPen(QPen(faint, 1))
            painter.drawLine(QPointF(x, field.top()), QPointF(x, field.bottom()))
            painter.setPen(palette.second)
            painter.drawText(
                QRectF(x - 40, field.bottom() + 4, 80, 14), Qt.AlignmentFlag.AlignCenter, self.bottom.name(value)
            )
        painter.setPen(QPen(palette.line, 1))
        painter.drawLine(field.bottomLeft(), field.bottomRight())
        painter.drawLine(field.bottomLeft(), field.topLeft())
        painter.setPen(palette.second)
        below = QRectF(field.left(), field.bottom() + 20, field.width(), 16)
        painter.drawText(below, Qt.AlignmentFlag.AlignCenter, self.bottom.title)
        self._paint_upright(painter, self.left.title, 8.0, palette.second)
        if self.right is not None:
            for value in self.right.ticks(self._y_right.low, self._y_right.high, field.height()):
                y = self.place(self._x.low, value, right=True).y()
                painter.setPen(palette.picture)
                beside = QRectF(field.right() + 6, y - 8, _RIGHT - 24, 16)
                painter.drawText(
                    beside, Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter, self.right.name(value)
                )
            self._paint_upright(painter, self.right.title, self.width() - 8.0, palette.picture)

    def _paint_upright(self, painter: QPainter, words: str, x: float, colour: QColor) -> None:
        """Write words from the bottom to the top, with dots where the axis is too short for them."""
        room = self.height() - 8.0
        painter.save()
        painter.translate(x, self.height() / 2)
        painter.rotate(-90)
        painter.setPen(colour)
        words = painter.fontMetrics().elidedText(words, Qt.TextElideMode.ElideRight, int(room))
        painter.drawText(QRectF(-room / 2, -8, room, 16), Qt.AlignmentFlag.AlignCenter, words)
        painter.restore()

    def _paint_dots(self, painter: QPainter, shown: _Dots) -> None:
        edge = QPen(colours().sheet, 1)
        for x, y in zip(shown.x, shown.y, strict=True):
            at = self.place(x, y, right=shown.right)
            painter.setPen(edge)
            painter.setBrush(shown.colour)
            if shown.symbol == "x":
                painter.setPen(QPen(shown.colour, 2.4))
                for down in (DOT_PX, -DOT_PX):
                    painter.drawLine(at + QPointF(-DOT_PX, -down), at + QPointF(DOT_PX, down))
            elif shown.symbol == "o":
                painter.drawEllipse(at, DOT_PX, DOT_PX)
            else:
                painter.drawPolygon(QPolygonF([at + QPointF(a, b) * DOT_PX for a, b in _SHAPES[shown.symbol]]))

    def _paint_ring(self, painter: QPainter) -> None:
        if self._ring is not None:
            x, y, colour = self._ring
            painter.setPen(QPen(colour, 2))
            painter.setBrush(colours().sheet)
            painter.drawEllipse(self.place(x, y), 6, 6)

    def _paint_words(self, painter: QPainter) -> None:
        """Write all words, strong ones first, each where no other lies."""
        taken: list[QRectF] = []
        for words, x, y, anchor, colour, strong in sorted(self._words, key=lambda one: not one[5]):
            painter.setFont(bold(SMALL) if strong else font(SMALL))
            wide, high = painter.fontMetrics().horizontalAdvance(words) + 2.0, 15.0
            at, field = self.place(x, y), self.field
            left = min(max(at.x() - anchor[0] * wide, field.left()), max(field.right() - wide, field.left()))
            room = QRectF(left, at.y() - anchor[1] * high, wide, high)
            for down in (0.0, high, -high, 2 * high, -2 * high):
                here = room.translated(0, down)
                inside = here.top() >= 0 and here.bottom() <= field.bottom()
                if inside and not any(here.intersects(other) for other in taken):
                    room = here
                    break
            taken.append(room)
            painter.setPen(colour)
            painter.drawText(room, Qt.AlignmentFlag.AlignCenter, words)


def _around(values: Floats, share: float) -> Range:
    low, high = float(np.min(values)), float(np.max(values))
    room = share * (high - low) or share
    return replace(Range(), low=low - room, high=high + room)
