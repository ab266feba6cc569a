"""How the finish is spread, as a curve over time, and where a ruler of it ends. Pure NumPy."""

from dataclasses import dataclass
from typing import TYPE_CHECKING

import numpy as np

from pemlo.core.arrays import Floats

if TYPE_CHECKING:
    from pemlo.core.forecast.verdict import Forecast

HUMP_POINTS = 240
FLAT = 0.004  # a part that is lower than this is not seen


@dataclass(frozen=True)
class FinishDensity:
    """The finish as a curve: hours since the start, and height 0 to 1."""

    at: Floats
    height: Floats


def density(finish_h: Floats, last_h: float) -> FinishDensity:
    """Return a smooth curve of how the finish is spread, over 0 to `last_h`; flat where nothing finishes."""
    at = np.linspace(0.0, last_h, HUMP_POINTS)
    finite = finish_h[np.isfinite(finish_h)]
    if not len(finite):
        return FinishDensity(at, np.zeros(HUMP_POINTS))
    width = max(1.06 * float(np.std(finite)) * len(finite) ** -0.2, last_h / 400)
    density = np.exp(-0.5 * ((at[:, None] - finite[None, :]) / width) ** 2).sum(axis=1)
    return FinishDensity(at, density / max(float(density.max()), 1e-12))


def hour_by(forecast: "Forecast", share: float) -> float:
    """Return by which hour such a share of the outcomes are finished; infinite where they never are."""
    return float(np.quantile(forecast.finish_h, share, method="inverted_cdf"))


def finished_by(forecast: "Forecast", hours: float) -> float:
    """Return which share of the outcomes are finished by an hour."""
    return float(np.mean(forecast.finish_h <= hours))


def last_hour(forecast: "Forecast", deadline_h: float) -> float:
    """Return where the tape ends: past the deadline, and past nearly all outcomes unless they are absurdly late."""
    late = float(np.quantile(forecast.finish_h, 0.99, method="higher")) if len(forecast.finish_h) else 0.0
    wanted = max(deadline_h * 1.12, deadline_h + 8.0)
    if np.isfinite(late):
        wanted = max(wanted, min(late * 1.04, deadline_h * 3))
    return wanted
