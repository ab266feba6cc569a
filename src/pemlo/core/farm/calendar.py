"""When machines are free, in real time: weeks and exceptions in a time zone become spans of hours since a start.

Hours are wall-clock hours of the zone, so a night over a change of clocks has an hour more or less. Pure.
"""

from datetime import UTC, datetime, time, timedelta
from functools import lru_cache
from zoneinfo import ZoneInfo

from pemlo.core.project.hours import ALL_DAY, Day, parse_day, parse_week
from pemlo.core.project.machines import Machine, OtherHours

Span = tuple[float, float]


@lru_cache(maxsize=4096)
def open_spans(
    hours: str, exceptions: tuple[OtherHours, ...], timezone: str, start: datetime, days: int
) -> tuple[Span, ...]:
    """Return when a machine is free.

    Parameters
    ----------
    hours : str
        The week, as `parse_week` reads it.
    exceptions : tuple of OtherHours
        Other hours on single dates; they replace the spans that start on that date.
    timezone : str
        IANA name.
    start : datetime
        With a time zone; hours count from here.
    days : int
        How far to look.

    Returns
    -------
    tuple of (begin, end)
        Hours since `start`, rising, not touching; from 0 to 24 `days`.
    """
    week = parse_week(hours)
    special = {other.day: parse_day(other.hours) for other in exceptions}
    if week == (ALL_DAY,) * 7 and not special:
        return ((0.0, 24.0 * days),)
    zone = ZoneInfo(timezone)
    first = start.astimezone(zone).date() - timedelta(days=1)
    spans: list[Span] = []
    for offset in range(days + 3):
        date = first + timedelta(days=offset)
        day: Day = special.get(date, week[date.weekday()])
        midnight = datetime.combine(date, time.min, zone)
        for begin, end in day:
            opened, closed = _hours_since(start, midnight, begin), _hours_since(start, midnight, end)
            spans.append((max(opened, 0.0), min(closed, 24.0 * days)))
    return _merged(spans)


def spans_of(machine: Machine, timezone: str, start: datetime, days: int) -> tuple[Span, ...]:
    """Return when a machine is free; one that is rented no longer than its share of the hours that can be had.

    Parameters and result as in `open_spans`.
    """
    spans = open_spans(machine.hours, machine.exceptions, timezone, start, days)
    if machine.most_hours is None:
        return spans
    left, kept = machine.most_hours / max(machine.count, 1), []
    for begin, end in spans:
        if left <= 0:
            break
        kept.append((begin, min(end, begin + left)))
        left -= end - begin
    return tuple(kept)


def _hours_since(start: datetime, midnight: datetime, minutes: int) -> float:
    """Return hours from `start` to a wall-clock time; one that the clocks leave out is the moment they jump."""
    local = midnight + timedelta(minutes=minutes)  # wall-clock arithmetic: the zone stays, the offset follows it
    return (local.astimezone(UTC) - start.astimezone(UTC)).total_seconds() / 3600


def _merged(spans: list[Span]) -> tuple[Span, ...]:
    merged: list[Span] = []
    for begin, end in sorted(spans):
        if end <= begin:
            continue
        if merged and begin <= merged[-1][1] + 1e-9:
            merged[-1] = (merged[-1][0], max(merged[-1][1], end))
        else:
            merged.append((begin, end))
    return tuple(merged)
