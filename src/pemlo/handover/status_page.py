"""A page that says how far a film is, for a phone: one HTML file. Text; files in writing only."""

import math
from datetime import timedelta
from pathlib import Path
from typing import Any

from pemlo.core import palette
from pemlo.core.arrivals.live_forecast import LiveForecast, LiveShotForecast
from pemlo.core.arrivals.store import FinishRow
from pemlo.core.errors import FileError
from pemlo.core.frames import format_frames
from pemlo.core.persistence.whole_files import read_whole, write_whole
from pemlo.core.project.project import Project
from pemlo.core.units import format_duration, format_interval, round_figures
from pemlo.handover.pages import page_templates
from pemlo.words.frames_in import headline
from pemlo.words.verdicts import say_moment

NAME = "status.html"
MOST_BYTES = 50_000_000
MOST_ALARMS, MOST_MISSING = 20, 60  # alarms, and letters of what is missing
_MADE_BY = "<meta name=generator content='Pemlo status page'>"
_ELSEWHERE = "Choose another folder for the status page in Watch."
_WIDTH, _HEIGHT = 320, 90


def status_page(live: LiveForecast, finishes: tuple[FinishRow, ...]) -> str:
    """Return the page.

    Parameters
    ----------
    live : LiveForecast
    finishes : tuple of FinishRow
        How the finish moved.
    """
    project, snapshot = live.snapshot.project, live.snapshot
    page = page_templates().get_template("status.html")
    return page.render(
        title=project.title,
        headline=headline(live),
        due=say_moment(project.delivery.deadline, project),
        now=say_moment(project.start + timedelta(seconds=snapshot.now), project),
        percent=100 * snapshot.done_count / max(snapshot.wanted, 1),
        moves=_moves(project, finishes),
        alarms=live.alarms[:MOST_ALARMS],
        shots=[_shot(live, shot) for shot in live.shots],
        machines=[
            {
                "machine": machine.machine,
                "frames": machine.record.delivered,
                "rate": "" if math.isnan(machine.frames_an_hour) else round_figures(machine.frames_an_hour),
                "silent": machine.silent,
            }
            for machine in live.machines
        ],
        ink=palette.DAY,
        wide=_WIDTH,
        high=_HEIGHT,
    )


def _shot(live: LiveForecast, shot: LiveShotForecast) -> dict[str, Any]:
    missing = live.snapshot.of(shot.shot).missing
    lacking = format_frames(missing).replace(",", ", ") if missing else ""
    return {
        "shot": shot.shot,
        "count": f"{shot.done_count}/{shot.frames}",
        "took": "" if shot.times is None else format_duration(shot.times.mean),
        "left": "" if shot.hours_left is None else format_interval(shot.hours_left),
        "missing": lacking if len(lacking) < MOST_MISSING else f"{lacking[: MOST_MISSING - 3]}…",
    }


def _moves(project: Project, finishes: tuple[FinishRow, ...]) -> dict[str, Any] | None:
    """Return how the finish moved, as points of a drawing; None while there is too little to show."""
    known = [row for row in finishes if math.isfinite(row.high)]
    if len(known) < 2:
        return None
    due = project.deadline_h
    first, last = known[0].at, max(known[-1].at, known[0].at + 1)
    low = min(due, *(row.low for row in known))
    high = max(due, *(row.high for row in known))

    def point(at: float, hours: float) -> str:
        return f"{_WIDTH * (at - first) / (last - first):.1f},{up(hours):.1f}"

    def up(hours: float) -> float:
        return 6 + (_HEIGHT - 12) * (high - hours) / max(high - low, 1e-9)

    band = [point(row.at, row.low) for row in known] + [point(row.at, row.high) for row in reversed(known)]
    return {"band": " ".join(band), "middle": " ".join(point(row.at, row.middle) for row in known), "due": up(due)}


def write_status_page(folder: Path, live: LiveForecast, finishes: tuple[FinishRow, ...]) -> Path:
    """Write the page into a folder.

    Raises
    ------
    FileError
        If it cannot be written.
    """
    try:
        folder.mkdir(parents=True, exist_ok=True)
    except OSError as error:
        raise FileError(f"The status page cannot be written into {folder}: {error.strerror}.") from error
    path = folder / NAME
    _refuse_others(path)
    write_whole(status_page(live, finishes), path)
    return path


def _refuse_others(path: Path) -> None:
    """Refuse to write over a page that is not ours, or through a link."""
    try:
        if path.is_symlink() or (path.exists() and _MADE_BY not in read_whole(path, MOST_BYTES, "").decode()):
            raise FileError(f"{path.name} in {path.parent} already exists and is not a status page.", _ELSEWHERE)
    except (UnicodeDecodeError, OSError) as error:
        raise FileError(f"{path.name} in {path.parent} cannot be written over.", _ELSEWHERE) from error
