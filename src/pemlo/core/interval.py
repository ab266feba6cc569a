"""A number that is not known exactly. Loads NumPy only where draws are read."""

from collections.abc import Iterator
from dataclasses import dataclass
from typing import TYPE_CHECKING

if TYPE_CHECKING:
    from pemlo.core.arrays import Floats

NINETY = 1.6448536269514722  # half width of a 90 % interval in standard deviations; loading SciPy for it takes longer

POINTS = (0.05, 0.5, 0.95)


@dataclass(frozen=True)
class Interval:
    """The 5 %, 50 % and 95 % points of an estimate; arrays where many are predicted at once."""

    low: float
    middle: float
    high: float

    def __iter__(self) -> Iterator[float]:
        return iter((self.low, self.middle, self.high))

    def times(self, factor: float) -> "Interval":
        """Return it in another unit, or of so many of it."""
        return Interval(*(point * factor for point in self))


def interval_of(draws: "Floats") -> Interval:
    """Return the interval of draws of an amount; where some are infinite, each point is one of them."""
    import numpy as np  # noqa: PLC0415 - heavy to load, and the window comes up without it

    return Interval(*map(float, np.quantile(draws, POINTS))) if np.isfinite(draws).all() else ends_of(draws)


def intervals_of(rows: "Floats") -> list[Interval]:
    """Return the interval of each row of draws, (S, N), as `interval_of`: of a thousand rows ten times as fast."""
    import numpy as np  # noqa: PLC0415 - as above

    if not np.isfinite(rows).all():
        return [interval_of(row) for row in rows]
    return [Interval(*points) for points in np.quantile(rows, POINTS, axis=1).T.tolist()]


def ends_of(hours: "Floats") -> Interval:
    """Return the interval of when something is done: each point is one of the draws, so that its share has ended."""
    import numpy as np  # noqa: PLC0415 - as above

    return Interval(*map(float, np.quantile(hours, POINTS, method="higher")))
