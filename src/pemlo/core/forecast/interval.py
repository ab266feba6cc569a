"""The interval of an estimate."""

from dataclasses import dataclass

import numpy as np

from pemlo.core.arrays import Floats


@dataclass(frozen=True)
class Interval:
    """The 5 %, 50 % and 95 % points of an estimate."""

    p05: float
    p50: float
    p95: float


def interval_of(draws: Floats) -> Interval:
    """Return the interval of draws, each point one of them: some may be infinite."""
    return Interval(*(float(np.quantile(draws, q, method="higher")) for q in (0.05, 0.5, 0.95)))
