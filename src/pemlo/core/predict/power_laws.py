"""How errors run against samples: a power of them, fitted to what was measured, to predict the rest. Pure.

A belief about the power gives way as trials come in. Grain without a denoiser has a curve: `grain_curve.py`.
"""

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from pemlo.core.arrays import Floats
from pemlo.core.estimate import Estimate

NINETY = 1.6448536269514722  # half width of a 90 % interval, standard deviations
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


def around(log_mean: float, log_sd: float) -> Estimate:
    """Return a number that is log-normal, with its 90 % interval."""
    spread = NINETY * log_sd
    return Estimate(math.exp(log_mean), math.exp(log_mean - spread), math.exp(log_mean + spread))


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
        x = np.array([1.0, -math.log(samples)])
        return around(float(x @ self.mean), math.sqrt(x @ self.covariance @ x + SCATTER**2))


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


def together(*parts: Estimate) -> Estimate:
    """Return parts of an error added in squares."""
    middle = math.hypot(*(part.value for part in parts))
    down = math.hypot(*((part.value - part.low) * part.value / max(middle, 1e-9) for part in parts))
    up = math.hypot(*((part.high - part.value) * part.value / max(middle, 1e-9) for part in parts))
    return Estimate(middle, max(middle - down, 0.0), middle + up)


def widened(value: Estimate, log_sd: float) -> Estimate:
    """Return a number that is known less well by a log standard deviation of its own."""

    def times(end: float) -> float:
        own = math.log(max(end, 1e-12) / max(value.value, 1e-12))
        return math.exp(math.hypot(own, NINETY * log_sd))

    return Estimate(value.value, value.value / times(value.low), value.value * times(value.high))
