"""The interval of an estimate."""

from dataclasses import dataclass


@dataclass(frozen=True)
class Interval:
    """The 5 %, 50 % and 95 % points of an estimate."""

    p05: float
    p50: float
    p95: float
