"""The two plots of the trials stage: the ladder, and cost along the shot. Qt through pyqtgraph; GUI thread.

Loaded after the window is up, because pyqtgraph takes a while.
"""

from collections.abc import Sequence

import numpy as np
import pyqtgraph as pg
from PySide6.QtCore import Qt, Signal
from PySide6.QtWidgets import QSizePolicy

from pemlo.core.arrays import Floats
from pemlo.core.units import format_duration
from pemlo.gui.common.colours import colours, mixed
from pemlo.gui.common.fonts import SMALL, bold, font
from pemlo.gui.trials.axes import DoublingAxis, DurationAxis, FactorAxis, FrameAxis, PercentAxis
from pemlo.gui.trials.presenter import Along, Dot, Ladder, LadderLine, NoiseLadder

DOT_PX = 9
BAND_OPACITY = 0.7


class Plot(pg.PlotWidget):
    """A still plot with its own labels; a click on a trial picks it.

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
        self.setMouseEnabled(False, False)
        self.hideButtons()
        self.showGrid(x=True, y=True, alpha=0.25)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)
        self.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        self.getViewBox().setDefaultPadding(0.0)

    def add_band(self, x: Floats, low: Floats, high: Floats) -> None:
        """Fill between two curves."""
        look = colours()
        clear = pg.mkPen(None)
        edges = [pg.PlotCurveItem(x, y, pen=clear) for y in (low, high)]
        for edge in edges:
            self.addItem(edge)
        self.addItem(pg.FillBetweenItem(*edges, brush=pg.mkBrush(look.time_light)))

    def add_line(self, x: Floats, y: Floats, *, strong: bool = True) -> None:
        look = colours()
        colour = look.time if strong else mixed(look.time, look.sheet, 0.45)
        style = Qt.PenStyle.SolidLine if strong else Qt.PenStyle.DashLine
        self.addItem(pg.PlotCurveItem(x, y, pen=pg.mkPen(colour, width=2 if strong else 1.3, style=style)))

    def add_dots(self, dots: Sequence[Dot], x: Floats, y: Floats) -> None:
        """Show trials; those that look like a slip as crosses."""
        look = colours()
        for doubtful in (False, True):
            chosen = [number for number, dot in enumerate(dots) if dot.doubtful == doubtful]
            if not chosen:
                continue
            scatter = pg.ScatterPlotItem(
                x[chosen],
                y[chosen],
                size=DOT_PX + 2 * doubtful,
                symbol="x" if doubtful else "o",
                pen=pg.mkPen(look.sheet, width=1),
                brush=pg.mkBrush(look.limit if doubtful else look.time),
                data=[dots[number] for number in chosen],
                hoverable=True,
                tip=lambda x, y, data: data.words,  # noqa: ARG005 - pyqtgraph's signature
            )
            scatter.sigClicked.connect(lambda _item, points, _event: self.picked.emit(points[0].data().index))
            self.addItem(scatter)

    def add_words(self, words: str, x: float, y: float, anchor: tuple[float, float], *, strong: bool = False) -> None:
        look = colours()
        text = pg.TextItem(words, color=look.time, anchor=anchor)
        text.setFont(bold(SMALL) if strong else font(SMALL))
        text.setPos(x, y)
        self.addItem(text)

    def name_axes(self, left: str, bottom: str) -> None:
        """Write what the axes measure."""
        css = {"color": colours().second.name(), "font-size": f"{SMALL}px", "font-family": "Inter"}
        self.setLabel("left", left, **css)
        self.setLabel("bottom", bottom, **css)


class LadderPlot(Plot):
    """Time over samples at the left, and noise over the same samples at the right."""

    def __init__(self) -> None:
        super().__init__("Ladder plot", DurationAxis("left"), DoublingAxis("bottom"))
        self.name_axes("time of a frame", "samples a pixel that were spent")
        self._axis = PercentAxis("right")
        item = self.getPlotItem()
        item.setAxisItems({"right": self._axis})
        self.noise = pg.ViewBox(enableMenu=False)
        self.noise.setMouseEnabled(False, False)
        self.noise.setDefaultPadding(0.0)
        item.scene().addItem(self.noise)
        self._axis.linkToView(self.noise)
        self.noise.setXLink(item)
        item.vb.sigResized.connect(lambda: self.noise.setGeometry(item.vb.sceneBoundingRect()))
        css = {"color": colours().picture.name(), "font-size": f"{SMALL}px", "font-family": "Inter"}
        self._axis.setLabel("noise left, of the mean brightness", **css)
        self._axis.setTextPen(pg.mkPen(colours().picture))

    def show_noise(self, noise: NoiseLadder) -> None:
        """Show the noise that trials left, as diamonds, and how it falls with samples, dotted."""
        self.noise.clear()
        known = bool(noise.dots)
        self._axis.setVisible(known)
        if not known:
            return
        look = colours()
        if noise.curve is not None:
            x = np.log10(noise.curve.x)
            edges = [pg.PlotCurveItem(x, np.log10(y), pen=pg.mkPen(None)) for y in (noise.curve.low, noise.curve.high)]
            for edge in edges:
                self.noise.addItem(edge)
            band = pg.FillBetweenItem(*edges, brush=pg.mkBrush(look.picture_light))
            band.setOpacity(BAND_OPACITY)  # the band of the seconds lies below it
            self.noise.addItem(band)
            pen = pg.mkPen(look.picture, width=1.3, style=Qt.PenStyle.DotLine)
            self.noise.addItem(pg.PlotCurveItem(x, np.log10(noise.curve.middle), pen=pen))
        scatter = pg.ScatterPlotItem(
            [np.log10(dot.x) for dot in noise.dots],
            [np.log10(dot.y) for dot in noise.dots],
            size=DOT_PX,
            symbol="d",
            pen=pg.mkPen(look.sheet, width=1),
            brush=pg.mkBrush(look.picture),
            data=list(noise.dots),
            hoverable=True,
            tip=lambda x, y, data: data.words,  # noqa: ARG005 - pyqtgraph's signature
        )
        scatter.sigClicked.connect(lambda _item, points, _event: self.picked.emit(points[0].data().index))
        self.noise.addItem(scatter)
        values = np.concatenate(
            [[dot.y for dot in noise.dots], [] if noise.curve is None else [noise.curve.high[0], noise.curve.low[-1]]]
        )
        self.noise.setYRange(float(np.log10(values.min())), float(np.log10(values.max())), padding=0.08)


def make_ladder_plot() -> LadderPlot:
    """Return an empty ladder plot."""
    return LadderPlot()


def draw_ladder(plot: LadderPlot, ladder: Ladder) -> None:
    """Show a ladder: the plan's line with its band, dashed lines for other sizes, trials, and the plan itself."""
    plot.clear()
    plan_line = next(line for line in ladder.lines if line.plan)
    x = np.log10(plan_line.samples)
    plot.add_band(x, np.log10(plan_line.curve.low), np.log10(plan_line.curve.high))
    for line in ladder.lines:
        plot.add_line(np.log10(line.samples), np.log10(line.curve.middle), strong=line.plan)
        plot.add_words(line.label, float(np.log10(line.samples[-1])), float(np.log10(line.curve.middle[-1])), (1, 1))
    dots = np.array([(dot.x, dot.y) for dot in ladder.dots]).reshape(-1, 2)
    plot.add_dots(ladder.dots, np.log10(dots[:, 0]), np.log10(dots[:, 1]))
    samples, low, middle, high = ladder.plan
    _draw_plan(plot, samples, middle)
    words = f"as planned: {format_duration(middle)} ({format_duration(low)} to {format_duration(high)})"
    plot.add_words(words, float(np.log10(samples)), float(np.log10(middle)), (1.03, 1.15), strong=True)
    _fit_ladder(plot, ladder.lines, dots)
    plot.show_noise(ladder.noise)


