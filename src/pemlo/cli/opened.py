"""Opens a film as it is now: the start of one that begins now has gone on."""

from datetime import UTC, datetime
from pathlib import Path

from pemlo.core.errors import InputError, Problem
from pemlo.core.film.film import Film, open_film
from pemlo.core.trade.levers import excluded


def open_now(path: Path, seed: int) -> Film:
    """Read a film from a file.

    Raises
    ------
    FileError, InputError
        If it cannot be read.
    """
    return open_film(path, seed, datetime.now(UTC))


def open_possible(path: Path, seed: int) -> Film:
    """Read a film from a file whose settings can all be had.

    Raises
    ------
    FileError, InputError
        If it cannot be read, or a shot has settings that exclude each other.
    """
    film = open_now(path, seed)
    problems = [
        Problem(f"Shot {shot.name}, {what}", words)
        for shot in film.project.shots
        for what, settings in (("as asked", shot.asked), ("as planned", shot.plan))
        if settings is not None and (words := excluded(shot, settings))
    ]
    if problems:
        raise InputError(problems, "Change one of the two; pemlo check says the same.")
    return film
