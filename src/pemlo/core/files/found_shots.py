"""Shots that lie in a folder as frames: names and ranges from the files' names, through fileseq. Files only."""

import itertools
from collections.abc import Iterator
from dataclasses import dataclass
from pathlib import Path

import fileseq

from pemlo.core.errors import FileError
from pemlo.core.files.header import PICTURE_ENDINGS
from pemlo.core.progress import Monitor, Unwatched

MOST_FOLDERS = 500
LONGEST_NAME = 60


@dataclass(frozen=True)
class FoundShot:
    """A run of frames.

    Attributes
    ----------
    name : str
        From the files' names, without number and ending; from the folder's where those say nothing.
    first, last, step : int
    missing : int
        Frames between the first and the last that are not there.
    picture : path
        The frame in the middle.
    """

    name: str
    first: int
    last: int
    step: int
    missing: int
    picture: Path


def found_shots(folder: Path, monitor: Monitor | None = None) -> tuple[FoundShot, ...]:
    """Return the runs of frames in a folder and in the folders in it, by name.

    Raises
    ------
    FileError
        If it cannot be read, or holds no numbered pictures.
    Cancelled
        From the monitor.
    """
    watch = monitor or Unwatched()
    try:
        folders = [folder, *sorted(one for one in folder.iterdir() if one.is_dir())][:MOST_FOLDERS]
    except OSError as error:
        raise FileError(f"{folder.name} cannot be read: {error.strerror}.", "Choose another folder.") from error
    found: list[FoundShot] = []
    for number, one in enumerate(folders):
        watch.step(number / len(folders), f"Looking for frames in {one.name}")
        found += _of_folder(one, taken={shot.name for shot in found})
    if not found:
        raise FileError(
            f"{folder.name} holds no frames.", "Frames are pictures with a number in their names, like shot.0001.exr."
        )
    return tuple(sorted(found, key=lambda shot: shot.name))


def _of_folder(folder: Path, taken: set[str]) -> Iterator[FoundShot]:
    try:
        sequences = fileseq.findSequencesOnDisk(str(folder))
    except (OSError, fileseq.FileSeqException):
        return  # a folder that may not be looked into says nothing of the others
    for one in sorted(sequences, key=str):
        numbers = one.frameSet()
        if one.extension().lower() not in PICTURE_ENDINGS or numbers is None or len(numbers) < 2:
            continue
        frames = sorted(int(number) for number in numbers)
        step = min(b - a for a, b in itertools.pairwise(frames))
        first, last = frames[0], frames[-1]
        name = _name(one.basename(), folder)
        unique = next(
            n for n in (name, f"{folder.name} {name}", *(f"{name} {k}" for k in range(2, 999))) if n not in taken
        )
        taken.add(unique)
        middle = frames[len(frames) // 2]
        yield FoundShot(
            unique[:LONGEST_NAME], first, last, step, (last - first) // step + 1 - len(frames), Path(one.frame(middle))
        )


def _name(basename: str, folder: Path) -> str:
    return basename.strip(" ._-") or folder.name
