"""Durations and amounts as people say and read them. Pure text and numbers; imports errors and numerals only.

Durations are floats in seconds everywhere in the core; words appear only here.
"""

import math
import re
from collections.abc import Sequence

from pemlo.core.errors import InputError
from pemlo.core.foreign import shown
from pemlo.core.interval import Interval
from pemlo.core.numerals import COMMA, POINT, with_point

MINUTE_S = 60.0
HOUR_S = 3600.0
GIB, MIB = 2**30, 2**20
DAY_S = 86400.0
LONGEST_TEXT = 60  # letters of a duration
MOST_LISTED = 8  # names in a sentence
LEAST_WRITTEN, MOST_WRITTEN = 1e-6, 1e15  # in figures alone
LONGEST_S = 1e10  # 317 years: what is longer is a slip of the keyboard

_SCALE = {"d": DAY_S, "h": HOUR_S, "m": MINUTE_S, "s": 1.0}
_WORDS = {
    "days": "d", "day": "d", "hours": "h", "hour": "h", "hrs": "h", "hr": "h", "minutes": "m", "minute": "m",
    "mins": "m", "min": "m", "seconds": "s", "second": "s", "secs": "s", "sec": "s", "d": "d", "h": "h", "m": "m",
    "s": "s",
}  # fmt: skip
_NUMBER = r"\d+(?:[.,]\d+)?|[.,]\d+"
_PART = re.compile(rf"({_NUMBER})\s*([a-z]+)?\s*")
_NEXT_SMALLER = {"d": "h", "h": "m", "m": "s"}


def parse_duration(text: str) -> float:
    """Read a duration as people say it.

    Parameters
    ----------
    text : str
        ``4:02`` (minutes and seconds), ``1:03:20`` (hours first), ``4m02``, ``242``, ``242s``, ``1h03``,
        ``7.7 s``, ``2 d 4 h``. A bare number is seconds; a number after a unit counts in the next smaller one.
        A decimal comma is taken as a point; ``1,234`` is refused, as it may be either.

    Returns
    -------
    float
        Seconds, > 0.

    Raises
    ------
    InputError
        If the text is not a duration, or is zero, negative, or over 317 years.

    Examples
    --------
    >>> [parse_duration(text) for text in ("4:02", "4m02", "242", "1h03", "7.7 s", "2 d 4 h")]
    [242.0, 242.0, 242.0, 3780.0, 7.7, 187200.0]
    """
    if len(text) > LONGEST_TEXT:
        raise InputError(f"“{shown(text, 40)}” is not a duration.", "Write it like 4:02, 4m02, 242, 1h03 or 7.7 s.")
    try:
        plain = with_point(text, POINT if COMMA not in text else None)
    except ValueError as error:
        raise InputError(f"{error}.") from error
    seconds = _colons(plain) if ":" in plain else _units(plain.strip().lower())
    if seconds is None:
        raise InputError(f"“{text.strip()}” is not a duration.", "Write it like 4:02, 4m02, 242, 1h03 or 7.7 s.")
    if not 0 < seconds <= LONGEST_S:
        raise InputError(f"“{text.strip()}” is not a time that a frame can take.", "It must be more than zero.")
    return seconds


def _colons(text: str) -> float | None:
    parts = text.strip().split(":")
    if not 2 <= len(parts) <= 3 or not all(re.fullmatch(r"\d+", part.strip()) for part in parts[:-1]):
        return None
    if not re.fullmatch(_NUMBER, parts[-1].strip()):
        return None
    seconds = float(parts[-1].replace(",", "."))
    minutes = int(parts[-2])
    if seconds >= MINUTE_S or (len(parts) == 3 and minutes >= 60):
        return None
    return seconds + minutes * MINUTE_S + (int(parts[0]) * HOUR_S if len(parts) == 3 else 0.0)


