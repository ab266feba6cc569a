"""Changes to when machines are free: one end of one stretch, one night or day more or less. Pure.

All of them give a machine other hours on single dates; its week stays as it is.
"""

from datetime import date, datetime, time, timedelta
from typing import Literal

from pemlo.core.errors import InputError
from pemlo.core.project.edits import set_machine
from pemlo.core.project.hours import ALL_DAY, DAY_MINUTES, Day, format_day, parse_day, parse_week
from pemlo.core.project.machines import Machine, OtherHours
from pemlo.core.project.project import Project

EVENING, MORNING = 19 * 60, 8 * 60  # a night lies between them, and a day between those (common practice, no source)
NIGHT_MINUTES = MORNING + DAY_MINUTES - EVENING
STEP_MINUTES = 15
Side = Literal["begin", "end"]


def hours_on(machine: Machine, day: date) -> Day:
    """Return when a machine is free on a date: the stretches that begin on it."""
    special = {other_hours.day: other_hours.hours for other_hours in machine.exceptions}
    return parse_day(special[day]) if day in special else parse_week(machine.hours)[day.weekday()]


def with_hours_on(machine: Machine, hours: dict[date, Day]) -> Machine:
    """Return a machine with other hours on some dates; where these are its usual ones it needs no others."""
    week = parse_week(machine.hours)
    others = [other_hours for other_hours in machine.exceptions if other_hours.day not in hours]
    others += [
        OtherHours(day=day, hours=format_day(_joined(spans)))
        for day, spans in hours.items()
        if _joined(spans) != week[day.weekday()]
    ]
    return machine.replace(exceptions=tuple(sorted(others, key=lambda one: one.day)))


def _joined(spans: Day) -> Day:
    """Return stretches in order, those that touch as one; but one that begins at night is shorter than a day."""
    joined: list[tuple[int, int]] = []
    for begin, end in sorted(spans):
        whole = (joined[-1][0], max(end, joined[-1][1])) if joined else (0, 0)
        if joined and begin <= joined[-1][1] and (whole[1] - whole[0] < DAY_MINUTES or whole == ALL_DAY[0]):
            joined[-1] = whole
        else:
            joined.append((begin, end))
    return tuple(joined)


def move_end(project: Project, name: str, at_h: float, side: Side, to_h: float) -> Project:
    """Return a film in which one end of a stretch of a machine's hours is moved; what has no length left is gone.

    Parameters
    ----------
    project : Project
    name : str
        Of the machine.
    at_h, to_h : float
        Where the end is, and where it goes; hours since the start. It goes to whole quarters of an hour.
    side : str
        ``begin`` or ``end``.

    Raises
    ------
    InputError
        If no stretch of its hours ends there.
    """
    machine = _machine(project, name)
    found = _stretch(project, machine, at_h, side)
    if found is None:
        raise InputError(f"The hours of {name} have no {side} there.", "Drag where they begin or end.")
    day, number = found
    spans = hours_on(machine, day)
    begin, end = spans[number]
    midnight = datetime.combine(day, time.min, project.delivery.zone)
    wanted = _minutes(project, midnight, to_h)
    if side == "begin":
        begin = max(wanted, 0, end - DAY_MINUTES + STEP_MINUTES)
    else:
        end = min(wanted, begin + DAY_MINUTES - STEP_MINUTES)
    rest = (*spans[:number], *spans[number + 1 :])
    if begin >= end:
        hours = {day: rest}
    elif begin < DAY_MINUTES:
        hours = {day: (*rest, (begin, end))}
    else:  # it begins on the next date now
        after = day + timedelta(days=1)
        hours = {day: rest, after: (*hours_on(machine, after), (begin - DAY_MINUTES, end - DAY_MINUTES))}
    return _with(project, with_hours_on(machine, hours))


def _stretch(project: Project, machine: Machine, at_h: float, side: Side) -> tuple[date, int] | None:
    zone = project.delivery.zone
    moment = project.moment(at_h)
    for offset in (0, -1):
        day = moment.date() + timedelta(days=offset)
        midnight = datetime.combine(day, time.min, zone)
        for number, span in enumerate(hours_on(machine, day)):
            edge = span[0] if side == "begin" else span[1]
            if abs(project.hours_of(midnight + timedelta(minutes=edge)) - at_h) < 1e-3:
                return day, number
    return None


