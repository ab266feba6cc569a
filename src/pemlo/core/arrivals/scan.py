"""What lies in the folders into which frames arrive. Files only; nothing is ever written there.

Folders are read level by level, only those that the place names; a hundred thousand files take well under a second.
"""

import os
from collections.abc import Iterator
from dataclasses import dataclass
from pathlib import Path

from pemlo.core.arrivals.place import FrameName, FramePlace, found_of
from pemlo.core.progress import Monitor, Unwatched

STEP_FILES = 2000  # so many are read between two looks at the monitor


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
    """

    arrivals: tuple[Arrival, ...]
    troubles: tuple[str, ...]


def scan(place: FramePlace, root: Path, monitor: Monitor | None = None) -> Scan:
    """Return the frames that lie in a place.

    Parameters
    ----------
    place : FramePlace
    root : Path
        From where it is meant; a place that begins at the root of the disk is meant from there.
    monitor : Monitor, optional

    Raises
    ------
    Cancelled
        From the monitor.
    """
    watch = monitor or Unwatched()
    start = Path("/") if place.pattern.strip().startswith("/") else root
    arrivals: list[Arrival] = []
    troubles: list[str] = []
    for number, one in enumerate(_files(place, start, 0, {}, troubles)):
        if number % STEP_FILES == 0:
            watch.step(0.0, f"Looking for frames: {number}")
        arrivals.append(one)
    arrivals.sort(key=lambda one: one.path)
    return Scan(tuple(arrivals), tuple(troubles))


def _files(
    place: FramePlace, folder: Path, level: int, known: dict[str, str], troubles: list[str]
) -> Iterator[Arrival]:
    last, matched = level == len(place.parts) - 1, False
    try:
        with os.scandir(folder) as entries:
            for entry in entries:
                fields = place.read_part(level, entry.name, known)
                if fields is None:
                    continue
                matched = True
                if not last:
                    if entry.is_dir():
                        yield from _files(place, Path(entry.path), level + 1, fields, troubles)
                    continue
                if entry.is_dir():
                    troubles.append(f"{entry.name} is a folder, and has the name of a frame.")
                    continue
                try:
                    there = entry.stat()
                except OSError as error:
                    troubles.append(f"{entry.name} cannot be looked at: {error.strerror}.")
                    continue
                yield Arrival(found_of(fields), entry.path, there.st_size, there.st_mtime)
    except FileNotFoundError:
        troubles.append(f"There is no folder {folder.name} in {folder.parent}.")
        return
    except OSError as error:
        troubles.append(f"{folder} cannot be read: {error.strerror}.")
        return
    if not matched and not last and "{" not in place.parts[level]:
        troubles.append(f"There is no folder {place.parts[level]} in {folder}.")
