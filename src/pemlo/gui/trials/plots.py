"""The two plots of the trials stage: the ladder, and cost along the shot. Qt through pyqtgraph; GUI thread.

Loaded after the window is up, because pyqtgraph takes a while.
"""

import numpy as np
import pyqtgraph as pg
from PySide6.QtCore import Qt

from pemlo.core.arrays import Floats
from pemlo.core.units import format_duration
from pemlo.gui.common.axes import DoublingAxis, DurationAxis, FactorAxis, FrameAxis, PercentAxis
from pemlo.gui.common.colours import colours, mixed
from pemlo.gui.common.fonts import SMALL
from pemlo.gui.common.plot import BAND_OPACITY, DOT_PX, Plot
from pemlo.gui.trials.presenter import Along, Ladder, LadderLine, NoiseLadder, TrialDot


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
        self._axis.setLabel("noise left, % of brightness", **css)
        self._axis.setTextPen(pg.mkPen(colours().picture))

    def show_noise(self, noise: NoiseLadder) -> None:
        """Show the noise that trials left, as diamonds, and how it falls with samples, dotted."""
        self.noise.clear()
        known = bool(noise.dots)
        self._axis.setVisible(known)
        if not known:
            return
        palette = colours()
        if noise.curve is not None:
            x = np.log10(noise.curve.x)
            edges = [pg.PlotCurveItem(x, np.log10(y), pen=pg.mkPen(None)) for y in (noise.curve.low, noise.curve.high)]
            for edge in edges:
                self.noise.addItem(edge)
            band = pg.FillBetweenItem(*edges, brush=pg.mkBrush(palette.picture_light))
            band.setOpacity(BAND_OPACITY)  # the band of the seconds lies below it
            self.noise.addItem(band)
            pen = pg.mkPen(palette.picture, width=1.3, style=Qt.PenStyle.DotLine)
            self.noise.addItem(pg.PlotCurveItem(x, np.log10(noise.curve.middle), pen=pen))
        scatter = pg.ScatterPlotItem(
            [np.log10(dot.x) for dot in noise.dots],
            [np.log10(dot.y) for dot in noise.dots],
            size=DOT_PX,
            symbol="d",
            pen=pg.mkPen(palette.sheet, width=1),
            brush=pg.mkBrush(palette.picture),
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
    palette = colours()
    plan_line = next(line for line in ladder.lines if line.plan)
    x = np.log10(plan_line.samples)
    plot.add_band(x, np.log10(plan_line.curve.low), np.log10(plan_line.curve.high), palette.time_light)
    for line in ladder.lines:
        across, up = np.log10(line.samples), np.log10(line.curve.middle)
        if line.plan:
            plot.add_line(across, up, palette.time)
        else:
            plot.add_line(across, up, mixed(palette.time, palette.sheet, 0.45), 1.3, Qt.PenStyle.DashLine)
        plot.add_words(line.label, float(across[-1]), float(up[-1]), (1, 1), palette.time)
    dots = np.array([(dot.x, dot.y) for dot in ladder.dots]).reshape(-1, 2)
    _add_trials(plot, ladder.dots, np.log10(dots))
    samples, low, middle, high = ladder.plan
    plot.add_ring(float(np.log10(samples)), float(np.log10(middle)), palette.time)
    words = f"as planned: {format_duration(middle)} ({format_duration(low)} to {format_duration(high)})"
    at = float(np.log10(samples)), float(np.log10(middle))
    plot.add_words(words, *at, (1.03, 1.15), palette.time, strong=True)
    _fit_ladder(plot, ladder.lines, dots)
    plot.show_noise(ladder.noise)


def _add_trials(plot: Plot, dots: tuple[TrialDot, ...], at: Floats) -> None:
    """Show trials at (K, 2) places; those that look like a slip as crosses."""
    palette = colours()
    for doubtful in (False, True):
        chosen = [number for number, dot in enumerate(dots) if dot.doubtful == doubtful]
        colour, symbol = (palette.limit, "x") if doubtful else (palette.time, "o")
        plot.add_dots([dots[number] for number in chosen], at[chosen, 0], at[chosen, 1], colour, symbol)


def _fit_ladder(plot: Plot, lines: tuple[LadderLine, ...], dots: Floats) -> None:
    low = min([float(line.curve.low.min()) if line.plan else float(line.curve.middle.min()) for line in lines])
    high = max([float(line.curve.high.max()) if line.plan else float(line.curve.middle.max()) for line in lines])
    if len(dots):
        low, high = min(low, float(dots[:, 1].min())), max(high, float(dots[:, 1].max()))
    samples = lines[0].samples
    plot.set_range(np.log10(samples), np.log10([low, high]))


def make_along_plot() -> Plot:
    """Return an empty plot along the shot."""
    plot = Plot("Cost along the shot", FactorAxis("left"), FrameAxis())
    plot.name_axes("against the typical frame", "frame")
    return plot


def draw_along(plot: Plot, along: Along, next_frame: int | None) -> None:
    """Show the course of cost with its band, the trials, and where to time next."""
    plot.clear()
    curve, palette = along.curve, colours()
    axis = plot.getAxis("bottom")
    assert isinstance(axis, FrameAxis)
    axis.first, axis.last = int(curve.x[0]), int(curve.x[-1])
    low, middle, high = (np.log10(values) for values in (curve.low, curve.middle, curve.high))
    plot.add_band(curve.x, low, high, palette.time_light)
    plot.add_line(curve.x, middle, palette.time)
    dots = np.array([(dot.x, np.log10(dot.y)) for dot in along.dots]).reshape(-1, 2)
    bottom, top = float(low.min()), float(high.max())
    if len(dots):
        bottom, top = min(bottom, float(dots[:, 1].min())), max(top, float(dots[:, 1].max()))
    if next_frame is not None:
        plot.addItem(pg.InfiniteLine(next_frame, angle=90, pen=pg.mkPen(palette.ink, style=Qt.PenStyle.DotLine)))
        late = next_frame > (curve.x[0] + curve.x[-1]) / 2
        plot.add_words("time this one next", next_frame, top, (1.03 if late else -0.03, 0.1), palette.time, strong=True)
    _add_trials(plot, along.dots, dots)
    margin = 0.05 * max(float(curve.x[-1] - curve.x[0]), 1.0)
    plot.setXRange(float(curve.x[0]) - margin, float(curve.x[-1]) + margin, padding=0)
    plot.setYRange(bottom, top, padding=0.12)
