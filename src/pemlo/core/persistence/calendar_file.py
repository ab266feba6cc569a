"""A run of the film as an iCalendar file (RFC 5545): what each machine is planned for, the deadline, and the end.

Written for calendars that people have: one event for each stretch of work of a group of machines.
"""

from dataclasses import dataclass
from datetime import UTC, datetime, timedelta
from pathlib import Path

import numpy as np

from pemlo.core.arrays import Floats
from pemlo.core.farm.simulation import Farm
from pemlo.core.forecast.finish import Finish
from pemlo.core.persistence.whole_files import write_whole
from pemlo.core.project.project import Project
from pemlo.core.units import counted

GAP_S = 1800.0  # stretches of work nearer to each other than this are one


@dataclass(frozen=True)
class Stretch:
    """A group of machines at work without a longer pause.

    Attributes
    ----------
    machine : str
    begin, end : float
        Seconds since the start.
    shots : tuple of str
        In the order in which they come.
    frames : int
        That end in it.
    """

    machine: str
    begin: float
    end: float
    shots: tuple[str, ...]
    frames: int


def stretches_of(found: Finish) -> tuple[Stretch, ...]:
    """Return when each group of machines is at work in the traced run.

    Parameters
    ----------
    found : Finish
        With a trace.
    """
    farm, rows = found.farm, found.run.trace
    done = (rows[:, 3] > 0) & np.isfinite(rows[:, 2])
    groups = farm.slot_group[rows[:, 0].astype(int)]
    job_of = found.work.job_of
    stretches = []
    for group, name in enumerate(farm.names):
        mine = np.flatnonzero(done & (groups == group))
        spans = sorted(span for number in mine for span in _while_open(farm, group, rows[number, 1], rows[number, 2]))
        for begin, end in _joined(spans):
            here = [k for k in mine if rows[k, 1] < end and rows[k, 2] > begin]
            here.sort(key=lambda k: rows[k, 1])
            shots = tuple(dict.fromkeys(found.jobs[int(job_of[k])].shot.name for k in here))
            ended = sum(bool(begin < rows[k, 2] <= end) for k in here)
            stretches.append(Stretch(name, begin, end, shots, ended))
    return tuple(stretches)


def _while_open(farm: Farm, group: int, begin: float, end: float) -> list[tuple[float, float]]:
    """Return the parts of a frame's time in which its machine is free: a frame may wait for the next night."""
    opens, closes = (part[farm.window_of[group] : farm.window_of[group + 1]] for part in (farm.begins, farm.ends))
    return [
        (max(begin, float(a)), min(end, float(b))) for a, b in zip(opens, closes, strict=True) if a < end and b > begin
    ]


def _joined(spans: list[tuple[float, float]]) -> list[tuple[float, float]]:
    joined: list[tuple[float, float]] = []
    for begin, end in spans:
        if joined and begin - joined[-1][1] <= GAP_S:
            joined[-1] = joined[-1][0], max(joined[-1][1], end)
        else:
            joined.append((begin, end))
    return joined


def calendar_text(project: Project, found: Finish, written: datetime) -> str:
    """Return the calendar of the traced run.

    Parameters
    ----------
    project : Project
    found : Finish
        With a trace.
    written : datetime
        When it is written, with a time zone; calendars keep the newest of equal events by it.
    """
    from icalendar import Calendar, Event  # noqa: PLC0415 - only for this file

    zone, title = project.delivery.zone, project.title
    calendar = Calendar()
    calendar.add("prodid", "-//Pemlo//run of a film//EN")
    calendar.add("version", "2.0")

    def add(key: str, summary: str, begin: datetime, end: datetime, words: str) -> None:
        event = Event()
        event.add("uid", f"{key}@pemlo")
        event.add("dtstamp", written.astimezone(UTC))
        event.add("summary", summary)
        event.add("dtstart", begin.astimezone(UTC))
        event.add("dtend", end.astimezone(UTC))
        event.add("description", words)
        calendar.add_component(event)

    def moment(seconds: float) -> datetime:
        return project.start + timedelta(seconds=round(seconds))

    for number, one in enumerate(stretches_of(found)):
        words = f"{title}: {counted(one.frames, 'frame')} end here, in the middle one of {len(found.hours)} runs."
        add(f"{title}-{one.machine}-{number}", f"{one.machine}: {', '.join(one.shots)}", moment(one.begin),
            moment(one.end), words)  # fmt: skip
    due = project.delivery.deadline
    add(f"{title}-due", f"{title} is due", due, due, f"Chance to make it: {found.probability:.0%}.")
    middle, late = _end(found.hours, 0.5), _end(found.hours, 0.9)
    if middle is not None:
        end = project.start + timedelta(hours=middle)
        by = (
            "later than can be said"
            if late is None
            else f"{(project.start + timedelta(hours=late)).astimezone(zone):%a %d %b %H:%M}"
        )
        add(f"{title}-end", f"{title} is expected to be done", end, end, f"9 in 10 runs are done by {by}.")
    return str(calendar.to_ical().decode())


def _end(hours: Floats, share: float) -> float | None:
    found = float(np.quantile(hours, share, method="higher"))
    return found if np.isfinite(found) else None


def write_calendar(project: Project, found: Finish, path: Path, written: datetime) -> None:
    """Write the calendar.

    Raises
    ------
    InputError
        If it cannot be written.
    """
    write_whole(calendar_text(project, found, written), path)
