"""How the finish is spread, as a curve over time: hatched past the deadline. GUI thread."""

from collections.abc import Callable
from typing import TYPE_CHECKING

from PySide6.QtCore import QPointF, Qt
from PySide6.QtGui import QBrush, QColor, QPainter, QPen, QPolygonF

from pemlo.gui.common.colours import colours

if TYPE_CHECKING:
    from pemlo.core.forecast.finish_density import FinishDensity


def paint_hump(
    painter: QPainter, shown: "FinishDensity", deadline_h: float, x: Callable[[float], float], base: float, high: float
) -> None:
    """Paint a curve.

    Parameters
    ----------
    painter : QPainter
    shown : FinishDensity
    deadline_h : float
        Hours since the start.
    x : callable
        Says where an hour stands, px.
    base, high : float
        Where the curve is flat, and how high it is at most, px.
    """
    from pemlo.core.forecast.finish_density import FLAT  # noqa: PLC0415 - loads NumPy

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
