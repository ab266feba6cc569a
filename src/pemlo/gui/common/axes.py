"""Axes of charts: where ticks stand, and what they say. Pure numbers and text.

Axes of durations, samples, shares, levels and factors hold logarithms to the base ten, and say what these stand for.
"""

import math
from collections.abc import Callable, Sequence
from dataclasses import dataclass

from pemlo.core.units import MINUTE_S, format_duration

TICK_PX = 34.0
_DURATIONS = [
    *((s, f"{s:g} s") for s in (0.01, 0.03, 0.1, 0.3, 1, 3, 10, 30)),
    *((60.0 * m, f"{m} m") for m in (1, 3, 10, 30)),
    *((60.0 * MINUTE_S * h, f"{h} h") for h in (1, 3, 10, 30, 100, 300, 1000)),
]
_COUNTED = (1, 2, 5, 10, 15, 20, 30, 60, 120, 300, 600, 900, 1200, 1800, 3600, 7200, 14_400, 36_000, 86_400)
_SHARES = tuple(step * 10.0**power for power in range(-5, 3) for step in (1, 2, 5))
_LEVELS = tuple(step * 10.0**power for power in range(-3, 3) for step in (1, 1.5, 2, 3, 4, 5, 7))
_FACTORS = (0.1, 0.2, 0.3, 0.5, 0.7, 0.8, 0.9, 1.0, 1.1, 1.25, 1.5, 2.0, 3.0, 5.0, 10.0)


@dataclass(frozen=True)
class Axis:
    """One axis.

    Attributes
    ----------
    title : str
        What it measures.
    ticks : callable
        Takes the lowest and the highest value and the length in px; returns values in order.
    name : callable
        Takes a value; returns what its tick says.
    """

    title: str
    ticks: Callable[[float, float, float], list[float]]
    name: Callable[[float], str]


def nice_step(top: float, count: int) -> float:
    """Return a round step that parts a scale into about so many.

    Examples
    --------
    >>> nice_step(100, 4), nice_step(7, 4), nice_step(0.3, 4)
    (20.0, 2.0, 0.1)
    """
    rough = max(top, 1e-9) / count
    power = 10.0 ** math.floor(math.log10(rough))
    return next(step * power for step in (1, 2, 5, 10) if step * power >= 0.8 * rough)


def nice_steps(top: float, count: int, first: float = 0.0) -> list[float]:
    """Return the round values of a scale from `first` to `top`, about so many."""
    step = nice_step(top - first, count)
    return [number * step for number in range(math.ceil(first / step - 1e-9), int(top / step) + 1)]


def _logarithms(values: Sequence[float]) -> list[float]:
    return [math.log10(value) for value in values]


def thinned(values: list[float], size: float) -> list[float]:
    """Leave out values until the others have room."""
    every = max(1, math.ceil(len(values) / max(int(size / TICK_PX), 2)))
    return values[::every]


def _spaced(values: list[float], low: float, high: float, size: float, edge: float = 0.0) -> list[float]:
    """Thin ticks out until they have room; none so near an end that it would be cut off."""
    margin = edge * (high - low)
    return thinned([value for value in values if low + margin <= value <= high - margin], size)


def duration_axis(title: str) -> Axis:
    """Return an axis of log seconds."""

    def ticks(low: float, high: float, size: float) -> list[float]:
        found = _logarithms([seconds for seconds, _ in _DURATIONS])
        if sum(low <= tick <= high for tick in found) < 2:  # a narrow range: every step of its own
            found = sorted({math.log10(float(f"{10 ** (low + k * (high - low) / 3):.3g}")) for k in range(4)})
        return _spaced(found, low, high, size)

    return Axis(title, ticks, lambda value: _duration_name(10**value))


def _duration_name(seconds: float) -> str:
    for known, name in _DURATIONS:
        if abs(seconds / known - 1) < 1e-6:
            return name
    if seconds < 100:
        return f"{seconds:.3g} s"
    return f"{seconds / 60:.3g} m" if seconds < 6000 else f"{seconds / 3600:.3g} h"


def seconds_axis(title: str) -> Axis:
    """Return an axis of seconds, in steps that people count in."""

    def ticks(low: float, high: float, size: float) -> list[float]:
        span = max(high - low, 1e-6)
        step = next((one for one in _COUNTED if span / one <= 5), span / 4)
        if span < 2:
            step = nice_step(span, 4)
        steps = range(math.ceil(low / step), math.floor(high / step) + 1)
        return _spaced([number * step for number in steps if number >= 0], low, high, size)

    return Axis(title, ticks, format_duration)


def share_axis(title: str) -> Axis:
    """Return an axis of shares from none to all."""
    return Axis(title, lambda _low, _high, _size: [0.0, 0.5, 1.0], lambda value: f"{value:.0%}")


def doubling_axis(title: str) -> Axis:
    """Return an axis of log samples, at powers of two."""

    def ticks(low: float, high: float, size: float) -> list[float]:
        first, last = math.ceil(low / math.log10(2)), math.floor(high / math.log10(2))
        return _spaced([power * math.log10(2) for power in range(max(first, 0), last + 1)], low, high, size)

    return Axis(title, ticks, lambda value: f"{round(10**value)}")


def percent_axis(title: str) -> Axis:
    """Return an axis of log shares, in percent."""
    return Axis(
        title,
        lambda low, high, size: _spaced(_logarithms(_SHARES), low, high, size, 0.04),
        lambda value: f"{100 * 10**value:.3g} %",
    )


def level_axis(title: str) -> Axis:
    """Return an axis of log errors, in levels of an 8-bit display."""
    return Axis(
        title,
        lambda low, high, size: _spaced(_logarithms(_LEVELS), low, high, size, 0.03),
        lambda value: f"{10**value:.3g}",
    )


def factor_axis(title: str) -> Axis:
    """Return an axis of log factors around one."""

    def ticks(low: float, high: float, size: float) -> list[float]:
        finer = [[1 + number * step for number in range(-12, 13)] for step in (0.05, 0.02, 0.01)]
        for factors in (list(_FACTORS), *finer):
            found = _logarithms([factor for factor in factors if factor > 0])
            if sum(low <= tick <= high for tick in found) >= 3:
                break  # else the range is narrow: finer steps
        return _spaced(found, low, high, size)

    return Axis(title, ticks, lambda value: f"×{10**value:.3g}")


def frame_axis(title: str, first: int, last: int) -> Axis:
    """Return an axis of frame numbers: the first, the last, and round ones between."""

    def ticks(_low: float, _high: float, size: float) -> list[float]:
        if first == last:
            return [float(first)]
        step = max(int(nice_step(last - first, max(int(size / 70), 1))), 1)
        between = range(-(-first // step) * step, last, step)
        inner = [n for n in between if n - first > step / 2 and last - n > step / 2]
        return [float(n) for n in (first, *inner, last)]

    return Axis(title, ticks, lambda value: f"{round(value)}")