def _draw_plan(plot: Plot, samples: float, seconds: float) -> None:
    look = colours()
    plot.addItem(
        pg.ScatterPlotItem(
            [np.log10(samples)], [np.log10(seconds)], size=12, pen=pg.mkPen(look.time, width=2),
            brush=pg.mkBrush(look.sheet),
        )
    )  # fmt: skip


def _fit_ladder(plot: Plot, lines: tuple[LadderLine, ...], dots: Floats) -> None:
    low = min([float(line.curve.low.min()) if line.plan else float(line.curve.middle.min()) for line in lines])
    high = max([float(line.curve.high.max()) if line.plan else float(line.curve.middle.max()) for line in lines])
    if len(dots):
        low, high = min(low, float(dots[:, 1].min())), max(high, float(dots[:, 1].max()))
    samples = lines[0].samples
    plot.setXRange(float(np.log10(samples[0])), float(np.log10(samples[-1])), padding=0.02)
    plot.setYRange(float(np.log10(low)), float(np.log10(high)), padding=0.08)


def make_along_plot() -> Plot:
    """Return an empty plot along the shot."""
    plot = Plot("Cost along the shot", FactorAxis("left"), FrameAxis())
    plot.name_axes("against the typical frame", "frame")
    return plot


def draw_along(plot: Plot, along: Along, next_frame: int | None) -> None:
    """Show the course of cost with its band, the trials, and where to time next."""
    plot.clear()
    curve = along.curve
    axis = plot.getAxis("bottom")
    assert isinstance(axis, FrameAxis)
    axis.first, axis.last = int(curve.x[0]), int(curve.x[-1])
    low, middle, high = (np.log10(values) for values in (curve.low, curve.middle, curve.high))
    plot.add_band(curve.x, low, high)
    plot.add_line(curve.x, middle)
    dots = np.array([(dot.x, np.log10(dot.y)) for dot in along.dots]).reshape(-1, 2)
    bottom, top = float(low.min()), float(high.max())
    if len(dots):
        bottom, top = min(bottom, float(dots[:, 1].min())), max(top, float(dots[:, 1].max()))
    if next_frame is not None:
        look = colours()
        plot.addItem(pg.InfiniteLine(next_frame, angle=90, pen=pg.mkPen(look.ink, style=Qt.PenStyle.DotLine)))
        late = next_frame > (curve.x[0] + curve.x[-1]) / 2
        plot.add_words("time this one next", next_frame, top, (1.03 if late else -0.03, 0.1), strong=True)
    plot.add_dots(along.dots, dots[:, 0], dots[:, 1])
    margin = 0.05 * max(float(curve.x[-1] - curve.x[0]), 1.0)
    plot.setXRange(float(curve.x[0]) - margin, float(curve.x[-1]) + margin, padding=0)
    plot.setYRange(bottom, top, padding=0.12)