def _minutes(project: Project, midnight: datetime, hours: float) -> int:
    """Return the wall-clock minutes of a moment since a midnight, in whole steps."""
    local = (project.start + timedelta(hours=hours)).astimezone(midnight.tzinfo)
    plain = local.replace(tzinfo=None) - midnight.replace(tzinfo=None)
    return round(plain.total_seconds() / 60 / STEP_MINUTES) * STEP_MINUTES


def part_of_day(moment: datetime) -> tuple[date, tuple[int, int], str]:
    """Return the night or the day that a moment lies in: the date on which it begins, its minutes, and what it is."""
    minute = moment.hour * 60 + moment.minute
    if minute >= EVENING:
        return moment.date(), (EVENING, MORNING + DAY_MINUTES), "night"
    if minute < MORNING:
        return moment.date() - timedelta(days=1), (EVENING, MORNING + DAY_MINUTES), "night"
    return moment.date(), (MORNING, EVENING), "day"


def open_part(project: Project, name: str, at_h: float) -> Project:
    """Return a film in which a machine is free for the night or the day that a moment lies in."""
    machine = _machine(project, name)
    moment = project.moment(at_h)
    day, span, _ = part_of_day(moment)
    return _with(project, with_hours_on(machine, {day: (*hours_on(machine, day), span)}))


def close_stretch(project: Project, name: str, at_h: float) -> Project:
    """Return a film in which a machine is not free in the stretch of its hours that a moment lies in."""
    machine, zone = _machine(project, name), project.delivery.zone
    moment = project.moment(at_h)
    for offset in (0, -1):
        day = moment.date() + timedelta(days=offset)
        midnight = datetime.combine(day, time.min, zone)
        spans = hours_on(machine, day)
        kept = tuple(
            span
            for span in spans
            if not project.hours_of(midnight + timedelta(minutes=span[0]))
            <= at_h
            < project.hours_of(midnight + timedelta(minutes=span[1]))
        )
        if kept != spans:
            return _with(project, with_hours_on(machine, {day: kept}))
    return project


def closed_nights(project: Project, machine: Machine) -> tuple[date, ...]:
    """Return the dates before the deadline in whose nights a machine is free for less than half."""
    zone = project.delivery.zone
    first, last = (moment.astimezone(zone) for moment in (project.start, project.delivery.deadline))
    days = [first.date() + timedelta(days=k) for k in range((last.date() - first.date()).days + 1)]
    before = [day for day in days if datetime.combine(day, time.min, zone) + timedelta(minutes=EVENING) < last]
    return tuple(day for day in before if _free_at_night(machine, day) < NIGHT_MINUTES / 2)


def _free_at_night(machine: Machine, day: date) -> int:
    """Return the minutes of the night that begins on a date in which a machine is free."""
    after = [(a + DAY_MINUTES, b + DAY_MINUTES) for a, b in hours_on(machine, day + timedelta(days=1))]
    spans = _joined((*hours_on(machine, day), *after))
    return sum(max(0, min(end, MORNING + DAY_MINUTES) - max(begin, EVENING)) for begin, end in spans)


def with_nights(project: Project, machine: Machine, extra: int) -> Machine:
    """Return a kind of machine that is free on the first few nights on which it was not."""
    night = (EVENING, MORNING + DAY_MINUTES)
    opened = closed_nights(project, machine)[:extra]
    return with_hours_on(machine, {day: (*hours_on(machine, day), night) for day in opened})


def _machine(project: Project, name: str) -> Machine:
    found = next((machine for machine in project.machines if machine.name == name), None)
    if found is None:
        raise InputError(f"There is no machine called {name}.", "It may be gone: look at the brief.")
    return found


def _with(project: Project, machine: Machine) -> Project:
    return set_machine(project, machine.name, exceptions=machine.exceptions)
