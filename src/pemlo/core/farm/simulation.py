"""When the last frame is really done: jobs of frames run on the machines, draw by draw. Seconds for a film.

The rules are those of the kernel: whoever is free first takes the next frames that it can.
"""

from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

from pemlo.core.arrays import Floats, Ints
from pemlo.core.errors import InputError
from pemlo.core.farm.calendar import spans_of
from pemlo.core.progress import Monitor, Unwatched
from pemlo.core.project.project import Project
from pemlo.core.threads import run_in_parts
from pemlo.core.units import HOUR_S

PARTS, SHORT_FRAMES = 8, 200_000
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
    """Jobs of frames, in what order they are handed out, and draws of what their frames cost.

    Attributes
    ----------
    jobs : tuple of str
        Names.
    order : (J,) ndarray of int
        The jobs as they are handed out.
    first : (J + 1,) ndarray of int
        Where each job's frames begin.
    row : (J,) ndarray of int
        Of which row of costs each job is; jobs of one row keep the same data.
    frame : (F,) ndarray of int
        Numbers of the frames.
    place : (F,) ndarray
        Where each stands among its row's places, 0 to 1.
    full, kept : (D, R, L) ndarray
        Seconds of a frame on the reference machine at L places of each row, worked out whole, and with what is kept.
    lengths : (R,) ndarray of int
        How many of the places count.
    deviation : float
        Of the log of a frame's time about what is expected.
    keeps : (R,) ndarray of bool
    saves : (R,) ndarray of int
    memory_gib : (R,) ndarray
        Of one frame; 0 where it is not known.
    gib : (J,) ndarray
        What a frame takes on disk; 0 where it is not known, or written over what is there.
    needs : tuple of tuple of int
        Of each job: those that must all be done before it begins.
    beside : (J,) ndarray of int
        The job of whose frames each frame needs the same one and its neighbours; -1 for none.
    share : (G, R) ndarray, optional
        Of each group's speed, what is left with frames of a row: less than 1 where they spill out of its memory.
    """

    jobs: tuple[str, ...]
    order: Ints
    first: Ints
    row: Ints
    frame: Ints
    place: Floats
    full: Floats
    kept: Floats
    lengths: Ints
    deviation: float
    keeps: npt.NDArray[np.bool_]
    saves: Ints
    memory_gib: Floats
    gib: Floats
    needs: tuple[tuple[int, ...], ...]
    beside: Ints
    share: Floats | None = None

    @property
    def job_of(self) -> Ints:
        """Of each frame, (F,): its job."""
        return np.repeat(np.arange(len(self.jobs)), np.diff(self.first))


@dataclass(frozen=True)
class RunRules:
    """How frames are handed out.

    Attributes
    ----------
    seed : int
        >= 0, of losses and of the scatter of frames; the same seed, the same run to the bit.
    dispatch : float
        Seconds before each chunk.
    chunk : int
        How many frames of a job a slot takes at a time.
    carries : bool
        Whether a frame at the end of a machine's hours goes on in the next of them; else it starts again.
    disk_gib : float
        What there is for finished frames; once it is full no other frame begins.
    """

    seed: int = 0
    dispatch: float = 0.0
    chunk: int = 1
    carries: bool = True
    disk_gib: float = np.inf


@dataclass(frozen=True)
class Present:
    """What is known once rendering has begun.

    Attributes
    ----------
    now : float
        Seconds since the start.
    free_from : (M,) ndarray
        When each slot ended its last frame, or was first free: what it took then ends now at the earliest.
    pace : (D, G) ndarray
        By what factor each group is faster than it was given.
    loss : (D, G) ndarray
        Chance that a frame is lost.
    """

    now: float
    free_from: Floats
    pace: Floats
    loss: Floats


