"""How the finish is spread, as a curve over time: hatched past the deadline. GUI thread."""

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np
from PySide6.QtCore import QPointF, Qt
from PySide6.QtGui import QBrush, QColor, QPainter, QPen, QPolygonF

from pemlo.core.arrays import Floats
from pemlo.gui.common.colours import colours

HUMP_POINTS = 240
FLAT = 0.004  # a part that is lower than this is not seen


@dataclass(frozen=True)
class Hump:
    """The finish as a curve: hours since the start, and height 0 to 1."""

    at: Floats
    height: Floats


def hump(finish_h: Floats, last_h: float) -> Hump:
    """Return a smooth curve of how the finish is spread, over 0 to `last_h`; flat where nothing finishes."""
    at = np.linspace(0.0, last_h, HUMP_POINTS)
    finite = finish_h[np.isfinite(finish_h)]
    if not len(finite):
        return Hump(at, np.zeros(HUMP_POINTS))
    width = max(1.06 * float(np.std(finite)) * len(finite) ** -0.2, last_h / 400)
    density = np.exp(-0.5 * ((at[:, None] - finite[None, :]) / width) ** 2).sum(axis=1)
    return Hump(at, density / max(float(density.max()), 1e-12))


def paint_hump(
    painter: QPainter, shown: Hump, deadline_h: float, x: Callable[[float], float], base: float, high: float
) -> None:
    """Paint a curve.

    Parameters
    ----------
    painter : QPainter
    shown : Hump
    deadline_h : float
        Hours since the start.
    x : callable
        Says where an hour stands, px.
    base, high : float
        Where the curve is flat, and how high it is at most, px.
    """
    palette = colours()
    for past in (False, True):
        inside = shown.at > deadline_h if past else shown.at <= deadline_h
        at, height = shown.at[inside], shown.height[inside]
        if len(at) < 2 or height.max() < FLAT:
            continue
        shape = QPolygonF([QPointF(x(float(at[0])), base)])
        for hours, tall in zip(at, height, strict=True):
            shape.append(QPointF(x(float(hours)), base - high * float(tall)))
        shape.append(QPointF(x(float(at[-1])), base))
        painter.setPen(QPen(palette.limit if past else palette.time, 1.2))
        painter.setBrush(palette.limit_light if past else palette.time)
        painter.drawPolygon(shape)
        if past:
            painter.setBrush(QBrush(QColor(palette.limit), Qt.BrushStyle.BDiagPattern))
            painter.drawPolygon(shape)
