"""Makes the plan of a film: options of every shot, the best choice among them, and the film with it. Pure; seconds."""

from collections.abc import Sequence
from dataclasses import dataclass, field, replace

import numpy as np

from pemlo.core.arrays import Floats
from pemlo.core.farm.money import affordable_h
from pemlo.core.forecast.ledger import Ledger, ledger_from
from pemlo.core.forecast.needs import first_pass_hours, shot_hours
from pemlo.core.forecast.verdict import forecast, project_capacity
from pemlo.core.progress import Monitor
from pemlo.core.project.edits import adopt
from pemlo.core.project.project import Project
from pemlo.core.project.settings import LeverName, ShotSettings
from pemlo.core.project.shots import Shot
from pemlo.core.trade.best_plan import PASSES, Goal, Plan, PlanRequest, best_plan
from pemlo.core.trade.better_running import BetterRunning, better_running
from pemlo.core.trade.few_settings import FewSettings, with_few_settings
from pemlo.core.trade.film_options import FilmOptions, Known
from pemlo.core.trade.options import mean_hours
from pemlo.core.trade.parsimony import simplified
from pemlo.core.units import HOUR_S

_CONFIRMATIONS, _A_LITTLE_LESS = 4, 0.999
CONFIRMED_FRAMES = 2_000_000  # are run to say what a plan comes to: under half a second


@dataclass(frozen=True)
class FilmPlan:
    """A plan with what it was chosen from.

    Attributes
    ----------
    options : tuple of Options
        Of every shot, in their order.
    plan : Plan
    available_h : float
        Machine-hours before the deadline.
    groups : FewSettings, optional
        How many different settings are in use, and what that takes; None where shots were not grouped.
    budget_h : float, optional
        What the budget pays for, where that is less than there is before the deadline: then it is what is available.
    running : BetterRunning
        What the plan changes of how frames are run: it costs no picture.
    """

    options: FilmOptions
    plan: Plan
    available_h: float
    groups: FewSettings | None = None
    budget_h: float | None = None
    running: BetterRunning = field(default_factory=BetterRunning)

    def taken(self, project: Project) -> Project:
        """Return a film with the plan adopted."""
        return self.running.taken(adopt(project, self.settings()))

    def is_taken(self, project: Project) -> bool:
        """Whether a film has the plan adopted."""
        return self.taken(project) == project

    def ledger(self, confidence: float) -> Ledger:
        """Return what the plan needs with a chance, beside what is available."""
        return ledger_from(self.plan.hours, self.available_h, confidence)

    def settings(self) -> dict[str, ShotSettings]:
        """Return what the plan has for each shot."""
        return {options.shot: options.settings[k] for options, k in zip(self.options, self.plan.chosen, strict=True)}


def hours_available_of(project: Project, known: Known | None = None) -> float:
    """Return the machine-hours before the deadline, less the minutes kept for assembly.

    Where it is known what frames cost, less what whole frames, waiting and losses take away from them as well.
    """
    if known is not None and known[0].known and project.shots:
        return forecast(project, *known).hours_usable - _first_pass(project, known)
    seconds = (project.delivery.render_by - project.start).total_seconds()
    return project_capacity(project).work_by(max(seconds / HOUR_S, 0.0))


def _first_pass(project: Project, known: Known) -> float:
    return float(np.median(first_pass_hours(*known, project)))


def plan_film(
    project: Project,
    options: FilmOptions,
    goal: Goal,
    known: Known | None = None,
    alike: Sequence[LeverName] = (),
    monitor: Monitor | None = None,
    *,
    few: bool = False,
) -> FilmPlan:
    """Return the best plan of a film, without changes that give next to nothing.

    Options are weighed by some of the draws. Where what is known is given, all of them say what the plan comes to, and
    one that is to be in time is looked for again with a little less, until it is by them too.

    Parameters
    ----------
    few : bool
        Whether shots are put into groups that share their settings, as few as can be.

    Raises
    ------
    Cancelled
        From the monitor.
    """
    if known is not None and known[0].known and project.shots:
        return _with_better_running(project, options, goal, known, alike, monitor, few=few)
    return _plan_of_shots(project, options, goal, known, alike, monitor, few=few)


def _with_better_running(
    project: Project,
    options: FilmOptions,
    goal: Goal,
    known: Known,
    alike: Sequence[LeverName],
    monitor: Monitor | None,
    *,
    few: bool,
) -> FilmPlan:
    """Return the plan of a film that is run as well as it can be; as it is run now where that is no better."""
    running = better_running(project, known, monitor)
    plan = _plan_of_shots(running.taken(project), options, goal, known, alike, monitor, few=few)
    if running.order is None:
        return replace(plan, running=running)
    # The order was tried with the settings of now: the plan may have made it worse.
    stays = replace(running, order=None, sooner_h=0.0)
    in_order = _confirmed(stays.taken(project), known, plan)
    if in_order.plan.probability > plan.plan.probability or in_order.available_h > plan.available_h:
        return replace(in_order, running=stays)
    return replace(plan, running=running)


