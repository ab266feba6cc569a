"""How grain runs against samples: from one picture with its variance to what other samples would leave. Pure.

Light of more samples varies by as much less, pixel by pixel, and the display's curve is gone through anew. With a noise
threshold pixels take samples by need, so that the same mean leaves less: each threshold is tried on the same pixels.
"""

from collections.abc import Iterator
from dataclasses import dataclass, replace
from functools import cached_property
from typing import Any

import numpy as np
import numpy.typing as npt
from scipy.ndimage import uniform_filter

from pemlo.core.arrays import Floats
from pemlo.core.interval import Interval
from pemlo.core.pixels.display import F32, Display
from pemlo.core.pixels.luma import DARK, LUMA
from pemlo.core.predict.power_laws import around

LEAST_SAMPLES, MOST_SAMPLES, GRID = 1.0, 65536.0, 17
# Variance that few samples showed is itself not known better (log, of grain): the tails of light.
GRAIN_SCATTER = 0.04
_NEIGHBOURHOOD = 5  # pixels across which a renderer looks before it calls one clean


@dataclass(frozen=True)
class Noise:
    """What noise one sample a pixel has.

    Attributes
    ----------
    mean : (H, W, 3) float32
        Scene-linear, as clean as there is.
    one : (H, W, 3) float32
        Variance of one sample.
    seen : float
        Samples a pixel by which it was seen.
    """

    mean: F32
    one: F32
    seen: float


@dataclass(frozen=True)
class GrainCurve:
    """Grain of a frame over mean samples a pixel.

    Attributes
    ----------
    samples, mean : (K,) ndarray
        Samples a pixel, rising; root mean square error that their noise makes over the frame, display codes.
    seen : float
        Samples a pixel by which the noise was seen.
    """

    samples: Floats
    mean: Floats
    seen: float

    def off(self, error: float, samples: float) -> float:
        """Return by which factor the curve misses an error that was measured.

        Light has long tails, and a normal number with its variance shows otherwise on a display: on renders the curve
        alone was up to a quarter off, its course hardly.
        """
        found = self.at(samples).middle
        return error / found if found > 0 and error > 0 else 1.0

    def times(self, factor: float) -> "GrainCurve":
        """Return the curve of all errors so many times as large."""
        return replace(self, mean=self.mean * factor)

    def at(self, samples: Any, gain: float = 1.0) -> Interval:  # noqa: ANN401 - a number or an array of them
        """Return the error that the noise of so many samples makes; `gain` multiplies its variance.

        Of many numbers of samples at once where they are an array.
        """
        log: Any = np.interp(np.log(np.asarray(samples) / gain), *self._logs)
        # The fewer were seen, and the farther from there, the less is known.
        off = np.abs(np.log(np.asarray(samples) / self.seen))
        return around(log, np.hypot(GRAIN_SCATTER + 0.3 / np.sqrt(self.seen), 0.02 * off))

    @cached_property
    def _logs(self) -> tuple[Floats, Floats]:
        return np.log(self.samples), np.log(np.maximum(self.mean, 1e-6))

    def samples_for(self, error: float) -> Any:  # noqa: ANN401 - a number or an array, as the errors are
        """Return the samples whose noise makes an error; from the ends of the curve on as one over the root.

        Of many errors at once where they are an array.
        """
        falling = np.log(np.maximum(self.mean, 1e-9))[::-1]
        logs = np.log(self.samples)[::-1]
        wanted = np.log(error)
        beyond = np.where(wanted < falling[0], 2 * (falling[0] - wanted), 0.0)
        found: Any = np.exp(np.interp(wanted, falling, logs) + beyond)
        return found


def noise_of(mean: F32, variance: F32, samples: npt.NDArray[np.floating] | float) -> Noise:
    """Return the noise of one sample, from the variance of a picture that was not denoised.

    Parameters
    ----------
    mean : (H, W, 3) float32
        Scene-linear, as clean as there is.
    variance : (H, W, 3) float32
        Of the mean of each pixel of the picture.
    samples : (H, W) ndarray or float
        That each pixel of it took.
    """
    taken = np.asarray(samples, np.float32)
    one = variance * (taken[..., None] if taken.ndim else taken)
    return Noise(mean, np.asarray(one, np.float32), float(np.mean(taken)))


def grain_curve(noise: Noise, display: Display) -> GrainCurve:
    """Return how grain runs against samples where all pixels take as many."""
    grid = np.geomspace(LEAST_SAMPLES, MOST_SAMPLES, GRID)
    shares: Iterator[Floats] = (np.array(n) for n in grid)
    return _curve(noise, display, shares)


def adaptive_curve(noise: Noise, display: Display, least: float, most: float) -> GrainCurve:
    """Return how grain runs against mean samples where a threshold shares them out, each pixel between two bounds.

    Need is taken to be on the scale of `noise_shape`; a renderer with another scale shares out otherwise.

    Parameters
    ----------
    noise : Noise
    display : Display
    least, most : float
        Samples a pixel, least <= most.
    """
    luma = np.array(LUMA, np.float32)
    square = (np.sqrt(np.maximum(noise.one, 0)) @ luma) ** 2 / (np.maximum(noise.mean @ luma, 0) + DARK)
    need = np.asarray(uniform_filter(square, _NEIGHBOURHOOD, mode="nearest"), np.float64)
    some = need[need > 0]
    if least >= most or not len(some):
        return grain_curve(noise, display)
    # From a threshold at which hardly a pixel takes more than the least, to one at which most of them take all.
    times = np.geomspace(least / np.quantile(some, 0.999), most / np.quantile(some, 0.02), GRID)
    return _curve(noise, display, (np.clip(need * k, least, most) for k in times))


def _curve(noise: Noise, display: Display, shared: Iterator[Floats]) -> GrainCurve:
    """Return the curve of samples that are shared out in several ways; each (H, W) or a number."""
    rows = []
    for taken in shared:
        n = np.asarray(taken, np.float32)
        square, shift = display.spread(noise.mean, (noise.one / (n[..., None] if n.ndim else n)).astype(np.float32))
        rows.append((float(np.mean(taken)), float(np.sqrt(np.mean(square + shift**2, dtype=np.float64)))))
    samples, mean = (np.array(column) for column in zip(*rows, strict=True))
    return GrainCurve(samples, mean, noise.seen)
