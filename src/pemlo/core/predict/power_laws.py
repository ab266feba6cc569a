"""How errors run against samples: a power of them, fitted to what was measured, to predict the rest. Pure.

A belief about the power gives way as trials come in. Grain without a denoiser has a curve: `grain_curve.py`.
"""

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np

from pemlo.core.arrays import Floats
from pemlo.core.interval import NINETY, Interval

# By how much what was measured lies about the law.
SCATTER = 0.06


@dataclass(frozen=True)
class Belief:
    """What is believed of a power before anything was measured: its middle and its standard deviation."""

    power: float
    sd: float


# Found on renders (docs/method/model.md): the error that a denoiser leaves falls slower than grain, whose power is a
# half.
TOTAL = Belief(0.27, 0.1)


def around(log_mean: float, log_sd: float) -> Interval:
    """Return a number that is log-normal, with its 90 % interval."""
    spread = NINETY * log_sd
    return Interval(np.exp(log_mean - spread), np.exp(log_mean), np.exp(log_mean + spread))


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

    def at(self, samples: float) -> Interval:
        """Return what error so many samples leave; of many numbers of samples at once where they are an array."""
        down = -np.log(samples)
        (level, both), (_, power) = self.covariance
        variance = level + 2 * both * down + power * down**2
        return around(self.mean[0] + self.mean[1] * down, np.sqrt(variance + SCATTER**2))


def power_law(samples: Sequence[float], errors: Sequence[float], belief: Belief = TOTAL) -> PowerLaw | None:
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
    precision = x.T @ x / SCATTER**2 + np.diag([1e-8, belief.sd**-2])
    covariance = np.linalg.inv(precision)
    mean = covariance @ (x.T @ y / SCATTER**2 + np.array([0.0, belief.power / belief.sd**2]))
    return PowerLaw(np.asarray(mean), np.asarray(covariance))


def together(*parts: Interval) -> Interval:
    """Return parts of an error added in squares."""
    middle = np.sqrt(sum(part.middle**2 for part in parts))
    share = [part.middle / np.maximum(middle, 1e-9) for part in parts]
    down = np.sqrt(
        sum(((interval.middle - interval.low) * own) ** 2 for interval, own in zip(parts, share, strict=True))
    )
    up = np.sqrt(
        sum(((interval.high - interval.middle) * own) ** 2 for interval, own in zip(parts, share, strict=True))
    )
    return Interval(np.maximum(middle - down, 0.0), middle, middle + up)


def widened(value: Interval, log_sd: float) -> Interval:
    """Return a number that is known less well by a log standard deviation of its own."""

    def times(end: float) -> Any:  # noqa: ANN401 - a number or an array, as the ends are
        own = np.log(np.maximum(end, 1e-12) / np.maximum(value.middle, 1e-12))
        return np.exp(np.hypot(own, NINETY * log_sd))

    return Interval(value.middle / times(value.low), value.middle, value.middle * times(value.high))
