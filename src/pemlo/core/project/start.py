"""The start of a film that begins now: it goes on with the clock until frames are watched or it is typed. Pure."""

from datetime import datetime, timedelta

from pemlo.core.project.project import Project

NOW = "now"  # as it is typed


def is_watched(project: Project) -> bool:
    """Whether it is said where frames arrive: from then on the start is what it was."""
    return bool(project.watching.place) or any(shot.place for shot in project.shots)


def with_start_now(project: Project, now: datetime, least: timedelta = timedelta(0)) -> Project:
    """Return a film whose start has gone on to this minute, if it is one that begins now.

    Parameters
    ----------
    project : Project
        One whose frames are watched, or that is due by now, is returned as it is.
    now : datetime
        Aware.
    least : timedelta
        Less than that it does not go on.
    """
    minute = now.replace(second=0, microsecond=0)
    gone = minute - project.start
    if not project.starts_now or is_watched(project) or gone <= least or minute >= project.delivery.deadline:
        return project
    return project.replace(start=minute.astimezone(project.delivery.zone))
