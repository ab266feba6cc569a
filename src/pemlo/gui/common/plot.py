"""A still plot with its own labels. Qt through pyqtgraph; GUI thread.

Loaded after the window is up, because pyqtgraph takes a while.
"""

from collections.abc import Sequence
from typing import Protocol

import numpy as np
import pyqtgraph as pg
from PySide6.QtCore import Qt, Signal
from PySide6.QtGui import QColor
from PySide6.QtWidgets import QSizePolicy

from pemlo.core.arrays import Floats
from pemlo.gui.common.colours import colours
from pemlo.gui.common.fonts import SMALL, bold, font

DOT_PX = 9
BAND_OPACITY = 0.7


class Dot(Protocol):
    """What is known of a dot: the words that it shows, and the trial that a click on it picks."""

    @property
    def words(self) -> str: ...

    @property
    def index(self) -> int: ...


class Plot(pg.PlotWidget):
    """A still plot; a click on a trial picks it.

    Signals
    -------
    picked(int)
        Index of a trial in the project.
    """

    picked = Signal(int)

    def __init__(self, name: str, left: pg.AxisItem, bottom: pg.AxisItem) -> None:
        super().__init__(axisItems={"left": left, "bottom": bottom}, background=None)
        self.setAccessibleName(name)
        self.setMenuEnabled(False)
        # The menu that the library makes for each plot has no parent: it would outlive the plot, never shown.
        self.plotItem.ctrlMenu = None
        self.setMouseEnabled(False, False)
        self.hideButtons()
        self.showGrid(x=True, y=True, alpha=0.25)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)
        self.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        self.getViewBox().setDefaultPadding(0.0)
        self._ring: pg.ScatterPlotItem | None = None

    def add_band(self, x: Floats, low: Floats, high: Floats, colour: QColor, opacity: float = 1.0) -> None:
        """Fill between two curves."""
        clear = pg.mkPen(None)
        edges = [pg.PlotCurveItem(x, y, pen=clear) for y in (low, high)]
        for edge in edges:
            self.addItem(edge)
        band = pg.FillBetweenItem(*edges, brush=pg.mkBrush(colour))
        band.setOpacity(opacity)
        self.addItem(band)

    def add_line(
        self,
        x: Floats,
        y: Floats,
        colour: QColor,
        width: float = 2.0,
        style: Qt.PenStyle = Qt.PenStyle.SolidLine,
    ) -> None:
        self.addItem(pg.PlotCurveItem(x, y, pen=pg.mkPen(colour, width=width, style=style)))

    def add_dots(self, dots: Sequence[Dot], x: Floats, y: Floats, colour: QColor, symbol: str = "o") -> None:
        """Show trials."""
        if not len(dots):
            return
        scatter = pg.ScatterPlotItem(
            x,
            y,
            size=DOT_PX + 2 * (symbol == "x"),
            symbol=symbol,
            pen=pg.mkPen(colours().sheet, width=1),
            brush=pg.mkBrush(colour),
            data=list(dots),
            hoverable=True,
            tip=lambda x, y, data: data.words,  # noqa: ARG005 - pyqtgraph's signature
        )
        scatter.sigClicked.connect(lambda _item, points, _event: self.picked.emit(points[0].data().index))
        self.addItem(scatter)

    def add_ring(self, x: float, y: float, colour: QColor) -> pg.ScatterPlotItem:
        """Show what is not rendered: a hollow mark."""
        pen, brush = pg.mkPen(colour, width=2), pg.mkBrush(colours().sheet)
        made = pg.ScatterPlotItem([x], [y], size=12, pen=pen, brush=brush)
        self.addItem(made)
        return made

    def show_ring(self, x: float | None, y: float | None, colour: QColor) -> None:
        """Show one hollow mark at what log10 of two values says, in place of the last; none without values."""
        if self._ring is not None:
            self.removeItem(self._ring)
            self._ring = None
        if x and y:
            self._ring = self.add_ring(float(np.log10(x)), float(np.log10(y)), colour)

    def add_level(self, y: float, colour: QColor) -> None:
        """Draw a line across."""
        self.addItem(pg.InfiniteLine(y, angle=0, pen=pg.mkPen(colour, width=1.5)))

    def add_words(
        self, words: str, x: float, y: float, anchor: tuple[float, float], colour: QColor, *, strong: bool = False
    ) -> None:
        text = pg.TextItem(words, color=colour, anchor=anchor)
        text.setFont(bold(SMALL) if strong else font(SMALL))
        text.setPos(x, y)
        self.addItem(text)

    def name_axes(self, left: str, bottom: str) -> None:
        """Write what the axes measure."""
        css = {"color": colours().second.name(), "font-size": f"{SMALL}px", "font-family": "Inter"}
        self.setLabel("left", left, **css)
        self.setLabel("bottom", bottom, **css)

    def set_range(self, x: Floats, y: Floats) -> None:
        """Show all of some values, with a little room above and below."""
        self.setXRange(float(np.min(x)), float(np.max(x)), padding=0.02)
        self.setYRange(float(np.min(y)), float(np.max(y)), padding=0.08)
