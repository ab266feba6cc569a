"""Opens a film as it is now: the start of one that begins now has gone on."""

from datetime import UTC, datetime
from pathlib import Path

from pemlo.core.film.film import Film, open_film


def open_now(path: Path, seed: int) -> Film:
    """Read a film from a file.

    Raises
    ------
    FileError, InputError
        If it cannot be read.
    """
    return open_film(path, seed, datetime.now(UTC))
