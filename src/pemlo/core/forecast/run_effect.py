"""How much later a film is done than its machine-hours say, because frames are whole: from some exact runs. NumPy.

Machine-hours are poured down the machines' hours as if they could be cut anywhere. Whole frames, waiting, losses and
the last of them to end take more. How much more hardly changes from draw to draw, so a few runs of the film, spread
over what it may need, stand for all draws.
"""

from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np

from pemlo.core.arrays import Floats, Ints
from pemlo.core.cost.draws import FilmDraws
from pemlo.core.cost.posterior import Fit
from pemlo.core.errors import InputError
from pemlo.core.farm.capacity import Capacity
from pemlo.core.farm.simulation import simulate
from pemlo.core.forecast.bottleneck import never_ends
from pemlo.core.forecast.finish import Finish, Runner, farm_for, finish_of
from pemlo.core.forecast.jobs import Job, jobs_of
from pemlo.core.forecast.needs import shot_hours
from pemlo.core.forecast.parts import Parts
from pemlo.core.forecast.queue import queue_of, rules_of
from pemlo.core.progress import Monitor
from pemlo.core.project.project import Project
from pemlo.core.units import HOUR_S

QUICK_FRAMES = 80_000  # frames that are run for a preview, all draws together: about 50 ms
EXACT_FRAMES = 20_000_000  # for the exact answer: a few seconds
LEAST_DRAWS = 3


@dataclass(frozen=True)
class RunEffect:
    """What some exact runs come to.

    Attributes
    ----------
    needed : (K,) ndarray
        Machine-hours that the film needs in these draws, rising.
    factor : (K,) ndarray
        Machine-hours that the machines could have done until the film's end, over those that it needs.
    never : str
        Why there is work that never ends; empty if there is none.
    end_h : (N,) ndarray, optional
        Hours from the start to the end of every draw, if all were run; infinity if never.
    """

    needed: Floats
    factor: Floats
    never: str = ""
    end_h: Floats | None = None

    def taken(self, needed: Floats) -> Floats:
        """Return the machine-hours of the machines that go by until a film is done which needs so many."""
        if not len(self.needed):
            return needed
        return np.asarray(needed * np.interp(needed, self.needed, self.factor))


def run_count(jobs: Sequence[Job], most_frames: int, draws: int) -> int:
    """Return how many draws may be run so that no more frames are run than that; 0 if not even a few."""
    frames = sum(len(job.frames) for job in jobs)
    count = min(most_frames // max(frames, 1), draws)
    return count if count >= min(LEAST_DRAWS, draws) else 0


def spread_draws(needed: Floats, count: int) -> Ints:
    """Return which draws stand for all: spread evenly over what the film needs, (K,), rising."""
    if count >= len(needed):
        return np.arange(len(needed))
    order = np.argsort(needed, kind="stable")
    return np.asarray(order[((np.arange(count) + 0.5) * len(order) / count).astype(int)], np.int64)


def quick_effect(
    project: Project,
    fit: Fit,
    draws: FilmDraws,
    curve: Capacity,
    needed: Floats,
    most_frames: int = QUICK_FRAMES,
    parts: Parts | None = None,
    asked: Floats | None = None,
) -> RunEffect:
    """Return the effect from as many runs as may be; none if there is no time for a few, or no machine.

    Parameters
    ----------
    project : Project
    fit : Fit
    draws : FilmDraws
        Of that fit.
    curve : Capacity
        Of the film's machines.
    needed : (N,) ndarray
        Machine-hours that the film needs in each draw.
    most_frames : int
    parts : Parts, optional
        Of other forecasts of this fit.
    asked : (N,) ndarray, optional
        Machine-hours that the film needs as it was asked for, by which the runs are spread; as it stands unless given.
        So the runs of a film that somebody changes step by step differ in nothing but the change.
    """
    jobs = jobs_of(project)
    count = run_count(jobs, most_frames, len(needed))
    if not count:
        return RunEffect(np.zeros(0), np.zeros(0))
    which = spread_draws(needed if asked is None else asked, count)
    try:
        farm = farm_for(project)
    except InputError:  # none, or too many to run: what they could do is still known
        return RunEffect(np.zeros(0), np.zeros(0))
    queue, rules = queue_of(project, fit, draws, which, parts, jobs), rules_of(project)
    run = simulate(farm, queue.work, rules)
    never = never_ends(farm, queue, run, rules)
    return _effect(curve, needed, which, run.end / HOUR_S, never, carries=rules.carries)


def effect_in(project: Project, curve: Capacity, needed: Floats, finish: Finish) -> RunEffect:
    """Return the effect of the runs of an exact answer, which say which draws they are of."""
    never = finish.bottleneck if finish.never else ""
    carries = not project.running.starts_again
    return _effect(curve, needed, finish.which, finish.run.end / HOUR_S, never, carries=carries)


def _effect(curve: Capacity, needed: Floats, which: Ints, end_h: Floats, never: str, *, carries: bool) -> RunEffect:
    """Return the effect of the runs of some draws, which end so many hours after the start.

    Where a frame may start again, one that does not end never does; where it goes on, it is only later than the
    machines were followed, and the others say how much.
    """
    mine = needed[which]
    ends = np.isfinite(end_h) & (mine > 0)
    taken = np.array([curve.work_by(float(one)) for one in end_h[ends]])
    order = np.argsort(mine[ends], kind="stable")
    mine = mine[ends][order]
    effect = RunEffect(mine, taken[order] / mine if len(mine) else mine, never)
    if len(which) < len(needed):
        return effect
    later = curve.hours_for(effect.taken(needed[which])) if carries else np.inf
    return replace(effect, end_h=np.where(np.isfinite(end_h), end_h, later))


def exact_draws(project: Project, fit: Fit, draws: FilmDraws) -> Ints:
    """Return which draws of a film can be run in a few seconds: all, or of a huge film so many that stand for all."""
    many = len(next(iter(draws.values())).theta)
    count = max(run_count(jobs_of(project), EXACT_FRAMES, many), min(LEAST_DRAWS, many))
    if count == many:
        return np.arange(many)
    needed = np.sum([shot_hours(fit, draws, project, shot) for shot in project.shots], axis=0)
    return spread_draws(np.asarray(needed), count)


def exact_finish(
    project: Project, fit: Fit, draws: FilmDraws, monitor: Monitor | None = None, runner: Runner | None = None
) -> Finish:
    """Return when a film is done from the draws of `exact_draws`.

    Parameters and errors as `finish_of`; with a trace.
    """
    which = exact_draws(project, fit, draws)
    return finish_of(project, fit, draws, which=which, trace=True, runner=runner, monitor=monitor)
