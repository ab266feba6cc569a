"""When the film is done, from the exact run of its frames on its machines. Seconds; with a monitor."""

from collections.abc import Sequence
from dataclasses import dataclass, replace
from datetime import timedelta
from typing import Literal

import numpy as np

from pemlo.core.arrays import Floats
from pemlo.core.cost.along import places
from pemlo.core.cost.draws import FilmDraws, seconds_of
from pemlo.core.cost.frame_arrays import frames_of
from pemlo.core.cost.posterior import Fit
from pemlo.core.errors import InputError
from pemlo.core.farm.simulation import Farm, Ints, Run, Work, farm_of, simulate
from pemlo.core.forecast.verdict import Interval
from pemlo.core.progress import Monitor
from pemlo.core.project.project import Project
from pemlo.core.project.shots import Shot
from pemlo.core.units import HOUR_S, MINUTE_S

Order = Literal["film", "longest", "shortest"]
ORDERS: tuple[Order, ...] = ("film", "longest", "shortest")
DAYS_AFTER = 60  # windows are laid out so long past the deadline; what is not done then never is


@dataclass(frozen=True)
class RunRules:
    """How a film is run.

    Attributes
    ----------
    order : str
        In which shots are handed out. ``film``: as they stand; ``longest``, ``shortest``: by the hours that they are
        expected to take.
    seed : int
        Of losses and scatter.
    dispatch : float
        Seconds before each frame.
    carries : bool
        Whether a frame at the end of a machine's hours goes on in the next of them; else it starts again.
    """

    order: Order = "film"
    seed: int = 0
    dispatch: float = 0.0
    carries: bool = True

    def run(self, farm: Farm, work: Work, monitor: Monitor | None = None) -> Run:
        """Run a queue on machines by these rules."""
        return simulate(farm, work, self.seed, dispatch=self.dispatch, carries=self.carries, monitor=monitor)

    def trace(self, farm: Farm, work: Work, draw: int) -> Floats:
        """Return who rendered what when in one draw, as `Run.trace`."""
        return simulate(farm, work, self.seed, dispatch=self.dispatch, carries=self.carries, draws=(draw, draw + 1),
                        trace=draw).trace  # fmt: skip


@dataclass(frozen=True)
class MachineUse:
    """What a group of machines does until the film is done, mean over the draws, hours of slots.

    `cost` is None where the group has no price.
    """

    machine: str
    busy_hours: float
    idle_hours: float
    warming_hours: float
    lost_hours: float
    cost: float | None


@dataclass(frozen=True)
class Finish:
    """When the film is done.

    Attributes
    ----------
    probability : float
        Of being done by the deadline, assembly counted.
    hours : (D,) ndarray
        Hours since the start, assembly counted; infinity if never.
    film : Interval
    shots : dict of str to Interval
        When the last frame of each shot is there, hours since the start.
    machines : tuple of MachineUse
    bottleneck : str
        What holds up the end, in a sentence.
    run : Run
    work : Work
    farm : Farm
    """

    probability: float
    hours: Floats
    film: Interval
    shots: dict[str, Interval]
    machines: tuple[MachineUse, ...]
    bottleneck: str
    run: Run
    work: Work
    farm: Farm


def work_of(project: Project, fit: Fit, draws: FilmDraws, order: Order = "film", count: int | None = None) -> Work:
    """Return the queue of a film: all frames of its shots one after another, then those that are rendered again.

    Parameters
    ----------
    project : Project
    fit : Fit
        Which knows its shots.
    draws : FilmDraws
    order : str
        As in `RunRules`.
    count : int, optional
        How many draws; all unless given.

    Raises
    ------
    InputError
        If nothing was timed.
    """
    if not fit.known or not project.shots:
        raise InputError("Nothing was timed yet: when it is done is not known.", "Time one frame first.")
    shots = project.shots
    seconds = [_seconds(project, fit, draws, shot, count) for shot in shots]
    hours = [float(np.median(one[0].mean(axis=1))) * shot.rendered_count(shot.settings)
             for one, shot in zip(seconds, shots, strict=True)]  # fmt: skip
    at = list(range(len(shots)))
    if order != "film":
        at.sort(key=lambda k: hours[k], reverse=order == "longest")
    queue = [_frames(shots[k], k) for k in at] + [_retakes(project, shots[k], k) for k in at]
    which, frame, place = (np.concatenate(parts) for parts in zip(*queue, strict=True))
    longest = max(one[0].shape[1] for one in seconds)
    full, kept = (np.stack([_padded(one[part], longest) for one in seconds], axis=1) for part in (0, 1))
    return Work(
        tuple(shot.name for shot in shots),
        which.astype(np.int64),
        frame.astype(np.int64),
        place,
        full,
        kept,
        np.array([one[0].shape[1] for one in seconds], np.int64),
        float(fit.spread.repeat_sd),
        np.array([bool(shot.settings.keep) for shot in shots]),
        np.array([shot.settings.saves for shot in shots], np.int64),
        np.array([_memory(project, shot) for shot in shots]),
    )


