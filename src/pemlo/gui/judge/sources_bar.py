"""Where the noise comes from: a bar parted by source, its words, and advice below. GUI thread."""

from collections.abc import Mapping

from PySide6.QtCore import QRectF
from PySide6.QtGui import QPainter, QPaintEvent
from PySide6.QtWidgets import QVBoxLayout, QWidget

from pemlo.gui.common.colours import colours, mixed
from pemlo.gui.common.labels import label

_BAR = 14


class _Bar(QWidget):
    def __init__(self) -> None:
        super().__init__()
        self.shares: dict[str, float] = {}
        self.setFixedHeight(_BAR)

    def paintEvent(self, _event: QPaintEvent) -> None:
        look, left = colours(), 0.0
        with QPainter(self) as painter:
            for number, (name, share) in enumerate(self.shares.items()):
                width = share * self.width()
                shade = look.line if name == "rest" else mixed(look.picture, look.picture_light, 0.35 * number)
                painter.fillRect(QRectF(left, 0, max(width - 1, 1), _BAR), shade)
                left += width


class SourcesBar(QWidget):
    """The bar with its title and advice; hidden where nothing is known."""

    def __init__(self) -> None:
        super().__init__()
        self._bar = _Bar()
        self._said = label("", small=True, wrap=True)
        self.advice = label("", "second", wrap=True)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(4)
        for one in (label("Where the noise comes from", "title"), self._bar, self._said, self.advice):
            column.addWidget(one)

    def show_shares(self, shares: Mapping[str, float], advice: str) -> None:
        """Show each source's share of the noise's variance."""
        self._bar.shares = dict(shares)
        said = ", ".join(f"{name} {share:.0%}" for name, share in shares.items())
        self._bar.setAccessibleName(f"Where the noise comes from: {said}")
        tip = "Light from lights (shadow), off a gloss, through glass"
        self._bar.setToolTip(f"Shares of the noise's variance: {said}. {tip}")
        self._said.setText(said)
        self.advice.setText(advice)
        self.setVisible(bool(shares))
        self._bar.update()
