"""How grain, and what a denoiser leaves, run against samples: fitted to what was measured, to foretell the rest. Pure.

Grain needs one picture with its variance: light of more samples varies by as much less, pixel by pixel, and the
display's curve is gone through anew. What a denoiser leaves is a power of the samples, with a belief about the power
that gives way as trials come in.
"""

from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np
import numpy.typing as npt

from pemlo.core.arrays import Floats
from pemlo.core.picture.display import F32, Display
from pemlo.core.picture.estimate import Estimate
from pemlo.core.picture.tiles import TileMap, tile_side, tile_sums

NINETY = 1.6448536269514722  # half width of a 90 % interval, standard deviations
LEAST_SAMPLES, MOST_SAMPLES, GRID = 1.0, 65536.0, 17
# How the error that a denoiser leaves falls with samples: slower than grain, whose power is a half.
POWER, POWER_SD = 0.2, 0.12
# By how much what was measured lies about the law.
SCATTER = 0.06
# Variance that few samples showed is itself not known better (log, of grain): the tails of light.
GRAIN_SCATTER = 0.04


def _foretold(log_mean: float, log_sd: float) -> Estimate:
    spread = NINETY * log_sd
    return Estimate(float(np.exp(log_mean)), float(np.exp(log_mean - spread)), float(np.exp(log_mean + spread)))


@dataclass(frozen=True)
class PowerLaw:
    """log error = level − power · log samples: normal beliefs about both.

    Attributes
    ----------
    mean : (2,) ndarray
        Level and power.
    covariance : (2, 2) ndarray
    """

    mean: Floats
    covariance: Floats

    def at(self, samples: float) -> Estimate:
        """Return what error so many samples leave."""
        x = np.array([1.0, -np.log(samples)])
        return _foretold(float(x @ self.mean), float(np.sqrt(x @ self.covariance @ x + SCATTER**2)))

    def samples_for(self, error: float) -> float:
        """Return the samples that leave an error, as the middle of the law says."""
        power = max(float(self.mean[1]), 0.02)
        return float(np.exp(np.clip((self.mean[0] - np.log(error)) / power, -20.0, 40.0)))


def power_law(samples: Sequence[float], errors: Sequence[float]) -> PowerLaw | None:
    """Fit the law to errors that were measured; None if there are none above zero.

    Normal regression with a belief about the power and none about the level.

    References
    ----------
    .. [1] A. Gelman et al., "Bayesian Data Analysis", 3rd ed., CRC Press 2013, ch. 14 (from memory).
    """
    pairs = [(n, e) for n, e in zip(samples, errors, strict=True) if n > 0 and e > 0]
    if not pairs:
        return None
    x = np.array([[1.0, -np.log(n)] for n, _ in pairs])
    y = np.log([e for _, e in pairs])
    precision = x.T @ x / SCATTER**2 + np.diag([1e-8, POWER_SD**-2])
    covariance = np.linalg.inv(precision)
    mean = covariance @ (x.T @ y / SCATTER**2 + np.array([0.0, POWER / POWER_SD**2]))
    return PowerLaw(np.asarray(mean), np.asarray(covariance))


@dataclass(frozen=True)
class GrainCurve:
    """Grain of a frame over samples a pixel, all pixels alike.

    Attributes
    ----------
    samples, mean, worst : (GRID,) ndarray
        Samples a pixel; root mean square error that their noise makes over the frame, and of the tile that 95 % are
        below, display codes.
    seen : float
        Samples a pixel by which the noise was seen.
    """

    samples: Floats
    mean: Floats
    worst: Floats
    seen: float

    def through(self, samples: float, error: float) -> "GrainCurve":
        """Return the curve brought to an error that was measured with so many samples.

        Light has long tails, and a normal number with its variance shows otherwise on a display: on renders the curve
        alone was up to a quarter off, its course hardly.
        """
        found = self.at(samples).value
        times = error / found if found > 0 and error > 0 else 1.0
        return replace(self, mean=self.mean * times, worst=self.worst * times, seen=samples)

    def at(self, samples: float, gain: float = 1.0) -> Estimate:
        """Return the error that the noise of so many samples makes; `gain` multiplies its variance."""
        log = np.interp(np.log(samples / gain), np.log(self.samples), np.log(np.maximum(self.mean, 1e-6)))
        # The fewer were seen, and the farther from there, the less is known.
        off = abs(np.log(samples / self.seen))
        return _foretold(float(log), float(np.hypot(GRAIN_SCATTER + 0.3 / np.sqrt(self.seen), 0.02 * off)))

    def samples_for(self, error: float) -> float:
        """Return the samples whose noise makes an error; from the ends of the curve on as one over the root."""
        falling = np.log(np.maximum(self.mean, 1e-9))[::-1]
        logs = np.log(self.samples)[::-1]
        wanted = np.log(error)
        if wanted < falling[0]:
            return float(np.exp(logs[0] + 2 * (falling[0] - wanted)))
        if wanted > falling[-1]:
            return float(self.samples[0])
        return float(np.exp(np.interp(wanted, falling, logs)))


def grain_curve(
    mean: F32, variance: F32, samples: npt.NDArray[np.floating] | float, display: Display, worst: float = 0.95
) -> GrainCurve:
    """Return how grain runs against samples.

    Parameters
    ----------
    mean : (H, W, 3) float32
        Scene-linear, as clean as there is.
    variance : (H, W, 3) float32
        Of the mean of each pixel of a picture that was not denoised.
    samples : (H, W) ndarray or float
        That each pixel of it took.
    display : Display
    worst : float
        Which share of tiles the worst one is above.
    """
    one = variance * np.asarray(samples, np.float32).reshape((*np.shape(samples), 1) if np.ndim(samples) else ())
    grid = np.geomspace(LEAST_SAMPLES, MOST_SAMPLES, GRID)
    side = tile_side(mean.shape[1])
    count = tile_sums(np.ones(mean.shape[:2], np.float32), side)
    whole, worst_of = [], []
    for n in grid:
        square, shift = display.spread(mean, (one / np.float32(n)).astype(np.float32))
        tiles = tile_sums((square + shift**2).mean(axis=-1), side)
        found = TileMap(tiles / count, count, side, (mean.shape[1], mean.shape[0]))
        whole.append(np.sqrt(found.whole()))
        worst_of.append(np.sqrt(found.quantile(worst)))
    return GrainCurve(grid, np.array(whole), np.array(worst_of), float(np.mean(samples)))


def together(*parts: Estimate) -> Estimate:
    """Return parts of an error added in squares."""

    def root(values: list[float]) -> float:
        return float(np.sqrt(np.sum(np.square(values))))

    middle = root([part.value for part in parts])
    down = root([(part.value - part.low) * part.value / max(middle, 1e-9) for part in parts])
    up = root([(part.high - part.value) * part.value / max(middle, 1e-9) for part in parts])
    return Estimate(middle, max(middle - down, 0.0), middle + up)
