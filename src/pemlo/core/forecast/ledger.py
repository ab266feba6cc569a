"""The three numbers of a film's hours - likely, safe, available - and how they are written, so that they sum. Pure.

Every place that shows hours needed beside hours available takes them from here.
"""

import math
from dataclasses import dataclass

import numpy as np

from pemlo.core.arrays import Floats
from pemlo.core.forecast.verdict import Forecast
from pemlo.core.units import HOUR_S, format_duration

DIGITS = 3
STEPS_OF_WIDTH = 5.5  # a step is about a sixth of the interval: a finer one would pretend, a coarser one hide


def unit_of(*hours: float) -> float:
    """Return in which steps hours are written, so that the largest of them has three digits.

    Examples
    --------
    >>> unit_of(127.2, 104.7), unit_of(15.8, 3.1), unit_of(1090, 800), unit_of(0.0)
    (1.0, 0.1, 10.0, 0.01)
    """
    largest = max((abs(one) for one in hours if math.isfinite(one)), default=0.0)
    return 0.01 if largest < 1 else float(10.0 ** (math.floor(math.log10(largest)) - DIGITS + 1))


def known_to(low: float, high: float) -> float:
    """Return to which step hours are known that lie in an interval.

    Examples
    --------
    >>> known_to(112, 144), known_to(1.8, 2.6), known_to(5, 5)
    (1.0, 0.1, 0.0)
    """
    width = (high - low) / STEPS_OF_WIDTH
    return float(10.0 ** math.floor(math.log10(width))) if width > 0 else 0.0


def in_units(hours: float, unit: float) -> float:
    """Return hours in whole steps."""
    return round(hours / unit) * unit


def said_in(hours: float, unit: float) -> str:
    """Write hours in whole steps; less than half of one is said to be under it.

    Examples
    --------
    >>> said_in(127.4, 1.0), said_in(0.04, 0.1), said_in(0.0, 1.0)
    ('127', 'under 0.1', '0')
    """
    if not math.isfinite(hours):
        return "unknown"
    if 0 < hours < unit / 2:
        return f"under {unit:g}"
    decimals = max(0, -math.floor(math.log10(unit) + 1e-9))
    return f"{in_units(hours, unit):,.{decimals}f}".replace(",", "\u202f")


@dataclass(frozen=True)
class Ledger:
    """Machine-hours of a film.

    Attributes
    ----------
    likely_h : float
        The middle of what is needed.
    low_h, high_h : float
        Nine times in ten it lies between.
    safe_h : float
        What is enough with the chance asked for.
    available_h : float
        What this film can use before its deadline.
    confidence : float
        The wanted chance, 0 to 1.
    """

    likely_h: float
    low_h: float
    high_h: float
    safe_h: float
    available_h: float
    confidence: float

    @property
    def spare_h(self) -> float:
        """What is left at the chance asked for; below 0 where it is short."""
        return self.available_h - self.safe_h

    @property
    def unit(self) -> float:
        """In which steps what is needed is written: three digits at most, and none finer than the interval."""
        return max(unit_of(self.likely_h, self.safe_h), known_to(self.low_h, self.high_h))

    @property
    def rest_unit(self) -> float:
        """In which steps what is available, and to spare or short, is written."""
        return max(self.unit, unit_of(self.available_h))

    @property
    def is_small(self) -> bool:
        """Whether it is less than an hour that is needed: then all of it is written as people say durations."""
        return self.safe_h < 1

    def _said(self, hours: float, unit: float) -> str:
        return format_duration(hours * HOUR_S) if self.is_small else said_in(hours, unit)

    @property
    def likely(self) -> str:
        """The middle with its interval, written."""
        low, middle, high = (self._said(one, self.unit) for one in (self.low_h, self.likely_h, self.high_h))
        return f"{middle} ({low}–{high})" if low != high else middle

    @property
    def safe(self) -> str:
        """What is safe, written."""
        return self._said(self.safe_h, self.unit)

    @property
    def available(self) -> str:
        """What is available, written."""
        return self._said(self.available_h, self.rest_unit)

    @property
    def apart(self) -> str:
        """What is to spare or short, written as the difference of what is written of the others."""
        if self.is_small:
            word = "to spare" if self.spare_h >= 0 else "short"
            return f"{format_duration(abs(self.spare_h) * HOUR_S)} {word}"
        unit = self.rest_unit
        apart = in_units(self.available_h, unit) - in_units(self.safe_h, self.unit)
        if abs(apart) < unit / 2:
            return "just enough" if self.spare_h >= 0 else "just short"
        return f"{said_in(abs(apart), unit)} {'to spare' if apart > 0 else 'short'}"

    @property
    def sure(self) -> str:
        """How sure is wanted, written."""
        return f"{100 * self.confidence:g} % sure"

    @property
    def words(self) -> str:
        """All of it in a sentence."""
        what = "of machine time" if self.is_small else "machine-hours"
        return (
            f"Likely {self.likely} {what}, {self.safe} to be {self.sure}; {self.available} are available: {self.apart}."
        )


def ledger_of(forecast: Forecast, confidence: float) -> Ledger | None:
    """Return the ledger of a forecast; None where it has none."""
    if forecast.hours is None or forecast.spare_h is None:
        return None
    points = forecast.hours
    safe = forecast.hours_usable - forecast.spare_h
    return Ledger(points.middle, points.low, points.high, safe, forecast.hours_usable, confidence)


def ledger_from(hours: Floats, available_h: float, confidence: float) -> Ledger:
    """Return the ledger of draws of the hours that are needed, (N,)."""
    low, likely, high, safe = (float(one) for one in np.quantile(hours, [0.05, 0.5, 0.95, confidence]))
    return Ledger(likely, low, high, safe, available_h, confidence)
