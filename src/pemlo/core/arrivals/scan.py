"""What lies in the folders into which frames arrive. Files only; nothing is ever written there.

Folders are read level by level, only those that the place names; a hundred thousand files take well under a second. An
entry that cannot be read says nothing of the others: it is named, and what was known of it stays.
"""

import os
import stat
from collections.abc import Iterator
from dataclasses import dataclass
from pathlib import Path

from pemlo.core.arrivals.place import FrameName, FramePlace, found_of
from pemlo.core.foreign import shown
from pemlo.core.progress import Monitor, Unwatched

STEP_FILES = 2000  # so many are read between two looks at the monitor
MOST_TROUBLES = 50


@dataclass(frozen=True, slots=True)
class Arrival:
    """A file of a frame.

    Attributes
    ----------
    found : FrameName
        What its name says.
    path : str
    size : int
        Bytes.
    modified : float
        When it was written last, seconds since 1970.
    """

    found: FrameName
    path: str
    size: int
    modified: float


@dataclass(frozen=True)
class Scan:
    """What lies in a place.

    Attributes
    ----------
    arrivals : tuple of Arrival
        By path.
    troubles : tuple of str
        What could not be read, in sentences.
    unread : tuple of str
        Folders and files that are there and could not be looked at: of what lies in them nothing is known.
    """

    arrivals: tuple[Arrival, ...]
    troubles: tuple[str, ...]
    unread: tuple[str, ...] = ()

    @property
    def whole(self) -> bool:
        """Whether everything could be looked at."""
        return not self.unread


def scan(place: FramePlace, root: Path, monitor: Monitor | None = None) -> Scan:
    """Return the frames that lie in a place.

    Parameters
    ----------
    place : FramePlace
    root : Path
        From where it is meant; a place that begins at the root of the disk is meant from there, and one that begins
        with ``~`` from the home of whoever looks.
    monitor : Monitor, optional

    Raises
    ------
    Cancelled
        From the monitor.
    """
    watch = monitor or Unwatched()
    start = Path("/") if place.pattern.strip().startswith("/") else root
    level = 0
    if place.parts[0] == "~" and len(place.parts) > 1:
        start, level = Path("~").expanduser(), 1
    looking = _Looking(place)
    arrivals: list[Arrival] = []
    for number, arrival in enumerate(looking.files(start, level, {})):
        if number % STEP_FILES == 0:
            watch.step(0.0, f"Looking for frames: {number}")
        arrivals.append(arrival)
    arrivals.sort(key=lambda arrival: arrival.path)
    return Scan(tuple(arrivals), looking.said(), tuple(looking.unread))


class _Looking:
    """One look through the folders of a place, and what went wrong in it."""

    def __init__(self, place: FramePlace) -> None:
        self._place = place
        self._troubles: list[str] = []
        self.unread: list[str] = []

    def said(self) -> tuple[str, ...]:
        more = len(self._troubles) - MOST_TROUBLES
        last = (f"{more} more could not be looked at.",) if more > 0 else ()
        return (*self._troubles[:MOST_TROUBLES], *last)

    def files(self, folder: Path, level: int, known: dict[str, str]) -> Iterator[Arrival]:
        """Return the frames in a folder, from a level of the place on."""
        part, last = self._place.parts[level], level == len(self._place.parts) - 1
        if "{" not in part and not last:
            yield from self._named(folder / part, level, known)
            return
        try:
            entries = os.scandir(folder)
        except OSError as error:
            self._away(folder, error)
            return
        with entries:
            while True:
                try:
                    entry = next(entries, None)
                except OSError as error:  # the listing broke off
                    self._unread(str(folder), f"{shown(str(folder))} cannot be read to its end: {error.strerror}.")
                    return
                if entry is None:
                    return
                fields = self._place.read_part(level, entry.name, known)
                if fields is not None:
                    yield from self._one(entry, level, fields, last=last)

    def _named(self, folder: Path, level: int, known: dict[str, str]) -> Iterator[Arrival]:
        """Go on in a folder that the place names itself."""
        try:
            exists = stat.S_ISDIR(folder.stat().st_mode)
        except OSError as error:
            self._away(folder, error)
            return
        if exists:
            yield from self.files(folder, level + 1, known)
        else:
            self._troubles.append(f"{shown(folder.name)} in {shown(str(folder.parent))} is no folder.")

    def _one(self, entry: os.DirEntry[str], level: int, fields: dict[str, str], *, last: bool) -> Iterator[Arrival]:
        try:
            exists = entry.stat()
        except OSError as error:  # a link that leads nowhere, or to itself
            self._unread(entry.path, f"{shown(entry.name)} cannot be looked at: {error.strerror}.")
            return
        is_folder = stat.S_ISDIR(exists.st_mode)
        if not last:
            if is_folder:
                yield from self.files(Path(entry.path), level + 1, fields)
            return
        if is_folder or not stat.S_ISREG(exists.st_mode):
            kind = "a folder" if is_folder else "a pipe or a device"
            self._troubles.append(f"{shown(entry.name)} has the name of a frame, but is {kind}.")
            return
        try:
            entry.path.encode()
        except UnicodeEncodeError:
            self._unread(entry.path, f"{shown(entry.path)} cannot be read: its name is not UTF-8. Rename it.")
            return
        yield Arrival(found_of(fields), entry.path, exists.st_size, exists.st_mtime)

    def _unread(self, path: str, words: str) -> None:
        self.unread.append(path)
        self._troubles.append(words)

    def _away(self, folder: Path, error: OSError) -> None:
        """Say that a folder is not there, or that it cannot be read."""
        if isinstance(error, FileNotFoundError):
            while not folder.parent.exists() and folder.parent != folder:
                folder = folder.parent
            self._troubles.append(f"There is no folder {shown(folder.name)} in {shown(str(folder.parent))}.")
        else:
            self._unread(str(folder), f"{shown(str(folder))} cannot be read: {error.strerror}.")
