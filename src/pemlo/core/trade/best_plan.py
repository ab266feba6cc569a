"""Chooses one option for each shot, exactly: the best picture in time, the cheapest that passes, or what is missing.

Pure NumPy and SciPy. Hours are draws whose errors go together: a plan is in time if its hours with the wanted
chance are no more than there are.
"""

from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import Literal

import numpy as np
import numpy.typing as npt

from pemlo.core.arrays import Floats
from pemlo.core.progress import Monitor, Unwatched
from pemlo.core.project.settings import LeverName
from pemlo.core.trade.frontier import frontier
from pemlo.core.trade.least_squares import Choice, least_sum
from pemlo.core.trade.options import Options

Goal = Literal["picture", "hours", "missing"]
GOALS: tuple[Goal, ...] = ("picture", "hours", "missing")
PASSES = 1e-9  # an error passes its ceiling if it is above by no more than rounding
_TIGHTENINGS, _MOST_CHANGES = 12, 100
_PASSED_BY_EYE = 0.01  # codes; it only breaks ties
_CLOSE = 0.002  # of the hours there are: nearer to them a plan need not come


@dataclass(frozen=True)
class PlanRequest:
    """What is wanted of a plan.

    Attributes
    ----------
    goal : str
        ``picture``: the least of the worst error over its ceiling, then the least weighted sum of squares, in time.
        ``hours``: the fewest machine-hours with every error under its ceiling.
        ``missing``: as ``hours``, to learn what is short.
    available_h : float
        Machine-hours before the deadline.
    confidence : float
        Chance with which they must do.
    weights : tuple of float
        How much each shot's error counts, in the order of the shots; empty for all alike.
    alike : tuple of str
        Levers that must stand alike in all shots.
    """

    goal: Goal
    available_h: float
    confidence: float
    weights: tuple[float, ...] = ()
    alike: tuple[LeverName, ...] = ()


@dataclass(frozen=True)
class Plan:
    """An option for each shot, and what they come to.

    Attributes
    ----------
    feasible : bool
        Whether the goal is reached: in time for ``picture``, every error under its ceiling for ``hours``, and both for
        ``missing``.
    chosen : tuple of int
        Place of the option among each shot's.
    hours : (N,) ndarray
        Draws of the film's machine-hours.
    needed : float
        Machine-hours with the chance asked for.
    probability : float
        Of doing with the hours there are.
    worst_ratio : float
        Of error over ceiling, of the shots whose error is known; NaN if none is.
    missing_hours : float
        Machine-hours that are short with the chance asked for; 0 if none are.
    stretch : float
        For ``missing``: by how much all ceilings would have to be higher for the hours there are to do; NaN if no
        stretch would, or none is needed.
    gap : float
        The share of its weighted sum of squared errors by which another plan's can be less, at most; 0 where this is
        proved to be the best.
    """

    goal: Goal
    feasible: bool
    chosen: tuple[int, ...]
    hours: Floats
    needed: float
    probability: float
    worst_ratio: float
    missing_hours: float
    stretch: float = float("nan")
    gap: float = 0.0

    @property
    def proved(self) -> bool:
        """Whether it is proved that there is no better one."""
        return self.gap == 0.0


def best_plan(options: Sequence[Options], request: PlanRequest, monitor: Monitor | None = None) -> Plan:
    """Return the best plan.

    Levers that must be alike are tried value by value; the best of these plans is the best of all.

    Raises
    ------
    Cancelled
        From the monitor.
    """
    watch = monitor or Unwatched()
    if not options:
        return Plan(request.goal, True, (), np.zeros(1), 0.0, 1.0, float("nan"), 0.0)
    groups = _groups(options, request.alike)
    plans = []
    for number, group in enumerate(groups):
        watch.step(number / len(groups), "Looking for the best plan")
        plans.append(_best_among(options, group, request, watch))
    return min(plans, key=lambda plan: _rank(plan, options, request))


Among = tuple[npt.NDArray[np.intp], ...]


def usable_of(options: Sequence[Options]) -> Among:
    """Return the options of each shot that a plan may choose."""
    return tuple(np.flatnonzero(shot_options.plannable) for shot_options in options)


def _groups(options: Sequence[Options], alike: Sequence[LeverName]) -> list[Among]:
    """Return, for each set of values that all shots can have, the options of each shot that have it."""
    usable = usable_of(options)
    if not alike:
        return [usable]

    def values(one: Options, option: np.intp) -> tuple[object, ...]:
        return tuple(getattr(one.settings[int(option)], name) for name in alike)

    by_value = [
        {value: [k for k in among if values(one, k) == value] for value in {values(one, k) for k in among}}
        for one, among in zip(options, usable, strict=True)
    ]
    common = [value for value in by_value[0] if all(value in found for found in by_value)]
    # Where no value can be had by all, what was asked is all there is.
    groups = [tuple(np.array(found[value], np.intp) for found in by_value) for value in sorted(common, key=repr)]
    return groups or [usable]


