"""Groups shots so that as few different settings as possible are in use: fewer to set, to check and to explain. Pure.

Two groups at a time are put together, those first that lose least by it, as long as the plan stays in time and no error
grows over its limit. That is a good grouping, not a proved one: the exact question is a covering problem.
"""

from collections.abc import Callable, Sequence
from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

from pemlo.core.arrays import Floats
from pemlo.core.project.project import Project
from pemlo.core.trade.best_plan import PASSES, Goal
from pemlo.core.trade.levers import keeps_pins
from pemlo.core.trade.options import Options

Ids = npt.NDArray[np.intp]


@dataclass(frozen=True)
class _Group:
    """Shots that share settings, and what they could share.

    Attributes
    ----------
    shots : tuple of int
        Places among the shots.
    ids : (K,) ndarray
        Settings that all of them may have, by number, rising.
    hours, squares : (K,) ndarray
        Middle machine-hours, and weighted squares of errors, of all of them together.
    now : int
        The settings that they have.
    """

    shots: tuple[int, ...]
    ids: Ids
    hours: Floats
    squares: Floats
    now: int

    def loss(self, goal: Goal) -> Floats:
        """Return what counts against each of the settings: error for the best picture, else hours."""
        return self.squares if goal == "picture" else self.hours

    def at(self, settings: int) -> int:
        return int(np.searchsorted(self.ids, settings))


@dataclass(frozen=True)
class FewSettings:
    """How many different settings a plan had and has, and the machine-hours that this takes more, median."""

    before: int
    after: int
    more_hours: float


def with_few_settings(
    project: Project,
    options: Sequence[Options],
    chosen: Sequence[int],
    goal: Goal,
    in_time: Callable[[Floats], bool],
    most_ratio: float,
) -> tuple[tuple[int, ...], FewSettings]:
    """Return a plan with fewer different settings, and what that takes.

    Parameters
    ----------
    project : Project
    options : sequence of Options
        Of every shot.
    chosen : sequence of int
        The plan: places among them.
    goal : str
        Of the plan.
    in_time : callable
        Whether draws of the film's hours are in time.
    most_ratio : float
        Largest error over its ceiling that the plan may have; NaN if no error is known.
    """
    numbers: dict[tuple[object, ...], int] = {}
    ids = [
        np.array([numbers.setdefault(row, len(numbers)) for row in shot_options.settings.rows()], np.intp)
        for shot_options in options
    ]
    places = [dict(zip(of.tolist(), range(len(of)), strict=True)) for of in ids]
    groups: dict[int, _Group] = {}
    for number, (shot, one, at) in enumerate(zip(project.shots, options, chosen, strict=True)):
        ratio = np.nan_to_num(one.error / one.ceiling, nan=0.0)
        pinned = np.array([keeps_pins(shot, settings) for settings in one.settings])
        may = one.plannable & pinned & (ratio <= max(np.nan_to_num(most_ratio, nan=1.0), 1.0) * (1 + PASSES))
        may[at] = True
        usable = np.flatnonzero(may)
        usable = usable[np.argsort(ids[number][usable])]
        squares = shot.weight * np.nan_to_num(one.error[usable], nan=0.0) ** 2
        own = _Group((number,), ids[number][usable], one.middle_hours[usable], squares, int(ids[number][at]))
        same = groups.get(own.now)
        groups[own.now] = own if same is None else _together(same, own, own.now)

    def film(changed: _Group | None = None) -> Floats:
        again = set() if changed is None else set(changed.shots)
        parts = [group for group in groups.values() if not again & set(group.shots)]
        parts += [] if changed is None else [changed]
        rows = [options[shot].draws(places[shot][part.now]) for part in parts for shot in part.shots]
        return np.asarray(np.sum(rows, axis=0))

    before, hours = len(groups), float(np.median(film()))
    late = not in_time(film())
    refused: set[frozenset[int]] = set()
    while True:
        best = _best_pair(list(groups.values()), goal, refused)
        if best is None:
            break
        first, second, merged = best
        draws = film(merged)
        if in_time(draws) or (late and np.median(draws) <= np.median(film())):
            del groups[first.now], groups[second.now]
            taken = groups.get(merged.now)
            groups[merged.now] = merged if taken is None else _together(taken, merged, merged.now)
        else:
            refused.add(frozenset(merged.shots))
    after = [0] * len(options)
    for group in groups.values():
        for place in group.shots:
            after[place] = places[place][group.now]
    return tuple(after), FewSettings(before, len(groups), float(np.median(film())) - hours)


def _together(group: _Group, other: _Group, now: int) -> _Group:
    common, mine, theirs = np.intersect1d(group.ids, other.ids, assume_unique=True, return_indices=True)
    return _Group(
        (*group.shots, *other.shots),
        common,
        group.hours[mine] + other.hours[theirs],
        group.squares[mine] + other.squares[theirs],
        now,
    )


def _best_pair(
    groups: Sequence[_Group], goal: Goal, refused: set[frozenset[int]]
) -> tuple[_Group, _Group, _Group] | None:
    """Return the two groups that lose least by having the same settings, and them together; None if none can."""
    best: tuple[float, _Group, _Group, _Group] | None = None
    for number, group in enumerate(groups):
        for other in groups[number + 1 :]:
            if frozenset((*group.shots, *other.shots)) in refused:
                continue
            both = _together(group, other, group.now)
            if not len(both.ids):
                continue
            loss = both.loss(goal)
            at = int(np.argmin(loss))
            now = group.loss(goal)[group.at(group.now)] + other.loss(goal)[other.at(other.now)]
            if best is None or loss[at] - now < best[0]:
                best = float(loss[at] - now), group, other, _Group(
                    both.shots, both.ids, both.hours, both.squares, int(both.ids[at])
                )  # fmt: skip
    return None if best is None else best[1:]