def _seconds(project: Project, fit: Fit, draws: FilmDraws, shot: Shot, count: int | None) -> tuple[Floats, Floats]:
    """Return seconds of frames at the places of a shot's course, (N, L), worked out whole and with what is kept."""
    mine = draws[shot.name]
    theta, course = mine.theta[:count, None, :], mine.course[:count]
    wanted = frames_of([shot.settings], [project.size_of(shot)], fit.cost_factors, fit.shots[shot.name].shape())
    kept = seconds_of(theta, wanted, course)[0]
    if not shot.settings.keep:
        return kept, kept
    nothing = np.zeros_like(wanted.keeps_prepare)
    return seconds_of(theta, replace(wanted, keeps_prepare=nothing, keeps_light=nothing), course)[0], kept


def _padded(values: Floats, length: int) -> Floats:
    return np.pad(values, ((0, 0), (0, length - values.shape[1])), mode="edge")


def _frames(shot: Shot, number: int) -> tuple[Ints, Ints, Floats]:
    step = shot.step * shot.settings.frame_step
    frames = np.arange(shot.rendered_count(shot.settings)) * step + shot.first
    return np.full(len(frames), number), frames, places(frames.astype(float), shot.first, shot.last)


def _retakes(project: Project, shot: Shot, number: int) -> tuple[Ints, Ints, Floats]:
    """Return the frames that are rendered again, spread evenly over the shot."""
    which, frames, place = _frames(shot, number)
    count = round(len(frames) * project.delivery.retake_share)
    at = ((np.arange(count) + 0.5) * len(frames) / max(count, 1)).astype(int) % len(frames)
    return which[at], frames[at], place[at]


def _memory(project: Project, shot: Shot) -> float:
    """Return the most memory that a trial of the shot took, GiB; 0 where none says."""
    return max((trial.memory_gib or 0.0 for trial in project.trials_of(shot.name)), default=0.0)