def _units(text: str) -> float | None:
    position, total, last = 0, 0.0, ""
    while position < len(text):
        match = _PART.match(text, position)
        if match is None:
            return None
        unit = _WORDS.get(match[2]) if match[2] else _NEXT_SMALLER.get(last, None if last else "s")
        if unit is None or (last and _SCALE[unit] >= _SCALE[last]):
            return None
        number = float(match[1].replace(",", "."))
        if last and number * _SCALE[unit] >= _SCALE[last]:
            return None
        total += number * _SCALE[unit]
        position, last = match.end(), unit
    return total if last else None


def format_duration(seconds: float) -> str:
    """Write a duration: ``17.4 s``, ``4 m 02 s``, ``35 h 07 m``, from three days ``4 d 3 h``.

    Parameters
    ----------
    seconds : float
        >= 0; not finite reads as “unknown”.

    Examples
    --------
    >>> [format_duration(value) for value in (0.05, 17.44, 242, 126420, 356400)]
    ['0.05 s', '17.4 s', '4 m 02 s', '35 h 07 m', '4 d 3 h']
    """
    if not math.isfinite(seconds):
        return "unknown"
    if seconds < 0.995:
        return f"{seconds:.2f} s"
    if round(seconds, 1) < MINUTE_S:
        return f"{seconds:.1f} s"
    if round(seconds) < HOUR_S:
        whole = round(seconds)
        return f"{whole // 60} m {whole % 60:02d} s"
    minutes = round(seconds / MINUTE_S)
    if minutes < 3 * 24 * 60:
        return f"{minutes // 60} h {minutes % 60:02d} m"
    hours = round(seconds / HOUR_S)
    return f"{hours // 24} d {hours % 24} h"


def format_span(seconds: float) -> str:
    """Write a duration roughly, for sentences: ``about`` two figures and one unit.

    Examples
    --------
    >>> [format_span(value) for value in (40, 500, 29000, 200000)]
    ['40 s', '8 min', '8 h', '2.3 days']
    """
    if not math.isfinite(seconds):
        return "an unknown time"
    if seconds < 90:
        return f"{seconds:.0f} s"
    if seconds < 90 * MINUTE_S:
        return f"{seconds / MINUTE_S:.0f} min"
    if seconds < 48 * HOUR_S:
        return f"{seconds / HOUR_S:.0f} h"
    return f"{round_figures(seconds / DAY_S, 2)} days"


def round_figures(value: float, figures: int = 3) -> str:
    """Write a number with so many significant figures, thousands set apart; what is absurd only by its bound.

    Examples
    --------
    >>> [round_figures(value) for value in (0.01234, 1.5, 214.4, 1e-300)]
    ['0.0123', '1.5', '214', 'under 0.000001']
    """
    if not math.isfinite(value):
        return "unknown"
    if value == 0:
        return "0"
    if not LEAST_WRITTEN <= abs(value) < MOST_WRITTEN:
        bound = f"{MOST_WRITTEN:,.0f}".replace(",", "\u202f") if abs(value) >= MOST_WRITTEN else f"{LEAST_WRITTEN:.6f}"
        return f"{'-' if value < 0 else ''}{'over' if abs(value) >= MOST_WRITTEN else 'under'} {bound}"
    decimals = figures - 1 - math.floor(math.log10(abs(value)))
    text = f"{round(value, decimals):,.{max(decimals, 0)}f}".replace(",", "\u202f")
    return text.rstrip("0").rstrip(".") if "." in text else text


def share_words(share: float) -> str:
    """Write by which share something is more or less; from twice as much more on, how many times it is.

    Examples
    --------
    >>> share_words(-0.67), share_words(0.5), share_words(21.0)
    ('67 %', '50 %', '22 times')
    """
    return f"{100 * abs(share):.0f} %" if share < 2 else f"{round_figures(1 + share, 2)} times"