def _plan_of_shots(
    project: Project,
    options: FilmOptions,
    goal: Goal,
    known: Known | None,
    alike: Sequence[LeverName],
    monitor: Monitor | None,
    *,
    few: bool,
) -> FilmPlan:
    available_h = _within_budget(project, hours_available_of(project, known))
    weights = tuple(shot.weight for shot in project.shots)
    request = PlanRequest(goal, available_h, project.delivery.confidence, weights, tuple(alike))
    exact = FilmPlan(options, best_plan(options, request, monitor), available_h)
    if not project.shots:
        return exact
    best = _finished(project, known, exact, request, few=few)
    if known is None:
        return best
    for _ in range(_CONFIRMATIONS):
        if goal != "picture" or not exact.plan.feasible or best.plan.feasible:
            break
        request = replace(
            request, available_h=request.available_h * _less(best, project.delivery.confidence) * _A_LITTLE_LESS
        )
        exact = FilmPlan(options, best_plan(options, request, monitor), available_h)
        best = _finished(project, known, exact, request, few=few)
    if not best.plan.feasible:
        plain = _confirmed(project, known, exact)
        return plain if plain.plan.feasible else best
    return best


def _less(late: FilmPlan, confidence: float) -> float:
    """Return by what factor a plan that runs call late should need less: by its hours, or by the chance it has."""
    plan = late.plan
    chance = float(np.quantile(plan.hours, min(plan.probability, confidence))) / max(plan.needed, 1e-12)
    return min(late.available_h / max(plan.needed, 1e-12), chance)


def _finished(project: Project, known: Known | None, exact: FilmPlan, request: PlanRequest, *, few: bool) -> FilmPlan:
    """Return an exact plan made simple, grouped if that is wanted, and confirmed by all draws if they are given."""
    plan = exact.plan
    # Options are weighed by some of the draws; what all of them say of the exact plan is taken over for those near it.
    scale = 1.0 if known is None else _confirmed(project, known, exact).plan.needed / max(plan.needed, 1e-12)

    never = plan.goal == "hours" and scale * plan.needed > exact.available_h  # then changes decide nothing

    def in_time(hours: Floats) -> bool:
        return never or scale * float(np.quantile(hours, request.confidence)) <= exact.available_h

    def hours_with(shot: Shot, settings: ShotSettings) -> Floats:
        assert known is not None
        return np.asarray(mean_hours(project, *known, shot, [settings])[0][0])

    options, chosen, groups = exact.options, plan.chosen, None
    if few:
        chosen, groups = with_few_settings(project, options, chosen, plan.goal, in_time, plan.worst_ratio)
    elif not request.alike:
        options, chosen = simplified(
            project, options, chosen, in_time, plan.worst_ratio, plan.goal, hours_with if known is not None else None
        )
    hours = np.asarray(np.sum([one.draws(k) for one, k in zip(options, chosen, strict=True)], axis=0))
    ratios = [one.error[k] / one.ceiling for one, k in zip(options, chosen, strict=True) if one.known]
    worst = float(max(ratios)) if ratios else float("nan")
    found = FilmPlan(options, replace(plan, chosen=chosen, hours=hours, worst_ratio=worst), exact.available_h, groups)
    return _said(project, found, hours) if known is None else _confirmed(project, known, found)


def _confirmed(project: Project, known: Known, plan: FilmPlan) -> FilmPlan:
    """Return a plan with what all draws say of it, as the forecast would."""
    planned = adopt(project, plan.settings())
    times = 1 + project.delivery.retake_share
    hours = np.sum([shot_hours(*known, planned, shot) for shot in planned.shots], axis=0) * times
    said = forecast(planned, *known, most_frames=CONFIRMED_FRAMES)
    in_time = said.hours_usable - _first_pass(planned, known)
    available_h = _within_budget(project, in_time)
    budget_h = available_h if available_h < in_time else None
    return _said(project, replace(plan, available_h=available_h, budget_h=budget_h), hours, said.probability)


def _within_budget(project: Project, available_h: float) -> float:
    """Return hours that are in time, or fewer where the budget pays for fewer."""
    affordable = affordable_h(project)
    return available_h if affordable is None else min(available_h, affordable)


def _said(project: Project, found: FilmPlan, hours: Floats, chance: float | None = None) -> FilmPlan:
    """Return a plan with what draws of its hours say of it, and the chance if runs of the film say that."""
    plan, available_h = found.plan, found.available_h
    needed = float(np.quantile(hours, project.delivery.confidence))
    in_time, passes = needed <= available_h, not plan.worst_ratio > 1 + PASSES
    feasible = {"picture": in_time, "hours": passes, "missing": in_time and passes}[plan.goal]
    probability = float(np.mean(hours <= available_h)) if chance is None else chance
    missing = max(needed - available_h, 0.0)
    said = replace(plan, feasible=feasible, hours=hours, needed=needed, probability=probability, missing_hours=missing)
    return replace(found, plan=said)
