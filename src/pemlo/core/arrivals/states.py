"""What state each frame of a film is in, and why: what all views and answers of what came share. NumPy."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from enum import IntEnum
from functools import cached_property

import numpy as np
import numpy.typing as npt

from pemlo.core.arrays import Floats, Ints
from pemlo.core.arrivals.store_rows import FrameRow
from pemlo.core.arrivals.what_is_missing import wanted_frames
from pemlo.core.frames import parse_frames
from pemlo.core.project.project import Project
from pemlo.core.project.shots import Shot

RISING = 0.8  # of frames that come in rising order: then one that was passed by is lost
LOST_AFTER = 3.0  # of the longest frames that any machine may take


class FrameState(IntEnum):
    """What state a frame is in."""

    WAITING = 0
    WRITING = 1
    IN = 2
    LOST = 3
    BROKEN = 4
    AGAIN = 5


SAID = {
    FrameState.WAITING: "not there yet", FrameState.WRITING: "being written", FrameState.IN: "in",
    FrameState.LOST: "lost", FrameState.BROKEN: "broken", FrameState.AGAIN: "to be rendered again",
}  # fmt: skip


@dataclass(frozen=True)
class ShotStates:
    """Frames of one shot, F of them, as it is planned.

    Attributes
    ----------
    shot : str
    frames : (F,) ndarray of int
    state : (F,) ndarray of int
        Of `FrameState`.
    rows : tuple of FrameRow or None
        Of each frame the file that counts; None where there is none.
    why : dict of int to str
        Of frames that are lost, broken or to be rendered again: why.
    """

    shot: str
    frames: Ints
    state: npt.NDArray[np.int8]
    rows: tuple[FrameRow | None, ...]
    why: Mapping[int, str]

    @cached_property
    def rows_in(self) -> tuple[FrameRow, ...]:
        """Files of the frames that are in, in order."""
        done_count = self.state == FrameState.IN
        return tuple(row for row, here in zip(self.rows, done_count.tolist(), strict=True) if here and row is not None)

    def count(self, *states: FrameState) -> int:
        """Return how many frames are in one of these states."""
        return int(np.isin(self.state, states).sum())

    def of(self, *states: FrameState) -> tuple[int, ...]:
        """Return the frames in one of these states."""
        return tuple(self.frames[np.isin(self.state, states)].tolist())

    @property
    def missing(self) -> tuple[int, ...]:
        """Frames that must still come, whatever the reason."""
        return self.of(FrameState.WAITING, FrameState.LOST, FrameState.BROKEN, FrameState.AGAIN, FrameState.WRITING)


def again_since(project: Project) -> dict[tuple[str, int], float]:
    """Return which frames are to be rendered again, and since when, seconds since 1970."""
    found: dict[tuple[str, int], float] = {}
    for mark in project.watching.again:
        for frame in parse_frames(mark.frames):
            key = (mark.shot, frame)
            found[key] = max(found.get(key, -np.inf), mark.since.timestamp())
    return found


def shot_states(
    shot: Shot,
    rows: Sequence[FrameRow],
    writing: frozenset[tuple[str, int]],
    again: Mapping[tuple[str, int], float],
    lost: frozenset[int] = frozenset(),
) -> ShotStates:
    """Return what state the frames of a shot are in.

    Parameters
    ----------
    shot : Shot
    rows : sequence of FrameRow
        Files of this shot. Of two of one frame the newest counts.
    writing : frozenset of (str, int)
        Frames whose files are still written, by shot and number.
    again : mapping
        Of `again_since`.
    lost : frozenset of int
        Frames that were passed by; see `passed_by`.
    """
    frames = np.array(wanted_frames(shot), np.int64)
    newest: dict[int, FrameRow] = {}
    for row in rows:
        other = newest.get(row.frame)
        if other is None or (row.take, row.modified) > (other.take, other.modified):
            newest[row.frame] = row
    state = np.zeros(len(frames), np.int8)
    found: list[FrameRow | None] = []
    why: dict[int, str] = {}
    for at, frame in enumerate(frames.tolist()):
        mine = newest.get(frame)
        found.append(mine)
        if (shot.name, frame) in writing:
            state[at] = FrameState.WRITING
            continue
        if mine is None:
            if frame in lost:
                state[at], why[frame] = FrameState.LOST, "never came, though later frames are in"
            continue
        since = again.get((shot.name, frame))
        if since is not None and mine.ended <= since:
            state[at], why[frame] = FrameState.AGAIN, "marked to be rendered again"
        elif mine.trouble:
            state[at], why[frame] = FrameState.BROKEN, mine.trouble
        else:
            state[at] = FrameState.IN
    return ShotStates(shot.name, frames, state, tuple(found), why)


def passed_by(frames: Ints, ended: Floats, machine: Sequence[str], wanted: Ints) -> dict[int, float]:
    """Return frames that are not there though some machine brought one before and one after each, and since when.

    Where frames come in no order nothing is passed by.

    Parameters
    ----------
    frames : (K,) ndarray of int
        That are in.
    ended : (K,) ndarray
        When they came.
    machine : sequence of str
        Whose they are; all empty where that is not known.
    wanted : ndarray of int
    """
    found: dict[int, float] = {}
    absent = np.setdiff1d(wanted, frames)
    if not len(absent) or len(frames) < 3:
        return found
    names = np.asarray(machine, dtype=object)
    for name in set(machine):
        mine = np.flatnonzero(names == name)
        mine = mine[np.argsort(ended[mine], kind="stable")]
        numbers, times = frames[mine], ended[mine]
        if len(numbers) < 3 or np.mean(np.diff(numbers) > 0) < RISING:
            continue
        inside = absent[(absent > numbers.min()) & (absent < numbers.max())]
        for frame in inside.tolist():
            # Since the machine first brought one that comes after it.
            since = float(times[np.flatnonzero(numbers > frame)[0]])
            found[frame] = min(found.get(frame, np.inf), since)
    return found
