"""Hours of a week as people write them. Pure text; imports nothing of Pemlo.

A day is a tuple of (start, end) in minutes after its local midnight; an end past 1 440 runs into the next day and
belongs to the day on which it starts. A week is seven days from Monday.
"""

import re
from functools import lru_cache

Day = tuple[tuple[int, int], ...]
Week = tuple[Day, ...]

DAY_MINUTES = 1440
ALL_DAY: Day = ((0, DAY_MINUTES),)
_NAMES = ("Mon", "Tue", "Wed", "Thu", "Fri", "Sat", "Sun")
_INDEX = {name.lower(): number for number, name in enumerate(_NAMES)} | {
    name: number
    for number, name in enumerate(("monday", "tuesday", "wednesday", "thursday", "friday", "saturday", "sunday"))
}
_DAYS = re.compile(r"^([a-z]+)\s*(?:[-–]\s*([a-z]+))?\s*(.*)$")
_SPAN = re.compile(r"^(\d{1,2})(?::(\d{2}))?\s*[-–]\s*(\d{1,2})(?::(\d{2}))?$")
_HINT = "write hours like “Mon-Fri 19:00-08:00, Sat-Sun all day”, “always” or “never”"


@lru_cache(maxsize=1024)
def parse_week(text: str) -> Week:
    """Read the hours of a week.

    Parameters
    ----------
    text : str
        Entries with commas: days, then times: ``Mon-Fri 19:00-08:00, Sat-Sun all day``. Days alone share the times
        of the next entry (``Mon, Wed 09:00-17:00``); times alone hold every day; ``and`` joins two times of a day;
        ``always`` and ``never`` stand alone.

    Returns
    -------
    tuple of seven days

    Raises
    ------
    ValueError
        If it cannot be read.

    Examples
    --------
    >>> parse_week("Mon 19:00-08:00")[0], parse_week("always")[6], parse_week("Sat-Sun all day")[0]
    (((1140, 1920),), ((0, 1440),), ())
    """
    words = " ".join(text.lower().split())
    if words in ("always", "all day", "24/7"):
        return (ALL_DAY,) * 7
    if words in ("never", "off"):
        return ((),) * 7
    week: list[list[tuple[int, int]]] = [[] for _ in range(7)]
    waiting: list[int] = []
    for entry in words.split(","):
        days, times = _split_entry(entry.strip(), text)
        waiting += days
        if times:
            for day in waiting or range(7):
                week[day] += parse_day(times)
            waiting = []
    if waiting or not words:
        raise ValueError(f"“{text.strip()}” has no hours; {_HINT}")
    return tuple(tuple(sorted(set(day))) for day in week)


def _split_entry(entry: str, text: str) -> tuple[list[int], str]:
    if entry.startswith(("all day", "off", "every day")) or entry[:1].isdigit():
        return [], entry.removeprefix("every day").strip() or "all day"
    match = _DAYS.match(entry)
    if match is None or match[1] not in _INDEX or (match[2] and match[2] not in _INDEX):
        raise ValueError(f"“{text.strip()}” cannot be read at “{entry}”; {_HINT}")
    first = _INDEX[match[1]]
    last = _INDEX[match[2]] if match[2] else first
    return [(first + offset) % 7 for offset in range((last - first) % 7 + 1)], match[3]


@lru_cache(maxsize=1024)
def parse_day(text: str) -> Day:
    """Read the hours of one day: ``19:00-08:00``, ``9-12 and 13-17``, ``all day``, ``off``.

    Raises
    ------
    ValueError
        If it cannot be read.
    """
    words = " ".join(text.lower().split())
    if words in ("all day", "always"):
        return ALL_DAY
    if words in ("off", "never", "closed"):
        return ()
    return tuple(_span(part.strip(), text) for part in words.split(" and "))


def _span(part: str, text: str) -> tuple[int, int]:
    match = _SPAN.match(part)
    if match is None:
        raise ValueError(f"“{text.strip()}” is not a span of hours; {_HINT}")
    start, end = int(match[1]) * 60 + int(match[2] or 0), int(match[3]) * 60 + int(match[4] or 0)
    minutes_wrong = int(match[2] or 0) > 59 or int(match[4] or 0) > 59
    if minutes_wrong or start >= DAY_MINUTES or end > DAY_MINUTES or start == end:
        raise ValueError(f"“{part}” is not a span of hours; {_HINT}")
    return (start, end) if end > start else (start, end + DAY_MINUTES)


def format_week(week: Week) -> str:
    """Write the hours of a week so that `parse_week` reads the same back.

    Examples
    --------
    >>> format_week(parse_week("Sat-Sun all day, Mon-Fri 19-8"))
    'Mon-Fri 19:00-08:00, Sat-Sun all day'
    """
    if all(day == ALL_DAY for day in week):
        return "always"
    if not any(week):
        return "never"
    entries = []
    start = 0
    while start < 7:
        end = start
        while end < 6 and week[end + 1] == week[start]:
            end += 1
        if week[start]:
            days = _NAMES[start] if end == start else f"{_NAMES[start]}-{_NAMES[end]}"
            entries.append(f"{days} {format_day(week[start])}")
        start = end + 1
    return ", ".join(entries)


def format_day(day: Day) -> str:
    """Write the hours of one day."""
    if day == ALL_DAY:
        return "all day"
    return (
        " and ".join(
            f"{_clock(start)}-{_clock(end if end <= DAY_MINUTES else end - DAY_MINUTES)}" for start, end in day
        )
        or "off"
    )


def _clock(minutes: int) -> str:
    return f"{minutes // 60:02d}:{minutes % 60:02d}"
