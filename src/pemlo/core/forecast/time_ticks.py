"""Ticks of a ruler of real time: midnights with their dates, and hours between them where there is room. Pure."""

import math
from collections.abc import Iterator
from dataclasses import dataclass
from datetime import datetime, timedelta

from pemlo.core.project.project import Project

DAY_PX = 46  # a day needs so much to carry its name
HOUR_PX = 44
HOURS = (12.0, 6.0, 3.0, 1.0, 0.5, 0.25)  # between midnights


@dataclass(frozen=True)
class Tick:
    """One tick: hours since the start, what stands at it, and whether it is a midnight."""

    hours: float
    words: str
    midnight: bool


def time_ticks(project: Project, first_h: float, last_h: float, width_px: float) -> list[Tick]:
    """Return the ticks from one hour to another, drawn over so many px."""
    zone = project.delivery.zone
    day_px = 24 / max(last_h - first_h, 1e-9) * width_px
    every = max(1, math.ceil(DAY_PX / max(day_px, 1e-6)))
    steps = [step for step in HOURS if step / 24 * day_px >= HOUR_PX] if day_px > 3 * DAY_PX else []
    first = project.moment(first_h).date()
    begin = (first - project.start.astimezone(zone).date()).days
    days = int((last_h - first_h) / 24) + 3
    return [
        tick
        for number in range(begin, begin + days)
        for tick in _of_day(project, number, every, steps[-1] if steps else 0.0)
        if first_h < tick.hours < last_h
    ]


def _of_day(project: Project, number: int, every: int, step_h: float) -> Iterator[Tick]:
    """Yield the midnight at the end of a day since the start, and the hours of that day."""
    zone = project.delivery.zone
    day = project.start.astimezone(zone).date() + timedelta(days=number)
    if step_h:
        midnight = datetime.combine(day, datetime.min.time(), zone)
        for place in range(1, round(24 / step_h)):
            moment = midnight + timedelta(hours=place * step_h)
            yield Tick(project.hours_of(moment), f"{moment:%H:%M}" if step_h < 1 else f"{moment.hour}", midnight=False)
    midnight = datetime.combine(day + timedelta(days=1), datetime.min.time(), zone)
    yield Tick(
        project.hours_of(midnight), f"{midnight:%a} {midnight.day}" if number % every == 0 else "", midnight=True
    )
