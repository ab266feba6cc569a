"""Whether hours before now are counted as machine time that can still be had. Pure."""

from datetime import datetime, timedelta

from pemlo.core.forecast.sentences import say_moment
from pemlo.core.project.project import Project
from pemlo.core.project.start import is_watched
from pemlo.core.units import format_duration

# Less than this is no loss to speak of.
LEAST, LEAST_SHARE = timedelta(minutes=30), 0.02


def gone_start_words(project: Project, now: datetime) -> str:
    """Return that the start has passed and its hours are counted; empty where frames are watched, or it is too little.

    Parameters
    ----------
    project : Project
    now : datetime
        Aware.
    """
    gone, whole = now - project.start, project.delivery.deadline - project.start
    if is_watched(project) or not project.shots or gone >= whole or gone < max(LEAST, LEAST_SHARE * whole):
        return ""
    return (
        f"The start, {say_moment(project.start, project)}, was {format_duration(gone.total_seconds())} ago: "
        "its hours are counted, though nothing is watched that was rendered in them."
    )
