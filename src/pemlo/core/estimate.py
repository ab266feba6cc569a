"""A number that is not known exactly. Imports nothing."""

from dataclasses import dataclass

NINETY = 1.6448536269514722  # half width of a 90 % interval in standard deviations; loading SciPy for it takes longer


@dataclass(frozen=True)
class Estimate:
    """A measured or predicted number, display codes, and its 90 % interval; arrays where many are predicted at once."""

    value: float
    low: float
    high: float
