"""A run of the film as an iCalendar file (RFC 5545) or a table: what each machine is planned for, deadline, and end.

Written for calendars that people have: one event for each stretch of work of a group of machines.
"""

from dataclasses import dataclass
from datetime import UTC, datetime, timedelta
from pathlib import Path

import numpy as np

from pemlo.core.arrays import Floats
from pemlo.core.chances import chance_words
from pemlo.core.farm.simulation import Farm
from pemlo.core.forecast.finish import Finish
from pemlo.core.forecast.who_when import slot_runs
from pemlo.core.persistence.table import write_rows
from pemlo.core.persistence.whole_files import write_whole
from pemlo.core.project.project import Project
from pemlo.core.units import HOUR_S, counted

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


def stretches_of(finish: Finish) -> tuple[Stretch, ...]:
    """Return when each group of machines is at work in the traced run.

    Parameters
    ----------
    finish : Finish
        With a trace.
    """
    farm, runs = finish.farm, slot_runs(finish)
    groups = farm.slot_group[runs.slot]
    ended = finish.run.trace[runs.frames, 2]
    group_of = farm.slot_group[finish.run.trace[runs.frames, 0].astype(int)]
    stretches = []
    for group, name in enumerate(farm.names):
        mine = np.flatnonzero(groups == group)
        mine = mine[np.argsort(runs.begin[mine], kind="stable")]
        begins, ends = runs.begin[mine] * HOUR_S, runs.end[mine] * HOUR_S
        spans = sorted(
            span
            for begin, end in zip(begins, ends, strict=True)
            for span in _while_open(farm, group, float(begin), float(end))
        )
        done = np.sort(ended[group_of == group])
        for begin, end in _joined(spans):
            here = mine[(begins < end) & (ends > begin)]
            shots = tuple(dict.fromkeys(finish.jobs[int(runs.job[k])].shot.name for k in here))
            frames = int(np.searchsorted(done, end, "right") - np.searchsorted(done, begin, "right"))
            stretches.append(Stretch(name, begin, end, shots, frames))
    return tuple(stretches)


def _while_open(farm: Farm, group: int, begin: float, end: float) -> list[tuple[float, float]]:
    """Return the parts of a run of frames in which its machine is free: it may go on in the next night."""
    opens, closes = (part[farm.window_of[group] : farm.window_of[group + 1]] for part in (farm.begins, farm.ends))
    first, last = np.searchsorted(closes, begin, "right"), np.searchsorted(opens, end, "left")
    return [(max(begin, float(opens[k])), min(end, float(closes[k]))) for k in range(first, last)]


def _joined(spans: list[tuple[float, float]]) -> list[tuple[float, float]]:
    joined: list[tuple[float, float]] = []
    for begin, end in spans:
        if joined and begin - joined[-1][1] <= GAP_S:
            joined[-1] = joined[-1][0], max(joined[-1][1], end)
        else:
            joined.append((begin, end))
    return joined


def calendar_text(project: Project, finish: Finish, written: datetime) -> str:
    """Return the calendar of the traced run.

    Parameters
    ----------
    project : Project
    finish : Finish
        With a trace.
    written : datetime
        When it is written, with a time zone; calendars keep the newest of equal events by it.
    """
    from icalendar import Calendar, Event  # noqa: PLC0415 - only for this file

    title = project.title
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

    for number, stretch in enumerate(stretches_of(finish)):
        words = f"{title}: {counted(stretch.frames, 'frame')} end here, in the middle one of {len(finish.hours)} runs."
        name = f"{stretch.machine}: {', '.join(stretch.shots)}"
        add(f"{title}-{stretch.machine}-{number}", name, moment(stretch.begin), moment(stretch.end), words)  # fmt: skip
    due = project.delivery.deadline
    add(f"{title}-due", f"{title} is due", due, due, f"Chance to make it: {chance_words(finish.probability)}.")
    middle, late = _end(finish.hours, 0.5), _end(finish.hours, 0.9)
    if middle is not None:
        end = project.start + timedelta(hours=middle)
        by = "later than can be said" if late is None else f"{project.moment(late):%a %d %b %H:%M}"
        add(f"{title}-end", f"{title} is expected to be done", end, end, f"9 in 10 runs are done by {by}.")
    return str(calendar.to_ical().decode())


def _end(hours: Floats, share: float) -> float | None:
    found = float(np.quantile(hours, share, method="higher"))
    return found if np.isfinite(found) else None


def hours_table(project: Project, finish: Finish) -> str:
    """Return the same stretches of work as a table: machine, begin, end, hours, shots, frames that end in them."""
    zone = project.delivery.zone

    def moment(seconds: float) -> str:
        return (project.start + timedelta(seconds=round(seconds))).astimezone(zone).isoformat(timespec="minutes")

    rows = [
        [stretch.machine, moment(stretch.begin), moment(stretch.end), f"{(stretch.end - stretch.begin) / HOUR_S:.2f}",
         " ".join(stretch.shots), str(stretch.frames)]
        for stretch in stretches_of(finish)
    ]  # fmt: skip
    return write_rows(["machine", "begin", "end", "hours", "shots", "frames"], rows)


def write_hours(project: Project, finish: Finish, path: Path) -> None:
    """Write the table of stretches of work.

    Raises
    ------
    FileError
        If it cannot be written.
    """
    write_whole(hours_table(project, finish), path)


def write_calendar(project: Project, finish: Finish, path: Path, written: datetime) -> None:
    """Write the calendar.

    Raises
    ------
    InputError
        If it cannot be written.
    """
    write_whole(calendar_text(project, finish, written), path)