def _rank(plan: Plan, options: Sequence[Options], request: PlanRequest) -> tuple[float, ...]:
    ratio = 0.0 if np.isnan(plan.worst_ratio) else plan.worst_ratio
    if request.goal == "picture":
        return float(not plan.feasible), plan.missing_hours, ratio, _squares(plan, options, request)
    return max(ratio - 1.0, 0.0) if ratio > 1 + PASSES else 0.0, plan.needed


def _squares(plan: Plan, options: Sequence[Options], request: PlanRequest) -> float:
    weights = request.weights or (1.0,) * len(options)
    errors = [one.error[k] for one, k in zip(options, plan.chosen, strict=True)]
    return float(np.nansum(np.array(weights) * np.square(errors)))


def _by_eye(options: Options, among: npt.NDArray[np.intp]) -> tuple[Floats, npt.NDArray[np.intp]]:
    """Return what stands for errors, codes, and which options are worth choosing, where no error is known.

    It keeps the picture that was asked for, as cheaply as that can be had, or takes the fewest hours that pass. That
    counts for next to nothing to the eye, so that it is given up before anything that is known to show.
    """
    hours = options.middle_hours[among]
    cheapest = int(np.argmin(hours))
    as_asked = np.flatnonzero(options.same_picture[among])
    if not len(as_asked):
        return np.zeros(len(among)), np.array([cheapest], np.intp)
    first = int(as_asked[np.argmin(hours[as_asked])])
    kept = np.array([first, cheapest] if hours[cheapest] < hours[first] else [first], np.intp)
    return np.where(options.same_picture[among], 0.0, _PASSED_BY_EYE), kept


HourRows = npt.NDArray[np.float32]


class Reduced:
    """Options of every shot that are worth choosing: not beaten in hours and error, fewest hours last."""

    def __init__(self, options: Sequence[Options], among: Among) -> None:
        self.options = options
        self.at: list[npt.NDArray[np.intp]] = []
        self.hours: list[Floats] = []
        self.ratio: list[Floats] = []
        self.error: list[Floats] = []
        self._draws: dict[int, HourRows] = {}
        self.is_known: list[bool] = []  # whether anything is known of what may be chosen, and of what passes
        for one, usable in zip(options, among, strict=True):
            hours = one.middle_hours[usable]
            is_known = not (np.isnan(one.ceiling) or np.isnan(one.error[usable]).all())
            if is_known:
                error = one.error[usable]
                kept = frontier(hours, error)
            else:
                error, kept = _by_eye(one, usable)
            self.is_known.append(is_known)
            self.at.append(usable[kept])
            self.hours.append(hours[kept])
            self.error.append(error[kept])
            self.ratio.append(error[kept] / one.ceiling if is_known else np.zeros(len(kept)))

    def draws_of(self, number: int) -> HourRows:
        """Return draws of the hours of all options of a shot that are worth choosing, (K, N)."""
        if number not in self._draws:
            self._draws[number] = self.options[number].hours[self.at[number]]
        return self._draws[number]

    def total(self, chosen: Sequence[int]) -> Floats:
        """Return draws of the film's hours with the chosen of the reduced options."""
        rows = [options.draws(int(at[k])) for options, at, k in zip(self.options, self.at, chosen, strict=True)]
        return np.asarray(np.sum(rows, axis=0))

    def middle(self, chosen: Sequence[int]) -> float:
        """Return the middle hours of the chosen together."""
        return float(sum(hours[k] for hours, k in zip(self.hours, chosen, strict=True)))

    def worst(self, chosen: Sequence[int]) -> float:
        """Return the worst ratio of the chosen; NaN if no error is known."""
        known = [ratio[k] for is_known, ratio, k in zip(self.is_known, self.ratio, chosen, strict=True) if is_known]
        return float(max(known)) if known else float("nan")

    def places(self, chosen: Sequence[int]) -> tuple[int, ...]:
        """Return where the chosen stand among all options of each shot."""
        return tuple(int(at[k]) for at, k in zip(self.at, chosen, strict=True))

    def fastest(self, most: float = np.inf, *, nearest: bool = False) -> tuple[int, ...] | None:
        """Return the option with the fewest hours of each shot whose ratio is no more.

        None if a shot has none; or, if `nearest`, such a shot's least ratio is taken.
        """
        found = []
        for hours, ratio in zip(self.hours, self.ratio, strict=True):
            limit = max(most, float(ratio.min())) if nearest else most
            passing = np.flatnonzero(ratio <= limit + PASSES)
            if not len(passing):
                return None
            found.append(int(passing[np.argmin(hours[passing])]))
        return tuple(found)


def _best_among(options: Sequence[Options], among: Among, request: PlanRequest, watch: Monitor) -> Plan:
    reduced = Reduced(options, among)
    if request.goal == "picture":
        return _best_picture(reduced, request, watch)
    # A shot that cannot be brought under its ceiling comes as near as it can.
    chosen = reduced.fastest(1.0, nearest=True)
    assert chosen is not None
    plan = _plan(reduced, request, chosen)
    if request.goal == "missing" and not plan.feasible:
        picture = _best_picture(reduced, replace(request, goal="picture"), watch)
        plan = replace(plan, stretch=picture.worst_ratio if picture.feasible else float("nan"))
    return plan


