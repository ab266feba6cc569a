"""A still plot: bands, lines, dots that can be picked, and words, over two axes or three. GUI thread.

What it shows is kept as layers, and said to a screen reader as its values.
"""

from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace
from typing import Protocol

import numpy as np
from PySide6.QtCore import QEvent, QPointF, QRectF, Qt, Signal
from PySide6.QtGui import QFontMetricsF, QHelpEvent, QMouseEvent, QPainter, QPaintEvent, QPen, QPolygonF
from PySide6.QtWidgets import QSizePolicy, QWidget

from pemlo.core.arrays import Floats
from pemlo.gui.common.axes import Axis
from pemlo.gui.common.fonts import SMALL, font
from pemlo.gui.common.plain import show_tip
from pemlo.gui.common.plot_ink import DOT_PX, ink, paint_plot

NEAR_PX = 8.0
BAND_OPACITY = 0.7
_TOP, _BOTTOM, _BARE = 8.0, 40.0, 12.0
_MOST_SAID = 40  # dots that are said one by one


class Dot(Protocol):
    """What is known of a dot: the words that it shows, and the trial that a click on it picks."""

    @property
    def words(self) -> str: ...

    @property
    def index(self) -> int: ...


@dataclass(frozen=True)
class Dots:
    """Dots, where they stand, and how they look; at the scale of the right axis or the left one."""

    dots: Sequence[Dot]
    x: Floats
    y: Floats
    colour: str
    symbol: str
    right: bool
    size: float


@dataclass(frozen=True)
class Range:
    """Lowest and highest values that are shown."""

    low: float = 0.0
    high: float = 1.0

    def share(self, value: float) -> float:
        """Return where a value lies between the lowest (0) and the highest (1)."""
        return (value - self.low) / max(self.high - self.low, 1e-12)


