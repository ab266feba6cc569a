"""A number that is not known exactly. Imports nothing."""

from dataclasses import dataclass


@dataclass(frozen=True)
class Estimate:
    """A measured or predicted number, display codes, and its 90 % interval; arrays where many are predicted at once."""

    value: float
    low: float
    high: float
