"""Axes for plots over durations, samples and factors: ticks where people expect them. Qt through pyqtgraph; GUI thread.

Plots hold logarithms to the base ten; the axes write what these stand for.
"""

import math

import numpy as np
import pyqtgraph as pg

from pemlo.core.units import MINUTE_S
from pemlo.gui.common.colours import colours
from pemlo.gui.common.fonts import SMALL, font

TICK_PX = 34.0
_SECONDS = (0.01, 0.03, 0.1, 0.3, 1, 3, 10, 30)
_MINUTES = (1, 3, 10, 30)
_HOURS = (1, 3, 10, 30, 100, 300, 1000)
_DURATIONS = [
    *((s, f"{s:g} s") for s in _SECONDS),
    *((60.0 * m, f"{m} m") for m in _MINUTES),
    *((60.0 * MINUTE_S * h, f"{h} h") for h in _HOURS),
]


class Axis(pg.AxisItem):
    """An axis in the program's own font and ink."""

    def __init__(self, orientation: str) -> None:
        super().__init__(orientation)
        self.enableAutoSIPrefix(False)
        palette = colours()
        self.setPen(pg.mkPen(palette.line))
        self.setTextPen(pg.mkPen(palette.second))
        self.setStyle(tickFont=font(SMALL), tickLength=0, tickTextOffset=6)

    def spaced(self, values: list[float], size: float, low: float, high: float) -> list[float]:
        """Thin ticks out until they have room."""
        inside = [value for value in values if low <= value <= high]
        room = max(int(size / TICK_PX), 2)
        every = max(1, math.ceil(len(inside) / room))
        return inside[::every]


class DurationAxis(Axis):
    """Log seconds."""

    def tickValues(self, minVal: float, maxVal: float, size: float) -> list[tuple[float, list[float]]]:
        ticks = [math.log10(seconds) for seconds, _ in _DURATIONS]
        if sum(minVal <= tick <= maxVal for tick in ticks) < 2:  # a narrow range: every step of its own
            ticks = sorted({math.log10(float(f"{10**v:.3g}")) for v in np.linspace(minVal, maxVal, 4)})
        return [(1.0, self.spaced(ticks, size, minVal, maxVal))]

    def tickStrings(self, values: list[float], scale: float, spacing: float) -> list[str]:  # noqa: ARG002
        return [_duration_name(10**value) for value in values]


def _duration_name(seconds: float) -> str:
    for known, name in _DURATIONS:
        if abs(seconds / known - 1) < 1e-6:
            return name
    if seconds < 100:
        return f"{seconds:.3g} s"
    return f"{seconds / 60:.3g} m" if seconds < 6000 else f"{seconds / 3600:.3g} h"


class DoublingAxis(Axis):
    """Log samples, at powers of two."""

    def tickValues(self, minVal: float, maxVal: float, size: float) -> list[tuple[float, list[float]]]:
        first, last = math.ceil(minVal / math.log10(2)), math.floor(maxVal / math.log10(2))
        ticks = [power * math.log10(2) for power in range(max(first, 0), last + 1)]
        return [(1.0, self.spaced(ticks, size, minVal, maxVal))]

    def tickStrings(self, values: list[float], scale: float, spacing: float) -> list[str]:  # noqa: ARG002
        return [f"{round(10**value)}" for value in values]


class PercentAxis(Axis):
    """Log shares, in percent."""

    SHARES = tuple(step * 10.0**power for power in range(-5, 3) for step in (1, 2, 5))

    def tickValues(self, minVal: float, maxVal: float, size: float) -> list[tuple[float, list[float]]]:
        edge = 0.04 * (maxVal - minVal)  # a label there would be cut off
        return [(1.0, self.spaced([math.log10(share) for share in self.SHARES], size, minVal + edge, maxVal - edge))]

    def tickStrings(self, values: list[float], scale: float, spacing: float) -> list[str]:  # noqa: ARG002
        return [f"{100 * 10**value:.3g} %" for value in values]


class CodesAxis(Axis):
    """Log errors, in codes of an 8-bit display."""

    CODES = tuple(step * 10.0**power for power in range(-3, 3) for step in (1, 1.5, 2, 3, 4, 5, 7))

    def tickValues(self, minVal: float, maxVal: float, size: float) -> list[tuple[float, list[float]]]:
        edge = 0.03 * (maxVal - minVal)
        return [(1.0, self.spaced([math.log10(code) for code in self.CODES], size, minVal + edge, maxVal - edge))]

    def tickStrings(self, values: list[float], scale: float, spacing: float) -> list[str]:  # noqa: ARG002
        return [f"{10**value:.3g}" for value in values]


class FactorAxis(Axis):
    """Log factors around one."""

    FACTORS = (0.1, 0.2, 0.3, 0.5, 0.7, 0.8, 0.9, 1.0, 1.1, 1.25, 1.5, 2.0, 3.0, 5.0, 10.0)

    def tickValues(self, minVal: float, maxVal: float, size: float) -> list[tuple[float, list[float]]]:
        finer = [[1 + number * step for number in range(-12, 13)] for step in (0.05, 0.02, 0.01)]
        for factors in (list(self.FACTORS), *finer):
            ticks = [math.log10(factor) for factor in factors if factor > 0]
            if sum(minVal <= tick <= maxVal for tick in ticks) >= 3:
                break  # else the range is narrow: finer steps
        return [(1.0, self.spaced(ticks, size, minVal, maxVal))]

    def tickStrings(self, values: list[float], scale: float, spacing: float) -> list[str]:  # noqa: ARG002
        return [f"×{10**value:.3g}" for value in values]


class FrameAxis(Axis):
    """Frame numbers: the first, the last, and round ones between."""

    def __init__(self) -> None:
        super().__init__("bottom")
        self.first, self.last = 1, 1

    def tickValues(self, minVal: float, maxVal: float, size: float) -> list[tuple[float, list[float]]]:  # noqa: ARG002
        span = self.last - self.first
        if span == 0:
            return [(1.0, [float(self.first)])]
        rough = span / max(size / 70, 1)
        magnitude = 10 ** math.floor(math.log10(max(rough, 1)))
        step = next(int(m * magnitude) for m in (1, 2, 5, 10) if m * magnitude >= rough)
        between = range(-(-self.first // step) * step, self.last, step)
        inner = [n for n in between if n - self.first > step / 2 and self.last - n > step / 2]
        return [(1.0, [float(n) for n in (self.first, *inner, self.last)])]

    def tickStrings(self, values: list[float], scale: float, spacing: float) -> list[str]:  # noqa: ARG002
        return [f"{round(value)}" for value in values]
