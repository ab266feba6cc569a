"""What lies in the folders into which frames arrive. Files only; nothing is ever written there.

Folders are read level by level, only those that the place names. An entry that cannot be read says nothing of the
others: it is named, and what was known of it stays.

Whoever looks again and again remembers folders: one that was not written since, and in which no file is new enough to
be still written, is not listed again for half a minute. So a frame that is rendered again in its place is seen within
that, and a look at a hundred thousand files takes as long as one at their folders.
"""

import os
import stat
import time
from collections.abc import Iterator
from dataclasses import dataclass, replace
from pathlib import Path

from pemlo.core.arrivals.place import FrameName, FramePlace, found_of
from pemlo.core.foreign import shown
from pemlo.core.progress import Monitor, Unwatched

STEP_FILES = 2000  # so many are read between two looks at the monitor
MOST_TROUBLES = 50
SETTLED_S = 60.0  # a file that was written so long ago is not written any more
LISTED_AGAIN_S = 30.0  # so often a folder is listed though nothing says that it changed


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


@dataclass(frozen=True, slots=True)
class _Folder:
    """A folder of frames as it was listed: when it was written, ns, and listed, s; its frames by their file names."""

    written: int
    listed: float
    arrivals: dict[str, Arrival]


class Remembered:
    """Folders of frames as they were listed, for the next look.

    Attributes
    ----------
    unchanged : bool
        Whether the last look found every folder as it was.
    """

    def __init__(self) -> None:
        self._folders: dict[str, _Folder] = {}
        self._seen: set[str] = set()
        self.unchanged = False

    def begin(self) -> None:
        """Begin a look."""
        self._seen, self.unchanged = set(), True

    def end(self) -> None:
        """End a look: folders that it did not come to are forgotten."""
        gone = self._folders.keys() - self._seen
        self.unchanged = self.unchanged and not gone
        for path in gone:
            del self._folders[path]

    def files_of(self, path: str) -> dict[str, Arrival]:
        """Return the frames that were in a folder when it was listed last, by their file names."""
        before = self._folders.get(path)
        return {} if before is None else before.arrivals

    def as_listed(self, path: str, written: int, now: float) -> dict[str, Arrival] | None:
        """Return the frames of a folder that need not be listed again; None if it must be."""
        before = self._folders.get(path)
        self._seen.add(path)
        if before is not None and before.written == written and 0 <= now - before.listed < LISTED_AGAIN_S:
            return before.arrivals
        self.unchanged = False
        return None

    def keep(self, path: str, written: int, now: float, arrivals: dict[str, Arrival]) -> None:
        """Keep what was listed, if none of it can be still written."""
        newest = max([written / 1e9, *(arrival.modified for arrival in arrivals.values())])
        settled = newest < now - SETTLED_S
        self._folders[path] = _Folder(written if settled else -1, now, arrivals)

    def forget(self, path: str) -> None:
        """Have a folder listed again that could not be read whole."""
        self.unchanged = False
        self._folders.pop(path, None)


def scan(place: FramePlace, root: Path, monitor: Monitor | None = None, remembered: Remembered | None = None) -> Scan:
    """Return the frames that lie in a place.

    Parameters
    ----------
    place : FramePlace
    root : Path
        From where it is meant; a place that begins at the root of the disk is meant from there, and one that begins
        with ``~`` from the home of whoever looks.
    monitor : Monitor, optional
    remembered : Remembered, optional
        Of looks at the same place before.

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
    memory = remembered or Remembered()
    memory.begin()
    looking = _Looking(place, memory)
    arrivals: list[Arrival] = []
    for number, arrival in enumerate(looking.files(start, level, {})):
        if number % STEP_FILES == 0:
            watch.step(0.0, f"Looking for frames: {number}")
        arrivals.append(arrival)
    memory.end()
    arrivals.sort(key=lambda arrival: arrival.path)
    return Scan(tuple(arrivals), looking.said(), tuple(looking.unread))


class _Looking:
    """One look through the folders of a place, and what went wrong in it."""

    def __init__(self, place: FramePlace, memory: Remembered) -> None:
        self._place, self._memory = place, memory
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
        if last:
            yield from self._frames(folder, level, known)
            return
        for entry in self._listed(folder):
            fields = self._place.read_part(level, entry.name, known)
            if fields is not None and (exists := self._stat(entry)) is not None and stat.S_ISDIR(exists.st_mode):
                yield from self.files(Path(entry.path), level + 1, fields)

    def _listed(self, folder: Path) -> Iterator[os.DirEntry[str]]:
        """Return the entries of a folder, as far as it can be read."""
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
                yield entry

    def _frames(self, folder: Path, level: int, known: dict[str, str]) -> Iterator[Arrival]:
        """Return the frames in a folder that holds nothing else; as they were listed, if that still holds."""
        path, now = str(folder), time.time()
        try:
            written = folder.stat().st_mtime_ns
        except OSError as error:
            self._away(folder, error)
            return
        listed = self._memory.as_listed(path, written, now)
        if listed is not None:
            yield from listed.values()
            return
        before, found, said = self._memory.files_of(path), {}, len(self._troubles)
        for entry in self._listed(folder):
            arrival = self._one(entry, before.get(entry.name), level, known)
            if arrival is not None:
                found[entry.name] = arrival
                yield arrival
        if len(self._troubles) > said:
            self._memory.forget(path)
        else:
            self._memory.keep(path, written, now, found)

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

    def _stat(self, entry: os.DirEntry[str]) -> os.stat_result | None:
        try:
            return entry.stat()
        except OSError as error:  # a link that leads nowhere, or to itself
            self._unread(entry.path, f"{shown(entry.name)} cannot be looked at: {error.strerror}.")
            return None

    def _one(
        self, entry: os.DirEntry[str], before: Arrival | None, level: int, known: dict[str, str]
    ) -> Arrival | None:
        """Return the frame that an entry is, the same as before if it is what it was; None if it is none."""
        fields = None if before is not None else self._place.read_part(level, entry.name, known)
        if (before is None and fields is None) or (exists := self._stat(entry)) is None:
            return None
        if stat.S_ISDIR(exists.st_mode) or not stat.S_ISREG(exists.st_mode):
            kind = "a folder" if stat.S_ISDIR(exists.st_mode) else "a pipe or a device"
            self._troubles.append(f"{shown(entry.name)} has the name of a frame, but is {kind}.")
            return None
        if before is not None:
            same = (before.size, before.modified) == (exists.st_size, exists.st_mtime)
            return before if same else replace(before, size=exists.st_size, modified=exists.st_mtime)
        try:
            entry.path.encode()
        except UnicodeEncodeError:
            self._unread(entry.path, f"{shown(entry.path)} cannot be read: its name is not UTF-8. Rename it.")
            return None
        assert fields is not None
        return Arrival(found_of(fields), entry.path, exists.st_size, exists.st_mtime)

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
