"""How runs of a shot look: four tints of the colour of time and five hatchings tell them apart. GUI thread."""

from PySide6.QtCore import QRectF, Qt
from PySide6.QtGui import QBrush, QColor, QPainter

from pemlo.gui.common.colours import colours, mixed

TINTS = (0.0, 0.35, 0.6, 0.82)  # shares of the light colour
HATCHES = (
    Qt.BrushStyle.NoBrush,
    Qt.BrushStyle.BDiagPattern,
    Qt.BrushStyle.HorPattern,
    Qt.BrushStyle.FDiagPattern,
    Qt.BrushStyle.VerPattern,
)


def tint(number: int) -> QColor:
    """Return the colour of a shot by its place in the film; neighbours differ."""
    palette = colours()
    return mixed(palette.time, palette.time_light, TINTS[number % len(TINTS)])


def ink_on(number: int) -> QColor:
    """Return the colour of words on it."""
    palette = colours()
    return palette.sheet if number % len(TINTS) < 2 else palette.ink


def fill(painter: QPainter, where: QRectF, number: int) -> None:
    """Fill a place with the look of a shot."""
    painter.fillRect(where, tint(number))
    hatch = HATCHES[number // len(TINTS) % len(HATCHES)]
    if hatch != Qt.BrushStyle.NoBrush:
        line = QColor(ink_on(number))
        line.setAlpha(110)
        painter.fillRect(where, QBrush(line, hatch))