def machine_hours(hours: float, figures: int = 3) -> str:
    """Write machine-hours with their noun; less than one as people say durations.

    Examples
    --------
    >>> machine_hours(35.12), machine_hours(1.5, 2), machine_hours(0.0375), machine_hours(0.439, 2)
    ('35.1 machine-hours', '1.5 machine-hours', '2 m 15 s of machine time', '26 min of machine time')
    """
    if 0 < hours < 1:
        said = format_duration if figures > 2 else format_span
        return f"{said(hours * HOUR_S)} of machine time"
    text = round_figures(hours, figures)
    return f"{text} {'machine-hour' if text == '1' else 'machine-hours'}"


def format_seconds(seconds: Interval) -> str:
    """Write seconds with their interval: short ones in seconds, longer ones in minutes or hours.

    Examples
    --------
    >>> [format_seconds(Interval(*seconds)) for seconds in ((10, 12, 15), (500, 700, 900), (5000, 9000, 12000))]
    ['12 (10–15) s', '12 (8–15) m', '2.5 (1.4–3.3) h']
    """
    name, unit = next(
        (n, u) for n, u in (("h", HOUR_S), ("m", MINUTE_S), ("s", 1.0)) if seconds.middle >= 1.5 * u or n == "s"
    )
    return f"{format_interval(seconds.times(1 / unit))} {name}"


def format_hours(hours: Interval) -> str:
    """Write hours with their interval: without a unit, or less than one as seconds or minutes.

    Examples
    --------
    >>> format_hours(Interval(9.5, 10.7, 12.2)), format_hours(Interval(0.0325, 0.0375, 0.043))
    ('10.7 (9.5–12.2)', '2.2 (1.9–2.6) m')
    """
    if hours.low > 0 and hours.high < 1:
        return format_seconds(hours.times(HOUR_S))
    return format_interval(hours)


def counted(number: int, word: str) -> str:
    """Write a number of things.

    Examples
    --------
    >>> counted(1, "shot"), counted(12, "frame")
    ('1 shot', '12 frames')
    """
    return f"{round_figures(number, 7)} {word}" + ("" if number == 1 else "s")


def listed(names: Sequence[str]) -> str:
    """Write names one after another, the first eight of many.

    Examples
    --------
    >>> listed(["010", "020"]), listed([f"{k}" for k in range(12)])
    ('010, 020', '0, 1, 2, 3, 4, 5, 6, 7 and 4 more')
    """
    more = f" and {len(names) - MOST_LISTED} more" if len(names) > MOST_LISTED else ""
    return ", ".join(names[:MOST_LISTED]) + more


def format_interval(interval: Interval) -> str:
    """Write an estimate with its interval, in figures that the interval's width supports.

    Examples
    --------
    >>> estimates = Interval(190.3, 212.1, 240.2), Interval(2.01, 2.13, 2.31), Interval(10.6, 12.9, 16.4)
    >>> [format_interval(estimate) for estimate in estimates]
    ['212 (190–240)', '2.13 (2.01–2.31)', '13 (11–16)']
    """
    low, middle, high = interval
    if not all(math.isfinite(value) for value in (low, middle, high)):
        return "unknown"
    width = max(high - low, abs(middle) * 1e-3, 1e-9)
    # A step is about a sixth of the width: a finer one would pretend, a coarser one hide.
    decimals = min(4, -math.floor(math.log10(width / 5.5)))
    if abs(middle) >= 10 and width >= 4:
        decimals = min(decimals, 0)
    if 0 <= middle < 10.0**-decimals:  # so little that its figures would all be zeros
        return f"{round_figures(middle, 1)} ({round_figures(low, 1)}–{round_figures(high, 1)})"
    low_text, middle_text, high_text = (
        f"{round(value, decimals):,.{max(decimals, 0)}f}".replace(",", "\u202f") for value in (low, middle, high)
    )
    if low > 0 and not low_text.strip("0."):
        low_text = round_figures(low, 1)  # a wide interval that begins near nothing does not begin at nothing
    return f"{middle_text} ({low_text}–{high_text})"
