"""Pictures of consecutive frames: found by the number in their names. Files only."""

from dataclasses import dataclass
from pathlib import Path

import fileseq

from pemlo.core.errors import FileError

FARTHEST = 50_000  # frames either way


@dataclass(frozen=True)
class Sequence:
    """Pictures of a run of frames.

    Attributes
    ----------
    name : str
        With a sign for each digit of the number.
    paths : dict of int to path
        The pictures that are there, by frame, rising.
    """

    name: str
    paths: dict[int, Path]

    @property
    def first(self) -> int:
        return min(self.paths)

    @property
    def last(self) -> int:
        return max(self.paths)

    @property
    def missing(self) -> tuple[int, ...]:
        """Frames between the first and the last that are not there."""
        return tuple(number for number in range(self.first, self.last + 1) if number not in self.paths)

    def nearest(self, frame: int) -> int:
        """Return the frame that is shown for another: itself, or the last one before it that is there."""
        known = [number for number in self.paths if number <= frame]
        return max(known) if known else self.first


def sequence_around(name: str, paths: dict[int, Path], frame: int) -> Sequence:
    """Return a sequence of what lies near a frame: numbers that are far apart are of another count, not of one film."""
    near = {number: path for number, path in paths.items() if abs(number - frame) <= FARTHEST}
    return Sequence(name, dict(sorted(near.items())))


def sequence_of(path: Path) -> Sequence:
    """Return the sequence that a picture is part of; of itself alone if its name holds no number.

    Raises
    ------
    FileError
        If its folder cannot be read.
    """
    try:
        found = fileseq.findSequencesOnDisk(str(path.parent), strictPadding=True)
    except (OSError, fileseq.FileSeqException) as error:
        raise FileError(f"The folder of {path.name} cannot be read: {error}.") from error
    for file_sequence in found:
        numbers = file_sequence.frameSet()
        if numbers is None:
            continue
        paths = {int(number): Path(file_sequence.frame(number)) for number in numbers}
        here = next((number for number, other in paths.items() if other == path), None)
        if here is not None:
            return sequence_around(
                file_sequence.basename() + file_sequence.padding() + file_sequence.extension(), paths, here
            )
    return Sequence(path.name, {1: path})
