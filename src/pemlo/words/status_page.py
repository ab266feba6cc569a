"""A page that says how far a film is, for a phone: one HTML file. Text; files in writing only."""

import math
from datetime import timedelta
from html import escape
from pathlib import Path

from pemlo.core import palette
from pemlo.core.arrivals.live_forecast import LiveForecast
from pemlo.core.arrivals.store import FinishRow
from pemlo.core.chances import chance_percent
from pemlo.core.errors import FileError
from pemlo.core.frames import format_frames
from pemlo.core.interval import Interval
from pemlo.core.persistence.whole_files import read_whole, write_whole
from pemlo.core.project.project import Project
from pemlo.core.units import format_duration, format_interval, round_figures
from pemlo.words.verdicts import say_hours, say_moment

NAME = "status.html"
MOST_BYTES = 50_000_000
_MADE_BY = "<meta name=generator content='Pemlo status page'>"
_ELSEWHERE = "Choose another folder for the status page in Watch."
_WIDTH, _HEIGHT = 320, 90
_DAY = palette.DAY
_STYLE = f"""
body{{margin:16px;font:15px/1.4 system-ui,sans-serif;background:{_DAY["sheet"]};color:{_DAY["ink"]};max-width:40em}}
h1{{font-size:20px;margin:0 0 4px}}p{{margin:4px 0 12px}}table{{border-collapse:collapse;width:100%}}
td,th{{padding:4px 6px;border-bottom:1px solid {_DAY["line"]};text-align:right;font-variant-numeric:tabular-nums}}
td:first-child,th:first-child{{text-align:left}}th{{font-weight:400;color:{_DAY["second"]}}}
li{{margin:4px 0}}.limit{{color:{_DAY["limit"]}}}.second{{color:{_DAY["second"]}}}
.bar{{background:{_DAY["time_light"]};height:8px}}
.bar i{{display:block;background:{_DAY["time"]};height:8px}}svg{{width:100%;height:auto}}
"""


def headline(found: LiveForecast) -> str:
    """Return how far a film is and when it is done, in a sentence."""
    project, snapshot = found.snapshot.project, found.snapshot
    words = f"{snapshot.done_count:,} of {snapshot.wanted:,} frames in".replace(",", "\u202f")
    if found.done:
        return f"All {snapshot.wanted:,} frames are in".replace(",", "\u202f")
    if found.finish_h is None or found.probability is None:
        return f"{words}; {found.why_not or 'when it is done is not known'}"
    low, middle, high = _moments(project, found.finish_h)
    return f"{words}; done {middle} ({low}–{high}), chance {chance_percent(found.probability)}"


def status_page(found: LiveForecast, finishes: tuple[FinishRow, ...]) -> str:
    """Return the page.

    Parameters
    ----------
    found : LiveForecast
    finishes : tuple of FinishRow
        How the finish moved.
    """
    project = found.snapshot.project
    share = 100 * found.snapshot.done_count / max(found.snapshot.wanted, 1)
    now = say_moment(project.start + timedelta(seconds=found.snapshot.now), project)
    due = say_moment(project.delivery.deadline, project)
    parts = [
        f"<h1>{escape(project.title)}</h1>",
        f"<p>{escape(headline(found))}. Due {escape(due)}. <span class=second>As of {escape(now)}.</span></p>",
        f"<div class=bar><i style='width:{share:.1f}%'></i></div>",
        _line(project, finishes),
        _alarms(found),
        _shots(found),
        _machines(found),
    ]
    return (
        "<!DOCTYPE html><html lang=en><head><meta charset=utf-8><meta name=viewport content='width=device-width'>"
        f"{_MADE_BY}<meta http-equiv=refresh content=60><title>{escape(project.title)}</title>"
        f"<style>{_STYLE}</style></head><body>" + "".join(parts) + "</body></html>"
    )


def write_status_page(folder: Path, found: LiveForecast, finishes: tuple[FinishRow, ...]) -> Path:
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
    write_whole(status_page(found, finishes), path)
    return path


