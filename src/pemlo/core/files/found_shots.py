"""Shots that lie in a folder as frames: names and ranges from the files' names, through fileseq. Files only."""

import itertools
import math
from collections.abc import Iterator
from dataclasses import dataclass
from pathlib import Path

import fileseq

from pemlo.core.errors import FileError
from pemlo.core.files.header import PICTURE_ENDINGS
from pemlo.core.foreign import shown
from pemlo.core.progress import Monitor, Unwatched
from pemlo.core.project.names import LONGEST_NAME, safe_name
from pemlo.core.project.record import build
from pemlo.core.project.settings import ShotSettings
from pemlo.core.project.shots import MOST_FRAMES, Shot

MOST_FOLDERS = 500
MOST_NAMED = 3
NEWEST = 1000  # of the highest frames the newest is looked for
STILL_GROWS_S = 3600.0  # a frame seldom takes longer
LONGEST_STEP, FARTHEST_FRAME = 1000, 10_000_000


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
    written : float
        When the newest of its files was written, seconds since 1970; minus infinity if that cannot be read.
    place : str
        Folder and name with a field for the frame, as a place to watch; empty if a place cannot be so.
    """

    name: str
    first: int
    last: int
    step: int
    missing: int
    picture: Path
    written: float = -math.inf
    place: str = ""

    def grows(self, now: float) -> bool:
        """Whether its newest file is so young that more may come.

        Examples
        --------
        >>> one = FoundShot("010", 1, 40, 1, 0, Path("010.0020.png"), written=1000.0)
        >>> one.grows(1000.0 + 60), one.grows(1000.0 + 7200)
        (True, False)
        """
        return now - self.written < STILL_GROWS_S

    def shot(self, asked: ShotSettings) -> Shot:
        """Return it as a shot of a film.

        Raises
        ------
        InputError
            If a shot cannot be so.
        """
        fields = {"name": self.name, "first": self.first, "last": self.last, "step": self.step, "asked": asked}
        return build(Shot, fields, f"Frames of {self.name}")


@dataclass(frozen=True)
class FoundShots:
    """What a folder holds: runs of frames, and in sentences what was left out."""

    shots: tuple[FoundShot, ...]
    left_out: tuple[str, ...] = ()


def found_shots(folder: Path, monitor: Monitor | None = None) -> FoundShots:
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
        folders = [folder, *sorted(path for path in folder.iterdir() if path.is_dir())]
    except OSError as error:
        raise FileError(f"{folder.name} cannot be read: {error.strerror}.", "Choose another folder.") from error
    shots: list[FoundShot] = []
    left_out: list[str] = []
    if len(folders) > MOST_FOLDERS:
        left_out.append(f"Only the first {MOST_FOLDERS} of {len(folders)} folders in {shown(folder.name)} were read.")
        folders = folders[:MOST_FOLDERS]
    for number, path in enumerate(folders):
        watch.step(number / len(folders), f"Looking for frames in {shown(path.name)}")
        shots += _of_folder(path, {shot.name for shot in shots}, left_out)
    if not shots:
        raise FileError(
            " ".join([f"{shown(folder.name)} holds no frames.", *left_out[:MOST_NAMED]]),
            "Frames are pictures with a number in their names, like shot.0001.exr.",
        )
    return FoundShots(tuple(sorted(shots, key=lambda shot: shot.name)), tuple(left_out))


def _of_folder(folder: Path, taken: set[str], left_out: list[str]) -> Iterator[FoundShot]:
    try:
        sequences = fileseq.findSequencesOnDisk(str(folder))
    except (OSError, ValueError, fileseq.FileSeqException):
        left_out.append(f"{shown(folder.name)} cannot be read.")  # that says nothing of the others
        return
    for sequence in sorted(sequences, key=str):
        numbers = sequence.frameSet()
        if sequence.extension().lower() not in PICTURE_ENDINGS or numbers is None or len(numbers) < 2:
            continue
        frames = sorted(int(number) for number in numbers)
        step = min(b - a for a, b in itertools.pairwise(frames))
        step = step if step <= LONGEST_STEP else 1
        first, last = frames[0], frames[-1]
        if max(-first, last) > FARTHEST_FRAME or last - first >= MOST_FRAMES:
            left_out.append(
                f"{shown(sequence.basename())}{first}–{last} in {shown(folder.name)} was left out: a shot has a "
                "million frames at most, with numbers up to ten million. Are they dates?"
            )
            continue
        name = _name(sequence.basename(), folder)
        short = name[: LONGEST_NAME - 6]
        others = (safe_name(f"{folder.name} {name}"), *(f"{short} {k}" for k in range(2, 10_000)))
        unique = next(each for each in (name, *others) if each not in taken)
        taken.add(unique)
        middle = frames[len(frames) // 2]
        missing = (last - first) // step + 1 - len(frames)
        written = max(_written(Path(sequence.frame(frame))) for frame in frames[-NEWEST:])
        yield FoundShot(
            unique,
            first,
            last,
            step,
            missing,
            Path(sequence.frame(middle)),
            written,
            _place(sequence, folder),
        )


def _written(path: Path) -> float:
    try:
        return path.stat().st_mtime
    except OSError:
        return -math.inf


def _place(sequence: fileseq.FileSequence, folder: Path) -> str:
    name = f"{sequence.basename()}{{frame:0{max(sequence.zfill(), 1)}}}{sequence.extension()}"
    place = f"{folder.resolve().as_posix()}/{name}"
    return place if set(sequence.basename() + folder.as_posix()).isdisjoint("{}#@%") else ""


def _name(basename: str, folder: Path) -> str:
    return safe_name(basename.strip(" ._-")) or safe_name(folder.name) or "frames"
