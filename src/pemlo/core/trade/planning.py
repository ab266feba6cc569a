"""Makes the plan of a film: options of every shot, the best choice among them, and the film with it. Pure; seconds."""

from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np

from pemlo.core.cost.draws import FilmDraws
from pemlo.core.cost.posterior import Fit
from pemlo.core.errors import InputError, Problem
from pemlo.core.forecast.needs import shot_hours
from pemlo.core.forecast.verdict import project_capacity
from pemlo.core.predict.shot_appearance import Looks
from pemlo.core.progress import Monitor, Unwatched
from pemlo.core.project.edits import adopt, set_shot
from pemlo.core.project.project import Project
from pemlo.core.project.settings import LEVERS, NO_DENOISE, LeverName, ShotSettings
from pemlo.core.project.shots import Shot
from pemlo.core.project.spelling import cap, rays, switch_names
from pemlo.core.trade.best_plan import PASSES, Goal, Plan, Wish, best_plan
from pemlo.core.trade.levers import why_not
from pemlo.core.trade.options import Options, options_of
from pemlo.core.units import HOUR_S

FilmOptions = tuple[Options, ...]
Known = tuple[Fit, FilmDraws]
_CONFIRMATIONS, _A_LITTLE_LESS = 4, 0.999


@dataclass(frozen=True)
class FilmPlan:
    """A plan with what it was chosen from.

    Attributes
    ----------
    options : tuple of Options
        Of every shot, in their order.
    plan : Plan
    there : float
        Machine-hours before the deadline.
    """

    options: FilmOptions
    plan: Plan
    there: float

    def settings(self) -> dict[str, ShotSettings]:
        """Return what the plan has for each shot."""
        return {one.shot: one.settings[k] for one, k in zip(self.options, self.plan.chosen, strict=True)}


def film_options(
    project: Project, fit: Fit, draws: FilmDraws, looks: Looks, monitor: Monitor | None = None
) -> FilmOptions:
    """Return the options of every shot.

    Raises
    ------
    InputError
        If nothing was timed yet.
    Cancelled
        From the monitor.
    """
    if not fit.known:
        raise InputError("Nothing was timed yet: no plan can be made.", "Time one frame first.")
    watch, found = monitor or Unwatched(), []
    for number, shot in enumerate(project.shots):
        watch.step(number / len(project.shots), f"Weighing what {shot.name} could be")
        found.append(options_of(project, fit, draws, shot, looks.get(shot.name)))
    return tuple(found)


def hours_there(project: Project) -> float:
    """Return the machine-hours before the deadline, less the minutes kept for assembly."""
    seconds = (project.delivery.render_by - project.start).total_seconds()
    return project_capacity(project).work_by(max(seconds / HOUR_S, 0.0))


def plan_film(
    project: Project,
    options: FilmOptions,
    goal: Goal,
    known: Known | None = None,
    alike: Sequence[LeverName] = (),
    monitor: Monitor | None = None,
) -> FilmPlan:
    """Return the best plan of a film.

    Options are weighed by some of the draws. Where what is known is given, all of them say what the plan comes to, and
    one that is to be in time is looked for again with a little less, until it is by them too.

    Raises
    ------
    Cancelled
        From the monitor.
    """
    there = hours_there(project)
    weights = tuple(shot.weight for shot in project.shots)
    wish = Wish(goal, there, project.delivery.confidence, weights, tuple(alike))
    found = FilmPlan(options, best_plan(options, wish, monitor), there)
    if known is None or not project.shots:
        return found
    best = _confirmed(project, known, found)
    for _ in range(_CONFIRMATIONS):
        if goal != "picture" or not found.plan.feasible or best.plan.feasible:
            break
        wish = replace(wish, there=wish.there * there / best.plan.needed * _A_LITTLE_LESS)
        found = FilmPlan(options, best_plan(options, wish, monitor), there)
        best = _confirmed(project, known, found)
    return best


def _confirmed(project: Project, known: Known, found: FilmPlan) -> FilmPlan:
    """Return a plan with what all draws say of it, as the forecast would."""
    planned = adopt(project, found.settings())
    times = 1 + project.delivery.retake_share
    hours = np.sum([shot_hours(*known, planned, shot) for shot in planned.shots], axis=0) * times
    plan, there = found.plan, found.there
    needed = float(np.quantile(hours, project.delivery.confidence))
    in_time, passes = needed <= there, not plan.worst_ratio > 1 + PASSES
    feasible = {"picture": in_time, "hours": passes, "missing": in_time and passes}[plan.goal]
    odds, missing = float(np.mean(hours <= there)), max(needed - there, 0.0)
    told = replace(plan, feasible=feasible, hours=hours, needed=needed, odds=odds, missing_hours=missing)
    return replace(found, plan=told)


def hold(project: Project, words: str) -> Project:
    """Return a film with one lever of a shot set and pinned, as ``shot.lever=value`` says.

    Raises
    ------
    InputError
        If there is no such shot or lever, or the value is not allowed.

    Examples
    --------
    Values are ``none`` for no threshold, cap or denoising; what is kept or switched on has a plus between; a split is
    written ``4,1,2``, a cap as people say durations.
    """
    where, found, value = words.partition("=")
    name, dot, lever = where.rpartition(".")
    if not (found and dot):
        raise InputError([Problem(words, "is not a lever")], "Write it like 040.samples=128.")
    shot = next((shot for shot in project.shots if shot.name == name), None)
    if shot is None:
        raise InputError([Problem(words, f"there is no shot {name}")])
    if lever not in LEVERS:
        raise InputError([Problem(words, f"there is no lever {lever}")], f"There are: {', '.join(LEVERS)}.")
    settings = shot.settings.changed(**{lever: _value(lever, value.strip())})
    reason = why_not(shot, settings)
    if reason:
        raise InputError([Problem(words, reason)])
    return pin(project, shot, settings, (lever,))


def pin(project: Project, shot: Shot, settings: ShotSettings, levers: Sequence[LeverName]) -> Project:
    """Return a film in which a shot has settings as its plan, and some levers of it are pinned."""
    return set_shot(project, shot.name, plan=settings, pins=(*shot.pins, *levers))


def _value(lever: LeverName, text: str) -> object:
    if lever == "keep":
        return tuple(part for part in text.replace("+", " ").split() if part != NO_DENOISE)
    if lever == "noise_threshold" and text == NO_DENOISE:
        return None
    parse = {"switches": switch_names, "split": rays, "most_seconds": cap}.get(lever)
    if parse is not None:
        try:
            return parse(text)
        except ValueError as error:
            raise InputError([Problem(f"{lever}={text}", str(error))]) from error
    return text
