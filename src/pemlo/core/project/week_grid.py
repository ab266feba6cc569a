"""A week painted by the half hour: which minutes of it are free. Pure."""

from pemlo.core.project.hours import ALL_DAY, DAY_MINUTES, Day, Week

STEP_MINUTES = 30
WEEK_MINUTES = 7 * DAY_MINUTES


def free_minutes(week: Week) -> list[bool]:
    """Return for each minute from Monday midnight whether it is free; what runs past Sunday goes on on Monday."""
    free = [False] * WEEK_MINUTES
    for number, day in enumerate(week):
        for start, end in day:
            for minute in range(number * DAY_MINUTES + start, number * DAY_MINUTES + end):
                free[minute % WEEK_MINUTES] = True
    return free


def painted(week: Week, day: int, first: int, last: int, *, free: bool) -> Week:
    """Return a week with the minutes of a day from `first` up to `last` made free, or not free.

    Examples
    --------
    >>> from pemlo.core.project.hours import format_week, parse_week
    >>> format_week(painted(parse_week("Mon 19:00-08:00"), 1, 0, 360, free=False))
    'Mon 19:00-24:00, Tue 06:00-08:00'
    """
    minutes = free_minutes(week)
    begin = day * DAY_MINUTES
    minutes[begin + first : begin + last] = [free] * (last - first)
    return week_of(minutes)


def week_of(minutes: list[bool]) -> Week:
    """Return the week in which these minutes are free; a night belongs to the day on which it begins."""
    if all(minutes):
        return (ALL_DAY,) * 7
    days: list[list[tuple[int, int]]] = [[] for _ in range(7)]
    for start, length in _runs(minutes):
        for day, first, last in _pieces(start, length):
            days[day % 7].append((first, last))
    return tuple(_day(spans) for spans in days)


def _runs(minutes: list[bool]) -> list[tuple[int, int]]:
    """Return where each run of free minutes starts, and how long it is; a run may go on over the end of the week."""
    starts = [minute for minute in range(WEEK_MINUTES) if minutes[minute] and not minutes[minute - 1]]
    runs = []
    for start in starts:
        length = 1
        while minutes[(start + length) % WEEK_MINUTES]:
            length += 1
        runs.append((start, length))
    return runs


def _pieces(start: int, length: int) -> list[tuple[int, int, int]]:
    """Part a run at midnights, but for a night that ends before noon: that is one piece of the day it begins on."""
    day, first = divmod(start, DAY_MINUTES)
    end = first + length
    if end <= DAY_MINUTES + DAY_MINUTES // 2 and (first or end <= DAY_MINUTES):
        return [(day, first, end)]
    pieces = [(day, first, DAY_MINUTES)]
    left = length - (DAY_MINUTES - first)
    while left > 0:
        day += 1
        pieces.append((day, 0, min(left, DAY_MINUTES)))
        left -= DAY_MINUTES
    return pieces


def _day(spans: list[tuple[int, int]]) -> Day:
    return tuple(sorted(spans))
