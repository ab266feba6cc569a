"""Where the noise comes from: a bar parted by source, its words, and advice below. GUI thread."""

from collections.abc import Mapping

from PySide6.QtCore import QRectF, QSize, Qt
from PySide6.QtGui import QBrush, QPainter, QPaintEvent
from PySide6.QtWidgets import QSizePolicy, QVBoxLayout, QWidget

from pemlo.gui.common.colours import colours
from pemlo.gui.common.fonts import SMALL, font
from pemlo.gui.common.labels import label
from pemlo.gui.common.plain import set_tip
from pemlo.gui.judge.viewer.overlays import STROKES

_BAR, _LINE, _SWATCH = 14, 18, 12


class _Bar(QWidget):
    """The bar, and under it which stretch is what: shown by the same strokes as on the map."""

    def __init__(self) -> None:
        super().__init__()
        self.shares: dict[str, float] = {}
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)

    def sizeHint(self) -> QSize:
        return QSize(200, _BAR + 4 + _LINE * ((len(self.shares) + 1) // 2))

    def paintEvent(self, _event: QPaintEvent) -> None:
        left = 0.0
        with QPainter(self) as painter:
            painter.setFont(font(SMALL))
            for number, (name, share) in enumerate(self.shares.items()):
                width = share * self.width()
                self._fill(painter, QRectF(left, 0, max(width - 1, 1), _BAR), name)
                left += width
                x, y = (number % 2) * self.width() / 2, _BAR + 6 + _LINE * (number // 2)
                self._fill(painter, QRectF(x, y, _SWATCH, _SWATCH), name)
                painter.setPen(colours().ink)
                words = QRectF(x + _SWATCH + 5, y - 2, self.width() / 2 - _SWATCH - 6, _SWATCH + 4)
                painter.drawText(words, Qt.AlignmentFlag.AlignVCenter, f"{name} {share:.0%}")

    @staticmethod
    def _fill(painter: QPainter, rect: QRectF, name: str) -> None:
        palette = colours()
        painter.fillRect(rect, palette.picture if name in STROKES else palette.line)
        if name in STROKES:
            painter.fillRect(rect, QBrush(palette.sheet, STROKES[name]))


class SourcesBar(QWidget):
    """The bar with its title and advice; hidden where nothing is known."""

    def __init__(self) -> None:
        super().__init__()
        self._bar = _Bar()
        self.advice = label("", "second", wrap=True)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(4)
        for one in (label("Where the noise comes from", "title"), self._bar, self.advice):
            column.addWidget(one)

    def show_shares(self, shares: Mapping[str, float], advice: str) -> None:
        """Show each source's share of the noise's variance."""
        self._bar.shares = dict(shares)
        said = ", ".join(f"{name} {share:.0%}" for name, share in shares.items())
        self._bar.setAccessibleName(f"Where the noise comes from: {said}")
        tip = "Light from lights (shadow), off a gloss, through glass"
        set_tip(self._bar, f"Shares of the noise's variance: {said}. {tip}")
        self.advice.setText(advice)
        self.setVisible(bool(shares))
        self._bar.updateGeometry()
        self._bar.update()