Place = Callable[[float, float], QPointF]
# Colours go by their names in `Colours`, and are looked up when the plot is painted: a theme changes them.
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
        self.right_ink = "picture"
        self.x_range, self.y_range, self.right_range = Range(), Range(), Range()
        self.layers: list[tuple[Layer, bool]] = []
        self.dots: list[Dots] = []
        self.words: list[tuple[str, float, float, tuple[float, float], str, bool]] = []
        self.ring: tuple[float, float, str] | None = None
        self.lines: list[tuple[Floats, Floats]] = []
        self._beside = _BARE, _BARE
        self._band_count = 0
        self.nothing = ""  # what stands in an empty plot
        self.setAccessibleName(name)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)
        self.setMinimumSize(160, 90)
        self.setMouseTracking(True)

    # What is shown

    def clear(self) -> None:
        """Take everything away."""
        for shown in (self.layers, self.dots, self.words, self.lines):
            shown.clear()
        self.ring, self.right, self._band_count = None, None, 0
        self.setAccessibleDescription(self.nothing)
        self.update()

    def add_band(
        self, x: Floats, low: Floats, high: Floats, colour: str, opacity: float = 1.0, *, right: bool = False
    ) -> None:
        """Fill between two curves."""

        def paint(painter: QPainter, place: Place) -> None:
            edge = [place(*at) for at in zip(x, low, strict=True)] + [
                place(*at) for at in zip(x[::-1], high[::-1], strict=True)
            ]
            painter.setOpacity(opacity)
            painter.setPen(Qt.PenStyle.NoPen)
            painter.setBrush(ink(colour))
            painter.drawPolygon(QPolygonF(edge))

        self.layers.insert(self._band_count, (paint, right))  # under every line
        self._band_count += 1

    def add_line(
        self,
        x: Floats,
        y: Floats,
        colour: str,
        width: float = 2.0,
        style: Qt.PenStyle = Qt.PenStyle.SolidLine,
        *,
        right: bool = False,
        opacity: float = 1.0,
    ) -> None:
        """Draw a curve."""
        self.lines.append((x, y))

        def paint(painter: QPainter, place: Place) -> None:
            painter.setOpacity(opacity)
            painter.setPen(QPen(ink(colour), width, style))
            painter.drawPolyline(QPolygonF([place(*at) for at in zip(x, y, strict=True)]))

        self.layers.append((paint, right))

    def add_level(self, y: float, colour: str, *, dashed: bool = False) -> None:
        """Draw a line across."""

        def paint(painter: QPainter, place: Place) -> None:
            up, field = place(self.x_range.low, y).y(), self.field
            painter.setPen(QPen(ink(colour), 1.5, Qt.PenStyle.DashLine if dashed else Qt.PenStyle.SolidLine))
            painter.drawLine(QPointF(field.left(), up), QPointF(field.right(), up))

        self.layers.append((paint, False))

    def add_moment(self, x: float, colour: str) -> None:
        """Draw a dotted line from the bottom to the top."""

        def paint(painter: QPainter, place: Place) -> None:
            across, field = place(x, self.y_range.low).x(), self.field
            painter.setPen(QPen(ink(colour), 1.5, Qt.PenStyle.DotLine))
            painter.drawLine(QPointF(across, field.top()), QPointF(across, field.bottom()))

        self.layers.append((paint, False))

    def add_dots(
        self,
        dots: Sequence[Dot],
        x: Floats,
        y: Floats,
        colour: str,
        symbol: str = "o",
        *,
        right: bool = False,
        size: float = DOT_PX,
    ) -> None:
        """Show dots; `size` is half their width, px."""
        if len(dots):
            self.dots.append(Dots(dots, np.asarray(x, float), np.asarray(y, float), colour, symbol, right, size))

    def add_words(
        self, words: str, x: float, y: float, anchor: tuple[float, float], colour: str, *, strong: bool = False
    ) -> None:
        """Write words whose `anchor` - shares of their width and height - lies at a place."""
        self.words.append((words, x, y, anchor, colour, strong))

    def show_ring(self, x: float | None, y: float | None, colour: str) -> None:
        """Show one hollow mark at what log10 of two values says, in place of the last; none without values."""
        self.ring = None
        if x and y:
            self.add_ring(float(np.log10(x)), float(np.log10(y)), colour)
        self.update()

    def add_ring(self, x: float, y: float, colour: str) -> None:
        """Show one hollow mark."""
        self.ring = x, y, colour

    def set_range(self, x: Floats, y: Floats, *, margins: tuple[float, float] = (0.02, 0.08)) -> None:
        """Show all of some values, with a little room around, and say them."""
        self.x_range, self.y_range = _around(x, margins[0]), _around(y, margins[1])
        # As much room beside as the figures of the axes take.
        self._beside = (
            _room(self.left, self.y_range),
            _BARE if self.right is None else _room(self.right, self.right_range),
        )
        self.setAccessibleDescription(self.values())
        self.update()

    def set_right(self, axis: Axis, y: Floats, colour: str = "picture") -> None:
        """Show an axis at the right, over all of some values; before the range of the rest is set."""
        self.right, self.right_range, self.right_ink = axis, _around(y, 0.08), colour

    def values(self) -> str:
        """Return what it shows, in words: its axes, and each of its dots."""
        said = [dot.words for shown in self.dots for dot in shown.dots]
        more = f"; and {len(said) - _MOST_SAID} more" if len(said) > _MOST_SAID else ""
        axes = f"{self.left.title} over {self.bottom.title}"
        names = [words for words, *_ in self.words]
        return f"{axes}. {'; '.join(names)}. {'; '.join(said[:_MOST_SAID])}{more}"

    # Where things lie

    @property
    def field(self) -> QRectF:
        """The part between the axes, px."""
        wide = self.width() - self._beside[0] - self._beside[1]
        return QRectF(self._beside[0], _TOP, max(wide, 10.0), max(self.height() - _TOP - _BOTTOM, 10.0))

    def place(self, x: float, y: float, *, right: bool = False) -> QPointF:
        """Return where a value lies, px."""
        field, up = self.field, self.right_range if right else self.y_range
        return QPointF(
            field.left() + field.width() * self.x_range.share(x), field.bottom() - field.height() * up.share(y)
        )

    def dot_at(self, at: QPointF) -> Dot | None:
        """Return the dot under the mouse, if any."""
        near, found = NEAR_PX, None
        for shown in self.dots:
            first, unit = self.place(0.0, 0.0, right=shown.right), self.place(1.0, 1.0, right=shown.right)
            across = first.x() + shown.x * (unit.x() - first.x()) - at.x()
            up = first.y() + shown.y * (unit.y() - first.y()) - at.y()
            away = np.hypot(across, up)
            number = int(np.argmin(away))
            if away[number] <= near:
                near, found = float(away[number]), shown.dots[number]
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

    def paintEvent(self, _event: QPaintEvent) -> None:
        with QPainter(self) as painter:
            paint_plot(painter, self)


def _room(axis: Axis, shown: Range) -> float:
    """Return how much room an axis needs beside the field: its figures, and its title upright."""
    metrics = QFontMetricsF(font(SMALL))
    widest = max(
        (metrics.horizontalAdvance(axis.name(at)) for at in axis.ticks(shown.low, shown.high, 400.0)), default=0.0
    )
    return widest + 12.0 + (18.0 if axis.title else 0.0)


def _around(values: Floats, share: float) -> Range:
    low, high = float(np.min(values)), float(np.max(values))
    room = share * (high - low) or share
    return replace(Range(), low=low - room, high=high + room)
