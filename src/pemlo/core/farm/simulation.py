"""When the last frame is really done: the queue of frames run on the machines, draw by draw. Seconds for a film.

The rules are those of the kernel: whoever is free first takes the next frame of the queue that fits into its memory.
"""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

from pemlo.core.arrays import Floats
from pemlo.core.errors import InputError
from pemlo.core.farm.calendar import open_spans
from pemlo.core.farm.concurrency import throughput_gain
from pemlo.core.progress import Monitor, Unwatched
from pemlo.core.project.project import Project
from pemlo.core.threads import run_in_parts
from pemlo.core.units import HOUR_S

Ints = npt.NDArray[np.int64]
PARTS = 8
MOST_SLOTS = 20_000  # each remembers of every shot what it keeps


@dataclass(frozen=True)
class Farm:
    """Machines as slots that take one frame each.

    Attributes
    ----------
    names : tuple of str
        Of the groups of equal machines.
    slot_group : (M,) ndarray of int
    speed : (M,) ndarray
        Reference seconds in a second of a slot: its machine's speed, and what frames at once leave each of them.
    loss : (G,) ndarray
    memory_gib : (G,) ndarray
        Memory that a slot has; infinity where it is not known.
    window_of : (G + 1,) ndarray of int
    begins, ends : (W,) ndarray
        Windows in which groups are free, seconds since the start.
    price : (G,) ndarray
        Of an hour of a machine; NaN where none is known.
    machines : (G,) ndarray of int
        How many machines a group has.
    """

    names: tuple[str, ...]
    slot_group: Ints
    speed: Floats
    loss: Floats
    memory_gib: Floats
    window_of: Ints
    begins: Floats
    ends: Floats
    price: Floats
    machines: Ints

    def open_seconds(self, until: float) -> Floats:
        """Return the seconds that each group's slots are free until a moment, (G,)."""
        slots = np.bincount(self.slot_group, minlength=len(self.names))
        free = [
            np.maximum(np.minimum(self.ends[a:b], until) - self.begins[a:b], 0.0).sum()
            for a, b in zip(self.window_of[:-1], self.window_of[1:], strict=True)
        ]
        return np.asarray(slots * np.array(free))


@dataclass(frozen=True)
class Work:
    """The queue of frames, and draws of what they cost.

    Attributes
    ----------
    names : tuple of str
        Of the shots.
    shot : (F,) ndarray of int
        Of each frame, in the order in which they are handed out.
    frame : (F,) ndarray of int
        Its number.
    place : (F,) ndarray
        Where it stands in its shot, 0 to 1.
    full, kept : (D, S, L) ndarray
        Seconds of a frame on the reference machine at L places along each shot, worked out whole, and with what is
        kept.
    lengths : (S,) ndarray of int
        How many of the places count.
    deviation : float
        Of the log of a frame's time about what is expected.
    keeps : (S,) ndarray of bool
    saves : (S,) ndarray of int
    memory_gib : (S,) ndarray
        Of one frame; 0 where it is not known.
    """

    names: tuple[str, ...]
    shot: Ints
    frame: Ints
    place: Floats
    full: Floats
    kept: Floats
    lengths: Ints
    deviation: float
    keeps: npt.NDArray[np.bool_]
    saves: Ints
    memory_gib: Floats


@dataclass(frozen=True)
class Run:
    """What all draws come to.

    Attributes
    ----------
    finish : (D, S) ndarray
        Seconds since the start at which each shot is done; infinity if never.
    busy, warming, lost : (D, G) ndarray
        Seconds of slots.
    holder : (D,) ndarray of int
        Group of the machine that ended last; -1 if none did.
    trace : (F, 4) ndarray
        Slot, begin, end and tries of each frame of one draw; empty unless it was asked for.
    """

    finish: Floats
    busy: Floats
    warming: Floats
    lost: Floats
    holder: Ints
    trace: Floats

    @property
    def end(self) -> Floats:
        """When all shots are done, (D,)."""
        return np.asarray(self.finish.max(axis=1)) if self.finish.shape[1] else np.zeros(len(self.finish))


