"""What a command reads from standard input, where a file is called ``-``. One file: there is only one."""

import sys
from pathlib import Path

from pemlo.core.errors import FileError, InputError
from pemlo.core.persistence.table import LARGEST_BYTES, read_table_file, table_text

DASH = Path("-")
NAME = "standard input"
_read: dict[str, bytes] = {}  # what it was read as, and what came


def table_of(path: Path, what: str) -> str:
    """Return the text of a table file, or of standard input; `what` says which table it is.

    Raises
    ------
    FileError, InputError
    """
    return table_text(read_standard_input(what), NAME) if path == DASH else read_table_file(path)


def read_standard_input(what: str) -> bytes:
    """Return all of standard input; `what` says as which file it is read.

    Raises
    ------
    FileError
        If it is too large.
    InputError
        If it was read as another file already, or somebody would have to type it.
    """
    if what in _read:
        return _read[what]
    if _read:
        raise InputError(f"Standard input is the {next(iter(_read))} already.", f"Name a file for the {what}.")
    if sys.stdin is None or sys.stdin.isatty():
        raise InputError("Nothing comes from standard input.", "Pipe a file into it, or name the file.")
    raw = sys.stdin.buffer.read(LARGEST_BYTES + 1)
    if len(raw) > LARGEST_BYTES:
        raise FileError(f"What comes from {NAME} is larger than {LARGEST_BYTES // 2**20} MiB.", "Split it.")
    _read[what] = raw
    return raw
