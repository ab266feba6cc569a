"""Levers that are held in words: ``shot.lever=value``. Pure."""

from pemlo.core.errors import InputError, Problem
from pemlo.core.project.project import Project
from pemlo.core.project.settings import LEVERS
from pemlo.core.project.settings_text import lever_value
from pemlo.core.trade.lever_edits import pin
from pemlo.core.trade.levers import why_not


def hold(project: Project, words: str) -> Project:
    """Return a film with one lever of a shot set and pinned, as ``shot.lever=value`` says.

    Raises
    ------
    InputError
        If there is no such shot or lever, or the value is not allowed.

    Examples
    --------
    Values are ``none`` for no threshold, cap or denoising; what is kept or switched on has a plus between; a split is
    written ``4,1,2``, a cap as people say durations.
    """
    where, found, value = words.partition("=")
    name, dot, lever = where.rpartition(".")
    if not (found and dot):
        raise InputError([Problem(words, "is not a lever")], "Write it like 040.samples=128.")
    shot = next((shot for shot in project.shots if shot.name == name), None)
    if shot is None:
        raise InputError([Problem(words, f"there is no shot {name}")])
    if lever not in LEVERS:
        raise InputError([Problem(words, f"there is no lever {lever}")], f"There are: {', '.join(LEVERS)}.")
    settings = shot.settings.replace(**{lever: lever_value(lever, value.strip())})
    reason = why_not(shot, settings)
    if reason:
        raise InputError([Problem(words, reason)])
    return pin(project, shot, settings, (lever,))
