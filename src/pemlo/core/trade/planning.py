"""Makes the plan of a film: options of every shot, the best choice among them, and the film with it. Pure; seconds."""

from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np

from pemlo.core.forecast.needs import shot_hours
from pemlo.core.forecast.verdict import project_capacity
from pemlo.core.progress import Monitor
from pemlo.core.project.edits import adopt
from pemlo.core.project.project import Project
from pemlo.core.project.settings import LeverName, ShotSettings
from pemlo.core.trade.best_plan import PASSES, Goal, Plan, PlanRequest, best_plan
from pemlo.core.trade.weigh import FilmOptions, Known
from pemlo.core.units import HOUR_S

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
    request = PlanRequest(goal, there, project.delivery.confidence, weights, tuple(alike))
    found = FilmPlan(options, best_plan(options, request, monitor), there)
    if known is None or not project.shots:
        return found
    best = _confirmed(project, known, found)
    for _ in range(_CONFIRMATIONS):
        if goal != "picture" or not found.plan.feasible or best.plan.feasible:
            break
        request = replace(request, there=request.there * there / best.plan.needed * _A_LITTLE_LESS)
        found = FilmPlan(options, best_plan(options, request, monitor), there)
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
    probability, missing = float(np.mean(hours <= there)), max(needed - there, 0.0)
    said = replace(plan, feasible=feasible, hours=hours, needed=needed, probability=probability, missing_hours=missing)
    return replace(found, plan=said)