@dataclass(frozen=True)
class Run:
    """What all draws come to.

    Attributes
    ----------
    finish : (D, J) ndarray
        Seconds since the start at which each job is done; infinity if never.
    busy, warming, lost : (D, G) ndarray
        Seconds of slots.
    holder : (D,) ndarray of int
        Group of the machine that ended last; -1 if none did.
    full_at : (D,) ndarray
        When the disk was full; infinity if it never is.
    trace : (F, 4) ndarray
        Slot, begin, end and tries of each frame of one draw; empty unless it was asked for. A frame that nobody
        rendered has no tries.
    """

    finish: Floats
    busy: Floats
    warming: Floats
    lost: Floats
    holder: Ints
    full_at: Floats
    trace: Floats

    @property
    def end(self) -> Floats:
        """When all jobs are done, (D,)."""
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
        count = machine.count * machine.frames_at_once
        groups += [number] * count
        speeds += [machine.slot_speed()] * count
        spans = spans_of(machine, project.delivery.timezone, project.start, days)
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


def _at_the_start(farm: Farm, draws: int) -> Present:
    many = (draws, len(farm.names))
    return Present(
        0.0, np.zeros(len(farm.speed)), np.ones(many), np.ascontiguousarray(np.broadcast_to(farm.loss, many))
    )


def simulate(
    farm: Farm,
    work: Work,
    rules: RunRules | None = None,
    *,
    present: Present | None = None,
    draws: tuple[int, int] | None = None,
    trace: int | None = None,
    threads: int = 2,
    monitor: Monitor | None = None,
) -> Run:
    """Run the jobs on the machines.

    Parameters
    ----------
    farm : Farm
    work : Work
    rules : RunRules, optional
    present : Present, optional
        From where the run goes on; from the start unless given.
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

    watch, rules = monitor or Unwatched(), rules or RunRules()
    first, last = draws or (0, len(work.full))
    count, groups = last, len(farm.names)
    finish = np.zeros((count, len(work.jobs)))
    busy, warming, lost = (np.zeros((count, groups)) for _ in range(3))
    holder, full_at = np.full(count, -1, np.int64), np.full(count, np.inf)
    share = (farm.memory_gib[:, None] >= work.memory_gib[None, :]).astype(float)
    if work.share is not None:
        share *= work.share
    needs_of = np.cumsum([0, *map(len, work.needs)])
    needs = np.array([other for one in work.needs for other in one], np.int64)
    alone = (work.beside < 0) & (needs_of[1:] == needs_of[:-1])
    slots, rows = len(farm.slot_group), work.full.shape[1]
    nothing = np.zeros((0, 4))
    here = present or _at_the_start(farm, count)

    def part(begin: int, end: int, kept: Floats) -> None:
        run_draws(
            begin, end, rules.seed, work.order, work.first, work.row, work.place, work.full, work.kept, work.lengths,
            work.deviation, work.keeps, work.saves, work.gib, rules.disk_gib, needs_of, needs, work.beside,
            farm.slot_group, farm.speed, here.pace, here.loss, here.free_from, here.now, share,
            farm.window_of, farm.begins, farm.ends,
            rules.dispatch, rules.chunk, rules.carries, finish, busy, warming, lost, holder, full_at, kept,
            np.empty(slots), np.empty(slots, np.int64), np.empty(slots, np.int64), np.empty(slots, np.int64),
            np.empty((slots, rows), np.bool_), np.empty((slots, rows), np.bool_), np.empty(len(work.order), np.int64),
            alone, np.empty(len(work.place) if (work.beside >= 0).any() else 0),
        )  # fmt: skip

    # What is short is done before anybody could want to stop it.
    parts = PARTS if (last - first) * len(work.frame) > SHORT_FRAMES else 1
    for number in range(parts):
        watch.step(number / parts, "Running the queue")
        begin = first + (last - first) * number // parts
        end = first + (last - first) * (number + 1) // parts
        run_in_parts(threads, end - begin, lambda a, b, begin=begin: part(begin + a, begin + b, nothing))  # type: ignore[misc]
    kept = nothing
    if trace is not None:
        kept = np.zeros((len(work.frame), 4))
        for one in (busy, warming, lost):
            one[trace] = 0.0
        part(trace, trace + 1, kept)
    return Run(finish[first:], busy[first:], warming[first:], lost[first:], holder[first:], full_at[first:], kept)
