"""Where the hours of machines go, as one bar. GUI thread."""

from collections.abc import Sequence

from PySide6.QtCore import QPointF, QRectF, QSize, Qt
from PySide6.QtGui import QFontMetricsF, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QWidget

from pemlo.core.units import HOUR_S, format_span, round_figures
from pemlo.gui.common.colours import colours
from pemlo.gui.common.fonts import SMALL, bold, font


class SharesBar(QWidget):
    """Where the hours of the machines go, as one bar with its parts named below."""

    def __init__(self) -> None:
        super().__init__()
        self._shares: tuple[tuple[str, float], ...] = ()
        self.setFixedHeight(56)
        self.setAccessibleName("Where the clock hours go")

    def sizeHint(self) -> QSize:
        return QSize(250, 56)

    def show_shares(self, shares: Sequence[tuple[str, float]]) -> None:
        """Show the parts, in hours."""
        self._shares = tuple(shares)
        self.setAccessibleDescription("; ".join(f"{name} {_said(hours)}" for name, hours in shares))
        self.update()

    def paintEvent(self, _event: QPaintEvent) -> None:
        whole = sum(hours for _, hours in self._shares)
        if whole <= 0:
            return
        palette = colours()
        looks = (
            (palette.time, Qt.BrushStyle.SolidPattern),
            (palette.time, Qt.BrushStyle.Dense5Pattern),
            (palette.limit, Qt.BrushStyle.DiagCrossPattern),
            (palette.raised, Qt.BrushStyle.SolidPattern),
        )
        with QPainter(self) as painter:
            x, width = 0.5, self.width() - 1.0
            painter.setFont(font(SMALL))
            metrics = QFontMetricsF(painter.font())
            at, line = 0.0, 33.0
            for (name, hours), (colour, style) in zip(self._shares, looks, strict=True):
                box = QRectF(x, 2, width * hours / whole, 15)
                painter.fillRect(box, palette.raised)
                brush = painter.brush()
                brush.setColor(colour)
                brush.setStyle(style)
                painter.fillRect(box, brush)
                painter.setPen(QPen(palette.line, 1))
                painter.setBrush(Qt.BrushStyle.NoBrush)
                painter.drawRect(box)
                x += box.width()
                words = f"{name} {_said(hours)}"
                wide = metrics.horizontalAdvance(words) + 20
                if at + wide > width:
                    at, line = 0.0, line + 17
                swatch = QRectF(at + 0.5, line - 9, 9, 9)
                painter.fillRect(swatch, palette.raised)
                painter.fillRect(swatch, brush)
                painter.setPen(QPen(palette.second, 1))
                painter.drawRect(swatch)
                painter.setFont(bold(SMALL) if name == "frames" else font(SMALL))
                painter.setPen(palette.ink)
                painter.drawText(QPointF(at + 13, line), words)
                at += wide + 6


def _said(hours: float) -> str:
    return format_span(hours * HOUR_S) if 0 < hours < 1 else f"{round_figures(hours, 2)} h"
