"""What rendering smaller costs to the eye: measured on the cleaner picture itself, nothing needs to be rendered. Pure.

The picture goes down to the smaller size by areas, as a renderer's pixels do, and up again by a cubic.
"""

from dataclasses import dataclass

import numpy as np

from pemlo.core.arrays import Floats
from pemlo.core.pixels.display import Display
from pemlo.core.pixels.rescale import kept_of_noise, smaller_size, there_and_back
from pemlo.core.pixels.source import ArraySource, Source
from pemlo.core.progress import Monitor, Unwatched

PERCENTS = (10.0, 20.0, 25.0, 30.0, 40.0, 50.0, 60.0, 67.0, 75.0, 80.0, 85.0, 90.0, 95.0, 100.0)
_ROWS, _MOST_PIXELS = 128, 500_000


@dataclass(frozen=True)
class ScalingCurve:
    """What rendering smaller loses: error over the percentage of each side, display codes; (K,) each, rising."""

    percents: Floats
    lost: Floats

    def at(self, percent: float) -> float:
        """Return what a size loses; nothing from the full size on."""
        return float(np.interp(percent, self.percents, self.lost))


def scaling_curve(reference: Source, display: Display, monitor: Monitor | None = None) -> ScalingCurve:
    """Measure on a clean picture what rendering smaller would lose, at some sizes.

    Raises
    ------
    Cancelled
        From the monitor.
    """
    lost, watch = [], monitor or Unwatched()
    reference = _sampled(reference)
    for number, percent in enumerate(PERCENTS):
        watch.step(number / len(PERCENTS), "Finding what smaller pictures lose")
        lost.append(_lost(reference, smaller_size(reference.size, percent), display))
    return ScalingCurve(np.array(PERCENTS), np.array(lost))


def _sampled(reference: Source) -> Source:
    """Return bands spread over a large picture, all of a small one, in memory: it is gone through many times."""
    width, height = reference.size
    count = max(1, _MOST_PIXELS // (width * _ROWS))
    if count * _ROWS >= height:
        whole = reference.rows(0, height)
        return ArraySource(whole.colour, whole.variance)
    firsts = [round(k * (height - _ROWS) / max(count - 1, 1)) for k in range(count)]
    bands = [reference.rows(first, first + _ROWS) for first in firsts]
    variances = [band.variance for band in bands if band.variance is not None]
    colour = np.concatenate([band.colour for band in bands])
    return ArraySource(colour, np.concatenate(variances) if variances else None)


def _lost(reference: Source, smaller: tuple[int, int], display: Display) -> float:
    """Return what rendering at a smaller size loses, display codes; the reference's own noise taken out."""
    size = reference.size
    if smaller[0] >= size[0]:
        return 0.0
    back, square, kept = there_and_back(reference, smaller, size), 0.0, kept_of_noise(smaller, size)
    for first in range(0, size[1], _ROWS):
        end = min(first + _ROWS, size[1])
        rows = reference.rows(first, end)
        wanted, found = display.codes(rows.colour), display.codes(back.rows(first, end).colour)
        square += float(np.sum((found - wanted) ** 2, dtype=np.float64))
        if rows.variance is not None:
            square -= kept * float(np.sum(display.spread(rows.colour, rows.variance)[0], dtype=np.float64))
    return float(np.sqrt(max(square / (size[0] * size[1] * 3), 0.0)))