def finish_of(
    project: Project,
    fit: Fit,
    draws: FilmDraws,
    rules: RunRules | None = None,
    *,
    count: int | None = None,
    trace: bool = False,
    monitor: Monitor | None = None,
) -> Finish:
    """Return when a film is done.

    Parameters
    ----------
    project : Project
    fit : Fit
    draws : FilmDraws
        Of that fit.
    rules : RunRules, optional
    count : int, optional
        How many draws are run; all unless given.
    trace : bool
        Whether it is kept who rendered what when, in the draw whose end is nearest to the median.

    Raises
    ------
    InputError
        If nothing was timed, or no machine is ever free.
    Cancelled
        From the monitor.
    """
    rules = rules or RunRules()
    work, farm = work_of(project, fit, draws, rules.order, count), farm_for(project)
    run = rules.run(farm, work, monitor)
    if trace:
        typical = int(np.argsort(run.end, kind="stable")[len(run.end) // 2])
        run = replace(run, trace=rules.trace(farm, work, typical))
    hours = hours_done(project, run)
    return Finish(
        float(np.mean(hours <= due_hours(project) + 1e-9)),
        hours,
        _interval(hours),
        {name: _interval(run.finish[:, k] / HOUR_S) for k, name in enumerate(work.names)},
        machine_uses(farm, run),
        _bottleneck(farm, work, run, carries=rules.carries),
        run,
        work,
        farm,
    )


def farm_for(project: Project) -> Farm:
    """Return a film's machines, until long past its deadline.

    Raises
    ------
    InputError
        If there is no machine, or none is ever free.
    """
    return farm_of(project, int(due_hours(project) / 24) + DAYS_AFTER)


def due_hours(project: Project) -> float:
    """Return the hours from the start to the deadline."""
    return (project.delivery.deadline - project.start).total_seconds() / HOUR_S


def hours_done(project: Project, run: Run) -> Floats:
    """Return when the film is assembled in each draw, hours since the start; infinity if never."""
    return (run.end + project.delivery.assembly_minutes * MINUTE_S) / HOUR_S


def _interval(draws: Floats) -> Interval:
    return Interval(*(float(np.quantile(draws, q, method="higher")) for q in (0.05, 0.5, 0.95)))


def machine_uses(farm: Farm, run: Run) -> tuple[MachineUse, ...]:
    """Return what each group of machines does until the film is done."""
    done = run.end[np.isfinite(run.end)]
    until = float(np.median(done)) if len(done) else float(farm.ends.max())
    free = farm.open_seconds(until) / HOUR_S
    busy, warming, lost = (one.mean(axis=0) / HOUR_S for one in (run.busy, run.warming, run.lost))
    slots = np.bincount(farm.slot_group, minlength=len(farm.names))
    machines = np.array([max(1, slots[k]) for k in range(len(farm.names))])
    return tuple(
        MachineUse(
            name,
            float(busy[k]),
            float(max(free[k] - busy[k], 0.0)),
            float(warming[k]),
            float(lost[k]),
            None if np.isnan(farm.price[k]) else float(farm.price[k] * busy[k] / machines[k] * farm.machines[k]),
        )
        for k, name in enumerate(farm.names)
    )


def _bottleneck(farm: Farm, work: Work, run: Run, *, carries: bool) -> str:
    """Return which shot ends last, and on which machines; or why one never does."""
    never = [name for k, name in enumerate(work.names) if not np.isfinite(run.finish[:, k]).all()]
    if never:
        share = float(np.mean(~np.isfinite(run.end)))
        needs = [work.memory_gib[work.names.index(name)] for name in never]
        if not (farm.memory_gib >= max(needs)).any():
            return f"Shot {never[0]} never ends: a frame needs {max(needs):.3g} GiB, and no machine has that."
        if not carries and (words := _too_long(farm, work, work.names.index(never[0]))):
            return words
        return f"Shot {never[0]} is not done within {DAYS_AFTER} days after the deadline, in {share:.0%} of the draws."
    last = np.argmax(run.finish, axis=1)
    shot = int(np.bincount(last, minlength=len(work.names)).argmax())
    group = int(np.bincount(run.holder, minlength=len(farm.names)).argmax())
    share = float(np.mean((last == shot) & (run.holder == group)))
    return f"Shot {work.names[shot]} on {farm.names[group]} ends last, in {share:.0%} of the draws."


def _too_long(farm: Farm, work: Work, shot: int) -> str:
    """Return that a frame of a shot is longer than any machine is free at a stretch; empty if it is not so."""
    frame = float(np.median(work.full[:, shot, : work.lengths[shot]].max(axis=1)))
    spans = farm.ends - farm.begins
    for group in np.flatnonzero(farm.memory_gib >= work.memory_gib[shot]):
        speed = farm.speed[farm.slot_group == group][0]
        if frame / speed <= spans[farm.window_of[group] : farm.window_of[group + 1]].max(initial=0.0):
            return ""
    fastest = float(farm.speed.max())
    return (
        f"Shot {work.names[shot]} never ends: a frame takes about {frame / fastest / HOUR_S:.2g} h, longer than any "
        "machine is free at a stretch, and starts again each time."
    )


def trace_rows(project: Project, found: Finish) -> Sequence[tuple[str, ...]]:
    """Return who rendered what when in the typical run: shot, frame, machine, slot, begin, end, tries."""
    zone = project.delivery.zone
    rows = []
    for number, (slot, *times, tries) in enumerate(found.run.trace):
        # A frame that nobody could take has no machine and no times.
        where = ["", "", "", ""]
        if tries:
            moments = [(project.start + timedelta(seconds=float(one))).astimezone(zone) for one in times]
            machine = found.farm.names[found.farm.slot_group[int(slot)]]
            where = [machine, str(int(slot)), *(one.isoformat(timespec="seconds") for one in moments)]
        shot, frame = found.work.names[found.work.shot[number]], str(found.work.frame[number])
        rows.append((shot, frame, *where, str(int(tries))))
    return rows
