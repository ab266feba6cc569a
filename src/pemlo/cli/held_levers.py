"""Levers that are held on the command line: ``--set shot.lever=value``."""

import re

from pemlo.core.errors import InputError, Problem
from pemlo.core.project.project import Project
from pemlo.core.project.settings import LEVERS, NO_DENOISE, ShotSettings
from pemlo.core.project.spelling import cap, rays, switch_names
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
    settings = shot.settings.changed(**{lever: lever_value(lever, value.strip())})
    reason = why_not(shot, settings)
    if reason:
        raise InputError([Problem(words, reason)])
    return pin(project, shot, settings, (lever,))


def settings_over(asked: ShotSettings, words: str) -> ShotSettings:
    """Return settings with some levers at other values, as ``lever=value,lever=value`` says.

    Raises
    ------
    InputError
        If there is no such lever, or the value is not allowed.

    Examples
    --------
    >>> settings_over(ShotSettings(samples=64), "split=4,1,2,denoise=frame").split
    (4, 1, 2)
    """
    fields: dict[str, object] = {}
    # A comma may also be part of a value: a new lever begins where a name and an equals sign follow.
    for part in re.split(r",\s*(?=[a-z_ ]+=)", words):
        lever, found, value = part.partition("=")
        lever = lever.strip().replace(" ", "_")
        if not found:
            raise InputError([Problem(part.strip(), "is not a lever")], "Write it like samples=128,denoise=frame.")
        if lever not in (*LEVERS, "between"):
            raise InputError([Problem(words, f"there is no lever {lever}")], f"There are: {', '.join(LEVERS)}.")
        fields[lever] = value.strip() if lever == "between" else lever_value(lever, value.strip())
    return asked.changed(**fields)


def lever_value(lever: str, text: str) -> object:
    """Read the value of a lever."""
    if lever == "keep":
        return tuple(part for part in text.replace("+", " ").split() if part != NO_DENOISE)
    if lever == "noise_threshold" and text == NO_DENOISE:
        return None
    parse = {"switches": switch_names, "split": rays, "most_seconds": cap}.get(lever)
    if parse is not None:
        try:
            return parse(text)
        except ValueError as error:
            raise InputError([Problem(f"{lever}={text}", str(error))]) from error
    return text