def _best_picture(reduced: Reduced, request: PlanRequest, watch: Monitor) -> Plan:
    """Return the best picture in time.

    The exact problem is in the middle hours of each option; the middle hours that may be spent are tightened until the
    draws say that the chance asked for holds, and widened while they leave hours over.
    """
    fastest = reduced.fastest()
    assert fastest is not None
    least = _plan(reduced, request, fastest)
    if least.needed > request.available_h:
        return least
    best, low, high, gap = least, reduced.middle(fastest), np.inf, 0.0
    budget = request.available_h * low / least.needed if least.needed > 0 else request.available_h
    for tried in range(_TIGHTENINGS):
        watch.step(tried / _TIGHTENINGS, "Looking for the best plan")
        found = _solve(reduced, request, budget)
        plan = _plan(reduced, request, found.chosen)
        if plan.needed <= request.available_h:
            best, low, gap = plan, budget, found.gap
        else:
            high = budget
        close = _CLOSE * request.available_h
        if _is_cleanest(reduced, best) or high - low <= close:
            break
        # How hours with the chance asked for go with middle hours changes little from plan to plan.
        guess = request.available_h * reduced.middle(_places(reduced, plan)) / max(plan.needed, 1e-12)
        if plan is best and guess <= low + close:
            break
        budget = min(max(guess, low + close / 2), high - close / 2)
    return replace(_bettered(reduced, request, best), gap=gap)


def _bettered(reduced: Reduced, request: PlanRequest, plan: Plan) -> Plan:
    """Return a plan that no change of one shot betters with the chance asked for, with no worse a ratio.

    Budgets are in middle hours, and may leave some room at that chance.
    """
    chosen = list(_places(reduced, plan))
    weights = request.weights or (1.0,) * len(chosen)
    total = plan.hours
    for _ in range(_MOST_CHANGES):
        best, change = 0.0, None
        for number, k in enumerate(chosen):
            # From the most expensive on: what is cleaner than now stands before it.
            cleaner = np.arange(k)
            if not len(cleaner):
                continue
            gain = weights[number] * (reduced.error[number][k] ** 2 - reduced.error[number][cleaner] ** 2)
            worth = cleaner[gain > best]
            rest = total - reduced.draws_of(number)[k]
            needed = (
                np.quantile(rest + reduced.draws_of(number)[worth], request.confidence, axis=1)
                if len(worth)
                else np.zeros(0)
            )
            in_time = worth[needed <= request.available_h]
            if len(in_time):
                best, change = float(gain[in_time[0]]), (number, int(in_time[0]), rest)
        if change is None:
            break
        number, k, rest = change
        chosen[number] = k
        total = rest + reduced.draws_of(number)[k]
    return _plan(reduced, request, chosen)


def _places(reduced: Reduced, plan: Plan) -> tuple[int, ...]:
    return tuple(int(np.flatnonzero(at == k)[0]) for at, k in zip(reduced.at, plan.chosen, strict=True))


def _is_cleanest(reduced: Reduced, plan: Plan) -> bool:
    """Whether every shot has its most expensive option: more hours buy nothing."""
    return all(place == 0 for place in _places(reduced, plan))


def _solve(reduced: Reduced, request: PlanRequest, budget: float) -> Choice:
    """Return the best picture whose middle hours are within a budget that the fastest options keep.

    The least worst ratio is the smallest at which the fastest options that have it are within the budget; among options
    that have it, the least weighted sum of squares is sought.
    """
    ratios = np.unique(np.concatenate(reduced.ratio))
    low, high = 0, len(ratios) - 1
    while low < high:
        middle = (low + high) // 2
        chosen = reduced.fastest(float(ratios[middle]))
        if chosen is not None and reduced.middle(chosen) <= budget:
            high = middle
        else:
            low = middle + 1
    weights = request.weights or (1.0,) * len(reduced.at)
    costs = [w * error**2 for w, error in zip(weights, reduced.error, strict=True)]
    passing = [np.flatnonzero(ratio <= ratios[high] + PASSES) for ratio in reduced.ratio]
    found = least_sum(costs, reduced.hours, passing, budget)
    if found is not None:
        return found
    fallback = reduced.fastest(float(ratios[high]))  # rounding, where hours or errors are absurd
    assert fallback is not None
    return Choice(fallback, 1.0)


def _plan(reduced: Reduced, request: PlanRequest, chosen: Sequence[int]) -> Plan:
    hours = reduced.total(chosen)
    needed = float(np.quantile(hours, request.confidence))
    worst = reduced.worst(chosen)
    in_time = needed <= request.available_h
    passes = not worst > 1 + PASSES
    feasible = {"picture": in_time, "hours": passes, "missing": in_time and passes}[request.goal]
    return Plan(
        request.goal,
        feasible,
        reduced.places(chosen),
        hours,
        needed,
        float(np.mean(hours <= request.available_h)),
        worst,
        max(needed - request.available_h, 0.0),
    )