def _refuse_others(path: Path) -> None:
    """Refuse to write over a page that is not ours, or through a link."""
    try:
        if path.is_symlink() or (path.exists() and _MADE_BY not in read_whole(path, MOST_BYTES, "").decode()):
            raise FileError(f"{path.name} in {path.parent} already exists and is not a status page.", _ELSEWHERE)
    except (UnicodeDecodeError, OSError) as error:
        raise FileError(f"{path.name} in {path.parent} cannot be written over.", _ELSEWHERE) from error


def _moments(project: Project, one: Interval) -> tuple[str, str, str]:
    low, middle, high = (say_hours(hours, project) for hours in (one.low, one.middle, one.high))
    return low, middle, high


def _line(project: Project, finishes: tuple[FinishRow, ...]) -> str:
    """Return how the finish moved, as a drawing."""
    known = [one for one in finishes if math.isfinite(one.high)]
    if len(known) < 2:
        return ""
    due = project.deadline_h
    first, last = known[0].at, max(known[-1].at, known[0].at + 1)
    low = min(due, *(one.low for one in known))
    high = max(due, *(one.high for one in known))

    def x(at: float) -> float:
        return _WIDTH * (at - first) / (last - first)

    def y(hours: float) -> float:
        return 6 + (_HEIGHT - 12) * (high - hours) / max(high - low, 1e-9)

    band = " ".join(f"{x(one.at):.1f},{y(one.low):.1f}" for one in known)
    band += " " + " ".join(f"{x(one.at):.1f},{y(one.high):.1f}" for one in reversed(known))
    middle = " ".join(f"{x(one.at):.1f},{y(one.middle):.1f}" for one in known)
    return (
        f"<p class=second>How the finish moved since the launch; the line across is the deadline.</p>"
        f"<svg viewBox='0 0 {_WIDTH} {_HEIGHT}'><polygon points='{band}' fill='{_DAY['time_light']}'/>"
        f"<polyline points='{middle}' fill=none stroke='{_DAY['time']}' stroke-width=2 />"
        f"<line x1=0 x2={_WIDTH} y1={y(due):.1f} y2={y(due):.1f} stroke='{_DAY['limit']}' stroke-width=1.5 /></svg>"
    )


def _alarms(found: LiveForecast) -> str:
    if not found.alarms:
        return "<p class=second>Nothing is wrong.</p>"
    lines = "".join(
        f"<li{' class=limit' if alarm.kind != 'look' else ''}>{escape(alarm.words)} {escape(alarm.todo)}</li>"
        for alarm in found.alarms[:20]
    )
    return f"<ul>{lines}</ul>"


def _shots(found: LiveForecast) -> str:
    rows = []
    for shot in found.shots:
        missing = found.snapshot.of(shot.shot).missing
        lacking = format_frames(missing).replace(",", ", ") if missing else ""
        took = "" if shot.times is None else format_duration(shot.times.mean)
        left = "" if shot.hours_left is None else format_interval(shot.hours_left)
        cells = (
            shot.shot,
            f"{shot.done_count}/{shot.frames}",
            took,
            left,
            lacking if len(lacking) < 60 else lacking[:57] + "…",
        )
        rows.append("".join(f"<td>{escape(cell)}</td>" for cell in cells))
    body = "".join(f"<tr>{row}</tr>" for row in rows)
    heads = "<th>shot<th>in<th>a frame<th>machine-hours left<th>missing"
    return f"<table><tr>{heads}</tr>{body}</table>"


def _machines(found: LiveForecast) -> str:
    rows = []
    for machine in found.machines:
        rate = "" if math.isnan(machine.frames_an_hour) else round_figures(machine.frames_an_hour)
        cells = (machine.machine, str(machine.record.delivered), rate, "silent" if machine.silent else "")
        rows.append("<tr>" + "".join(f"<td>{escape(cell)}</td>" for cell in cells) + "</tr>")
    return f"<table><tr><th>machine<th>frames<th>an hour<th></tr>{''.join(rows)}</table>" if rows else ""
