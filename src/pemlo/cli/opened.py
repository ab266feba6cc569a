"""Opens a film as it is now: the start of one that begins now has gone on."""

from datetime import UTC, datetime
from pathlib import Path

from pemlo.cli.standard_input import DASH, NAME, read_standard_input
from pemlo.core.cluster import Cluster
from pemlo.core.errors import InputError, Problem
from pemlo.core.film.film import Film, open_film
from pemlo.core.persistence.document import from_bytes
from pemlo.core.project.start import with_start_now
from pemlo.core.trade.levers import excluded

HOLDER = "command"


def open_now(path: Path, seed: int) -> Film:
    """Read a film from a file, or from standard input where that is called ``-``.

    Raises
    ------
    FileError, InputError
        If it cannot be read.
    """
    now = datetime.now(UTC)
    if path != DASH:
        return held(open_film(path, seed, now))
    # Pictures of a film that comes from elsewhere are looked for where the command is run.
    return held(Film(with_start_now(from_bytes(read_standard_input("project"), NAME), now), Path.cwd(), seed=seed))


def held(film: Film) -> Film:
    """Return a film of which what is made stays: the fit of a thousand shots is larger than what the memo keeps."""
    film.hold(HOLDER, looks=False)
    return film


def open_possible(path: Path, seed: int, cluster: Cluster | None = None) -> Film:
    """Read a film from a file whose settings can all be had; a cluster does its large work, if there is one.

    Raises
    ------
    FileError, InputError
        If it cannot be read, or a shot has settings that exclude each other.
    """
    film = open_now(path, seed)
    if cluster is not None:
        cluster.check()
        film.memo.cluster = cluster
    problems = [
        Problem(f"Shot {shot.name}, {what}", words)
        for shot in film.project.shots
        for what, settings in (("as asked", shot.asked), ("as planned", shot.plan))
        if settings is not None and (words := excluded(shot, settings))
    ]
    if problems:
        raise InputError(problems, "Change one of the two; pemlo check says the same.")
    return film