def farm_of(project: Project, days: int) -> Farm:
    """Return a project's machines, with their windows for so many days.

    Raises
    ------
    InputError
        If there is no machine, none is ever free, or there are too many to run.
    """
    machines = [machine for machine in project.machines if machine.count]
    if not machines:
        raise InputError("There is no machine.", "Add one in the brief.")
    if (slots := sum(machine.count * machine.frames_at_once for machine in machines)) > MOST_SLOTS:
        raise InputError(
            f"The machines together take {slots} frames at once; at most {MOST_SLOTS} can be run here.",
            "Make the groups smaller, or ask pemlo estimate.",
        )
    groups, speeds, begins, ends, window_of = [], [], [], [], [0]
    for number, machine in enumerate(machines):
        each = machine.speed * throughput_gain(machine.frames_at_once, machine.contention) / machine.frames_at_once
        count = machine.count * machine.frames_at_once
        groups += [number] * count
        speeds += [each] * count
        spans = open_spans(machine.hours, machine.exceptions, project.delivery.timezone, project.start, days)
        begins += [begin * HOUR_S for begin, _ in spans]
        ends += [end * HOUR_S for _, end in spans]
        window_of.append(len(begins))
    if not begins:
        raise InputError("No machine is ever free.", "Give a machine hours in the brief.")
    return Farm(
        tuple(machine.name for machine in machines),
        np.array(groups, np.int64),
        np.array(speeds),
        np.array([machine.loss_percent / 100 for machine in machines]),
        np.array([np.inf if m.memory_gib is None else m.memory_gib / m.frames_at_once for m in machines]),
        np.array(window_of, np.int64),
        np.array(begins),
        np.array(ends),
        np.array([np.nan if m.price_per_hour is None else m.price_per_hour for m in machines]),
        np.array([machine.count for machine in machines], np.int64),
    )


def simulate(
    farm: Farm,
    work: Work,
    seed: int = 0,
    *,
    dispatch: float = 0.0,
    carries: bool = True,
    draws: Sequence[int] | None = None,
    trace: int | None = None,
    threads: int = 2,
    monitor: Monitor | None = None,
) -> Run:
    """Run the queue on the machines.

    Parameters
    ----------
    farm : Farm
    work : Work
    seed : int
        >= 0, of losses and of the scatter of frames; the same seed, the same run to the bit.
    dispatch : float
        Seconds before each frame.
    carries : bool
        Whether a frame at the end of a machine's hours goes on in the next of them; else it starts again.
    draws : (first, last), optional
        Which are run; all unless given.
    trace : int, optional
        A draw of which it is kept who rendered what when.
    threads : int
        Draws do not depend on each other: they are shared out.
    monitor : Monitor, optional

    Raises
    ------
    Cancelled
        From the monitor.
    """
    from pemlo.core.farm.run_kernel import run_draws  # noqa: PLC0415 - heavy to load

    watch = monitor or Unwatched()
    first, last = draws or (0, len(work.full))
    count, groups = last, len(farm.names)
    finish = np.zeros((count, len(work.names)))
    busy, warming, lost = (np.zeros((count, groups)) for _ in range(3))
    holder = np.full(count, -1, np.int64)
    fits = farm.memory_gib[:, None] >= work.memory_gib[None, :]
    nothing = np.zeros((0, 4))

    def part(begin: int, end: int, kept: Floats) -> None:
        run_draws(
            begin, end, seed, work.shot, work.place, work.full, work.kept, work.lengths, work.deviation,
            work.keeps, work.saves, farm.slot_group, farm.speed, farm.loss, fits, farm.window_of, farm.begins,
            farm.ends, dispatch, carries, finish, busy, warming, lost, holder, kept,
        )  # fmt: skip

    for number in range(PARTS):
        watch.step(number / PARTS, "Running the queue")
        begin = first + (last - first) * number // PARTS
        end = first + (last - first) * (number + 1) // PARTS
        run_in_parts(threads, end - begin, lambda a, b, begin=begin: part(begin + a, begin + b, nothing))  # type: ignore[misc]
    kept = nothing
    if trace is not None:
        kept = np.zeros((len(work.shot), 4))
        for one in (busy, warming, lost):
            one[trace] = 0.0
        part(trace, trace + 1, kept)
    return Run(finish[first:], busy[first:], warming[first:], lost[first:], holder[first:], kept)
