"""When the film is done, from the exact run of its frames on its machines. Seconds; with a monitor."""

import math
from collections.abc import Callable
from dataclasses import dataclass, replace

import numpy as np

from pemlo.core.arrays import Floats, Ints
from pemlo.core.cost.draws import FilmDraws
from pemlo.core.cost.posterior import Fit
from pemlo.core.farm.simulation import Farm, Run, RunRules, Work, farm_of, simulate
from pemlo.core.forecast.bottleneck import DAYS_AFTER, bottleneck_words, never_ends
from pemlo.core.forecast.jobs import EARLY, Job
from pemlo.core.forecast.queue import Queue, queue_of, rules_of
from pemlo.core.interval import Interval, ends_of
from pemlo.core.progress import Monitor
from pemlo.core.project.project import Project
from pemlo.core.units import HOUR_S, MINUTE_S

Runner = Callable[[Farm, Work, RunRules, Monitor | None], Run]


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
class DateOdds:
    """A date of its own that a shot, or the first pass, has: hours since the start, and the chance to make it."""

    what: str
    due_h: float
    probability: float


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
        When the last frame of each shot is there, those that are rendered again counted; hours since the start.
    dates : tuple of DateOdds
        Of the shots that have dates of their own, and of the first pass.
    machines : tuple of MachineUse
    bottleneck : str
        What holds up the end, in a sentence.
    never : bool
        Whether there is work that these machines cannot end, however long they have.
    run : Run
    jobs : tuple of Job
    work : Work
    farm : Farm
    which : (D,) ndarray of int
        Which draws were run.
    typical : int
        The one of them whose end is nearest to the middle: the one that is traced.
    """

    probability: float
    hours: Floats
    film: Interval
    shots: dict[str, Interval]
    dates: tuple[DateOdds, ...]
    machines: tuple[MachineUse, ...]
    bottleneck: str
    never: bool
    run: Run
    jobs: tuple[Job, ...]
    work: Work
    farm: Farm
    which: Ints
    typical: int


def finish_of(
    project: Project,
    fit: Fit,
    draws: FilmDraws,
    seed: int = 0,
    *,
    which: Ints | None = None,
    trace: bool = False,
    runner: Runner | None = None,
    monitor: Monitor | None = None,
) -> Finish:
    """Return when a film is done.

    Parameters
    ----------
    project : Project
    fit : Fit
    draws : FilmDraws
        Of that fit.
    seed : int
        Of losses and of the scatter of frames.
    which : (D,) ndarray of int, optional
        Which draws are run; all unless given.
    trace : bool
        Whether it is kept who rendered what when, in the draw whose end is nearest to the median.
    runner : callable, optional
        What runs the draws, on other machines; here unless given.
    monitor : Monitor, optional

    Raises
    ------
    InputError
        If nothing was timed, or no machine is ever free.
    Cancelled
        From the monitor.
    """
    if which is None:
        which = np.arange(len(next(iter(draws.values())).theta)) if draws else np.zeros(0, np.int64)
    queue, farm, rules = queue_of(project, fit, draws, which), farm_for(project), rules_of(project, seed)
    run = runner(farm, queue.work, rules, monitor) if runner else simulate(farm, queue.work, rules, monitor=monitor)
    typical = int(np.argsort(run.end, kind="stable")[len(run.end) // 2])
    if trace:
        once = simulate(farm, queue.work, rules, draws=(typical, typical + 1), trace=typical)
        run = replace(run, trace=once.trace)
    return _found(project, queue, farm, run, which, typical)


def _found(project: Project, queue: Queue, farm: Farm, run: Run, which: Ints, typical: int) -> Finish:
    """Return what a run says of a film."""
    hours, rules = hours_done(project, run), rules_of(project)
    ends = shot_ends(project, queue.jobs, run)
    return Finish(
        float(np.mean(hours <= project.deadline_h + 1e-9)),
        hours,
        ends_of(hours),
        {name: ends_of(one) for name, one in ends.items()},
        _dates(project, queue.jobs, run, ends),
        machine_uses(farm, run),
        bottleneck_words(farm, queue, run, rules),
        bool(never_ends(farm, queue, run, rules)),
        run,
        queue.jobs,
        queue.work,
        farm,
        which,
        typical,
    )


def shot_ends(project: Project, jobs: tuple[Job, ...], run: Run) -> dict[str, Floats]:
    """Return when each shot is done, its first pass not counted, hours since the start, (D,) each."""
    ends = {shot.name: np.zeros(len(run.finish)) for shot in project.shots}
    for number, job in enumerate(jobs):
        if job.part != EARLY:
            ends[job.shot.name] = np.maximum(ends[job.shot.name], run.finish[:, number] / HOUR_S)
    return ends


def _dates(project: Project, jobs: tuple[Job, ...], run: Run, ends: dict[str, Floats]) -> tuple[DateOdds, ...]:
    chances = []
    first: Ints = np.array([k for k, job in enumerate(jobs) if job.part == EARLY], np.int64)
    if len(first) and math.isfinite(due := jobs[int(first[0])].due_h):
        done = run.finish[:, first].max(axis=1) / HOUR_S
        chances.append(DateOdds(EARLY, due, float(np.mean(done <= due + 1e-9))))
    for shot in project.shots:
        if shot.due is not None:
            due = project.hours_of(shot.due)
            chances.append(DateOdds(shot.name, due, float(np.mean(ends[shot.name] <= due + 1e-9))))
    return tuple(chances)


def farm_for(project: Project) -> Farm:
    """Return a film's machines, until long past its deadline.

    Raises
    ------
    InputError
        If there is no machine, or none is ever free.
    """
    return farm_of(project, int(project.deadline_h / 24) + DAYS_AFTER)


def hours_done(project: Project, run: Run) -> Floats:
    """Return when the film is assembled in each draw, hours since the start; infinity if never."""
    return (run.end + project.delivery.assembly_minutes * MINUTE_S) / HOUR_S


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
