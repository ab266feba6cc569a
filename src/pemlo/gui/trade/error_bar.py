"""A shot's error as planned, part by part, against its ceiling. GUI thread."""

from typing import TYPE_CHECKING

import numpy as np
from PySide6.QtCore import QPointF, QRectF, QSize, Qt
from PySide6.QtGui import QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QWidget

from pemlo.gui.common.colours import colours, mixed
from pemlo.gui.common.fonts import SMALL, font
from pemlo.gui.common.plain import set_tip

if TYPE_CHECKING:
    from pemlo.core.predict.error_model import Prediction


def parts_of(found: "Prediction") -> list[tuple[str, float]]:
    """Return the parts of an error as shares of its square, which add up; largest first is not asked for."""
    parts = [("scaling", found.scaling)]
    if found.grain is not None:
        parts = [("grain", found.grain.value), *parts]
    if found.softening is not None:
        parts = [parts[0], ("softening", found.softening.value), *parts[1:]]
    if found.switching:
        parts.append(("switches", found.switching))
    rest = max(found.total.value**2 - sum(value**2 for _, value in parts), 0.0) ** 0.5
    name = "stepping" if found.grain is not None else "grain and softening"
    known = [*parts, (name, rest)]
    return [(words, value) for words, value in known if value**2 > 0.002 * found.total.value**2]


class ErrorBar(QWidget):
    """The bar: as long as the error, parted by how much of its square each part is; the ceiling is a line across."""

    def __init__(self) -> None:
        super().__init__()
        self._parts: list[tuple[str, float]] = []
        self._total, self._ceiling = 0.0, float("nan")
        self.setFixedHeight(40)

    def sizeHint(self) -> QSize:
        return QSize(260, 40)

    def show_error(self, found: "Prediction | None", ceiling: float) -> None:
        self._parts = [] if found is None else parts_of(found)
        self._total = 0.0 if found is None else found.total.value
        self._ceiling = ceiling
        said = ", ".join(f"{name} {value:.1f}" for name, value in self._parts)
        self.setAccessibleName(f"Error {self._total:.1f} levels: {said}")
        set_tip(self, f"{said} levels. Parts add in squares, and are as long as their share of the square")
        self.setVisible(found is not None)
        self.update()

    def paintEvent(self, _event: QPaintEvent) -> None:
        palette = colours()
        top = max(self._total, 0.0 if np.isnan(self._ceiling) else self._ceiling, 1e-6) * 1.2
        scale = self.width() / top
        with QPainter(self) as painter:
            painter.setFont(font(SMALL))
            painter.setPen(QPen(palette.line, 1))
            painter.drawRect(QRectF(0.5, 2.5, self.width() - 1, 14))
            x, squares = 1.0, sum(value**2 for _, value in self._parts) or 1.0
            for number, (_, value) in enumerate(self._parts):
                width = value**2 / squares * self._total * scale
                painter.fillRect(QRectF(x, 3, width, 14), mixed(palette.picture, palette.picture_light, 0.4 * number))
                x += width
            if not np.isnan(self._ceiling):
                at = self._ceiling * scale
                painter.setPen(QPen(palette.limit, 2))
                painter.drawLine(QPointF(at, 0), QPointF(at, 20))
            painter.setPen(palette.second)
            words = "   ".join(f"{name} {value:.1f}" for name, value in self._parts)
            painter.drawText(QRectF(0, 22, self.width(), 16), Qt.AlignmentFlag.AlignLeft, words)
