"""The frames that are in, as numbers: of which shot, how long each took, on which machine, and when it came. NumPy."""

from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

from pemlo.core.arrays import Floats, Ints
from pemlo.core.farm.calendar import spans_of
from pemlo.core.project.project import Project
from pemlo.core.project.settings import FrameSettings
from pemlo.core.units import HOUR_S

UNKNOWN_MACHINE = -1
NOTICED = 0.15  # a gap so much longer than the frame itself, as a share of it, is no chance
LONGEST_LOSS = 2.5  # a gap of so many frames' times is no lost frame any more: the machine was away


@dataclass(frozen=True)
class Pool:
    """All machines together.

    Attributes
    ----------
    share : (M,) ndarray
        Of the work, what each machine of the brief does.
    noise : float
        Variance of the log of what K of its frames took together, times K: what was under way when the first and the
        last of them came is not known.
    """

    share: Floats
    noise: float


@dataclass(frozen=True)
class CompletedFrames:
    """K frames, as they came.

    Attributes
    ----------
    shot : (K,) ndarray of int
        By its place in the film.
    frame : (K,) ndarray of int
    seconds : (K,) ndarray
        What each took on its machine; NaN where that is not known.
    machine : (K,) ndarray of int
        By its place in the brief; -1 where it is not known.
    ended : (K,) ndarray
        When it came, seconds since the start.
    settings : (K,) ndarray of int
        Which of `rendered_with` it has.
    rendered_with : tuple of FrameSettings
    pool : Pool, optional
        Where times of unknown machines are those of all machines together: then it matters not which it was.
    """

    shot: Ints
    frame: Ints
    seconds: Floats
    machine: Ints
    ended: Floats
    settings: Ints
    rendered_with: tuple[FrameSettings, ...]
    pool: "Pool | None" = None

    def __len__(self) -> int:
        return len(self.frame)

    @property
    def timed(self) -> npt.NDArray[np.bool_]:
        """Of which it is known what they took."""
        return np.isfinite(self.seconds) & (self.seconds > 0)

    def those(self, which: npt.NDArray[np.bool_]) -> "CompletedFrames":
        """Return some of them."""
        return CompletedFrames(
            self.shot[which],
            self.frame[which],
            self.seconds[which],
            self.machine[which],
            self.ended[which],
            self.settings[which],
            self.rendered_with,
            self.pool,
        )


def nothing_in() -> CompletedFrames:
    """Return no frames."""
    whole, real = np.zeros(0, np.int64), np.zeros(0)
    return CompletedFrames(whole, whole, real, whole, real, whole, ())


@dataclass(frozen=True)
class MachineRecord:
    """What one group of machines did so far.

    Attributes
    ----------
    delivered : int
        Frames that are in.
    losses : int
        Gaps between two of its frames that are longer than the second took: something was lost in them.
    lost_hours, away_hours : float
        Time in such gaps; and in gaps too long for that, in which it could have rendered.
    busy_hours, open_hours : float
        What its frames took, and how long it was free until its last frame came; hours of slots.
    last : float
        When its last frame came, seconds since the start; minus infinity before the first.
    """

    delivered: int
    losses: int
    lost_hours: float
    away_hours: float
    busy_hours: float
    open_hours: float
    last: float


def machine_records(project: Project, frames: CompletedFrames, launched: float) -> tuple[MachineRecord, ...]:
    """Return what each machine of the brief did.

    Gaps are looked into where a group is one machine that takes one frame at a time: elsewhere it is not known which
    frame came after which.

    Parameters
    ----------
    project : Project
    frames : CompletedFrames
    launched : float
        When rendering began, seconds since the start.
    """
    records = []
    for number, machine in enumerate(project.machines):
        mine = frames.those(frames.machine == number)
        if not len(mine):
            records.append(MachineRecord(0, 0, 0.0, 0.0, 0.0, 0.0, -np.inf))
            continue
        order = np.argsort(mine.ended, kind="stable")
        ended, seconds = mine.ended[order], mine.seconds[order]
        open_s = open_until(project, number, np.concatenate([[launched], ended]))
        slots = machine.count * machine.frames_at_once
        losses, lost, away = 0, 0.0, 0.0
        if slots == 1:
            over = np.diff(open_s) - seconds - project.running.dispatch_seconds
            noticed = np.isfinite(over) & (over > np.maximum(NOTICED * seconds, 2.0))
            is_loss = noticed & (over <= LONGEST_LOSS * seconds)
            losses, lost, away = int(is_loss.sum()), float(over[is_loss].sum()), float(over[noticed & ~is_loss].sum())
        busy = float(np.nansum(seconds))
        records.append(
            MachineRecord(len(mine), losses, lost / HOUR_S, away / HOUR_S, busy / HOUR_S,
                          slots * float(open_s[-1] - open_s[0]) / HOUR_S, float(ended[-1]))
        )  # fmt: skip
    return tuple(records)


def open_until(project: Project, machine: int, moments: Floats) -> Floats:
    """Return how long a machine was free from the start until moments, s."""
    days = int(max(float(moments.max()), 0.0) / 86_400) + 2
    spans = spans_of(project.machines[machine], project.delivery.timezone, project.start, days)
    edges = np.array([0.0, *(edge * HOUR_S for span in spans for edge in span)])
    lengths = np.diff(edges) * (np.arange(len(edges) - 1) % 2)
    return np.asarray(np.interp(moments, edges, np.concatenate([[0.0], np.cumsum(lengths)])))


def open_between(project: Project, machine: int, begin: float, end: float) -> float:
    """Return how long a machine of the brief was free between two moments, s."""
    if end <= begin:
        return 0.0
    until = open_until(project, machine, np.array([begin, end]))
    return float(until[1] - until[0])
