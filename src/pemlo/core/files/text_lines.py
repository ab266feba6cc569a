"""Lines of a text file that others write, and may still be writing: read on from where it was, never more than so much.

A pipe, a device or a folder is no log. A file that was replaced, or emptied and written anew, is read from its begin. A
line without an end is passed over once it is longer than any line of a log.
"""

import os
import stat
from contextlib import closing
from dataclasses import dataclass
from pathlib import Path

from pemlo.core.errors import FileError
from pemlo.core.foreign import shown
from pemlo.core.units import MIB

LONGEST_LINE = 10_000  # bytes
MOST_BYTES = 64 * MIB  # at one time: a look that finds more goes on with the next one
FIRST_BYTES, FIRST_LINES = MIB, 2000
_PART = MIB
_MARK = 256  # bytes before the place that was reached, by which it is known again


@dataclass(frozen=True)
class ReadTo:
    """How far a file was read: which file, to where, what stood before that, and whether in an endless line."""

    file: tuple[int, int] = (0, 0)
    offset: int = 0
    before: bytes = b""
    inside: bool = False


@dataclass(frozen=True)
class ReadOn:
    """Lines that are new, where reading goes on, and whether the file is another than before; what was passed over."""

    lines: tuple[str, ...]
    place: ReadTo
    anew: bool
    too_long: int
    more: bool


def read_on(path: Path, place: ReadTo, most: int = MOST_BYTES) -> ReadOn:
    """Return the whole lines of a file behind a place.

    Parameters
    ----------
    path : path
    place : ReadTo
        As the last call returned it.
    most : int
        Bytes that are read, more than two of the longest lines.

    Raises
    ------
    FileError
        If it cannot be read, or is no file.
    """
    try:
        with closing(_Handle(path)) as handle:
            anew = not handle.goes_on(place)
            if anew:
                place = ReadTo(handle.file)
            return _lines_behind(handle, place, most, anew=anew)
    except OSError as error:
        raise FileError(f"The log {shown(path.name)} cannot be read: {error.strerror}.") from error
    except ValueError as error:
        raise FileError(f"The log {shown(path.name)} cannot be read: its name cannot be one.") from error


def first_lines(path: Path) -> list[str]:
    """Return the first lines of a file, those by which it is seen how far its lines may differ.

    Raises
    ------
    FileError
        As `read_on`.
    """
    found = read_on(path, ReadTo(), FIRST_BYTES)
    return list(found.lines[:FIRST_LINES])


class _Handle:
    """An open file; opening it never waits for somebody who writes into a pipe."""

    def __init__(self, path: Path) -> None:
        self._number = os.open(path, os.O_RDONLY | os.O_NONBLOCK | os.O_CLOEXEC)
        found = os.fstat(self._number)
        self.file, self.size = (found.st_dev, found.st_ino), found.st_size
        if not stat.S_ISREG(found.st_mode):
            self.close()
            raise FileError(f"The log {shown(path.name)} is no file.", "Name a file, not a folder, a device or a pipe.")

    def goes_on(self, place: ReadTo) -> bool:
        """Whether the file is the one that was read to a place: the same bytes stand before it."""
        if self.file != place.file or self.size < place.offset:
            return False
        return self.read(place.offset - len(place.before), len(place.before)) == place.before

    def read(self, begin: int, count: int) -> bytes:
        return os.pread(self._number, count, begin)

    def close(self) -> None:
        os.close(self._number)


def _lines_behind(handle: _Handle, place: ReadTo, most: int, *, anew: bool) -> ReadOn:
    lines: list[str] = []
    at, inside, too_long = place.offset, place.inside, 0
    rest = b""  # of a line whose end was not seen yet
    end = min(handle.size, place.offset + most)
    while at < end:
        part = handle.read(at, min(_PART, end - at))
        if not part:
            break
        at += len(part)
        whole, newline, left = (rest + part).rpartition(b"\n")
        if newline:
            found = whole.split(b"\n")
            if inside:
                found, inside = found[1:], False
            too_long += sum(len(one) > LONGEST_LINE for one in found)
            lines += [one.decode("utf-8", "replace").rstrip("\r") for one in found if len(one) <= LONGEST_LINE]
        rest = left
        if len(rest) > LONGEST_LINE and not inside:
            too_long, inside = too_long + 1, True
        if inside:
            rest = b""
    reached = at - len(rest)
    mark = min(_MARK, reached)
    before = handle.read(reached - mark, mark)
    return ReadOn(tuple(lines), ReadTo(handle.file, reached, before, inside), anew, too_long, at < handle.size)
