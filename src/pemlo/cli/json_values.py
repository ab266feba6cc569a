"""Numbers, intervals and moments as JSON takes them, six figures each; what is not known or never comes is null."""

import math

from pemlo.core.interval import Interval
from pemlo.core.project.project import Project

POINTS = ("p05", "p50", "p95")


def number(value: float) -> float | None:
    """Return a number."""
    return float(f"{value:.6g}") if math.isfinite(value) else None


def points(interval: Interval | None) -> dict[str, float | None] | None:
    """Return the three points of an interval."""
    return None if interval is None else dict(zip(POINTS, map(number, interval), strict=True))


def moment(project: Project, hours: float) -> str | None:
    """Return a moment so many hours after the start, as ISO 8601."""
    found = project.end(hours)
    return None if found is None else found.isoformat(timespec="seconds")


def moments(project: Project, ends: Interval) -> dict[str, str | None]:
    """Return the three moments of an interval of hours since the start."""
    return {name: moment(project, hours) for name, hours in zip(POINTS, ends, strict=True)}
