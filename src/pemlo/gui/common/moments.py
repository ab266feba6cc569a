"""Dates in fields and cells: read as people say them, and written so that they read back. Qt-free."""

from datetime import UTC, datetime

from pemlo.core.project.due import read_moment, say_date
from pemlo.core.project.project import Project
from pemlo.gui.common.cells import read


def date_text(project: Project, moment: datetime) -> str:
    """Return a moment as it is said where the film is made: ``Thu 24 Apr 2031 18:00``."""
    return say_date(moment.astimezone(project.delivery.zone))


def read_date(project: Project, text: str, what: str) -> datetime:
    """Read a date of a film: ``Fri 18:00`` is the next one from now, or from the film's start if that is to come.

    Raises
    ------
    InputError
    """
    zone = project.delivery.zone
    now = max(datetime.now(UTC), project.start).astimezone(zone)
    moment: datetime = read(lambda typed: read_moment(typed, now, project.delivery.timezone), text, what)
    return moment
