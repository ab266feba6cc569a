"""Takes back what a plan changes for next to nothing: people have to set, check and remember every change. Pure."""

from bisect import insort
from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass, field

import numpy as np
import numpy.typing as npt

from pemlo.core.arrays import Floats
from pemlo.core.interval import Interval
from pemlo.core.project.project import Project
from pemlo.core.project.settings import ShotSettings
from pemlo.core.project.shots import Shot
from pemlo.core.trade.best_plan import PASSES, Goal
from pemlo.core.trade.levers import count_changed, keeps_pins
from pemlo.core.trade.options import Options
from pemlo.core.trade.prices import FREE, LEAST_SHARE
from pemlo.core.trade.settings_table import FIELDS

Ints = npt.NDArray[np.intp]
FEW_SHOTS = 10
SAME_PICTURE = 0.05  # of an error: nobody sees less (common practice, no source)


@dataclass(frozen=True)
class _Choice:
    """One option of a shot as a plan may have it."""

    options: Options
    place: int

    @property
    def settings(self) -> ShotSettings:
        return self.options.settings[self.place]

    @property
    def hours(self) -> Floats:
        return self.options.draws(self.place)

    @property
    def error(self) -> float:
        return float(self.options.error[self.place])


@dataclass(frozen=True, order=True)
class _Offer:
    """Something simpler that a shot can do with: the hours it gives for each lever less, which decide the order."""

    rate: float
    number: int
    place: int
    gives: float = field(compare=False)
    simpler: _Choice = field(compare=False)


def simplified(
    project: Project,
    options: Sequence[Options],
    chosen: Sequence[int],
    in_time: Callable[[Floats], bool],
    most_ratio: float,
    goal: Goal,
    hours_with: Callable[[Shot, ShotSettings], Floats] | None,
) -> tuple[tuple[Options, ...], tuple[int, ...]]:
    """Return a plan with fewer changed levers.

    Where a shot can do with fewer changed levers for less than `LEAST_SHARE` of the film's machine-hours as asked a
    lever - of those of `FEW_SHOTS` mean shots, where there are more -, it does, the most useless first, unless that
    would make the plan late, or break a ceiling. How often an
    unfinished frame is saved is one decision for the film: it is taken back for all shots, or stays in all.

    Parameters
    ----------
    project : Project
    options : sequence of Options
        Of every shot.
    chosen : sequence of int
        The plan: places among them.
    in_time : callable
        Whether draws of the film's hours are in time; a plan that is late already is never made later.
    most_ratio : float
        The plan's worst error over its ceiling; NaN if no error is known.
    goal : str
        Of the plan: for the best picture, errors may not grow by more than anybody sees.
    hours_with : callable, optional
        Draws of a shot's hours with settings that are not among its options; without it saves stay as they are.

    Returns
    -------
    options, chosen
        Options of a shot have one more where that is what was chosen.
    """
    choices = [_Choice(one, place) for one, place in zip(options, chosen, strict=True)]
    planned = [choice.error for choice in choices]
    changed = [_changed(shot, one) for shot, one in zip(project.shots, options, strict=True)]
    late = not in_time(_total(choices))
    # Of the hours as asked: what a plan saves is measured by them.
    film = float(sum(shot_options.middle_hours[0] for shot_options in options))
    # Of ten shots like the mean one: among hundreds, no change of one shot would be more than next to nothing.
    little = LEAST_SHARE * film * min(1.0, FEW_SHOTS / max(len(options), 1))
    offers: list[_Offer] = []

    def ask(number: int) -> None:
        """Put what a shot can do with in place of what it could before, in the order in which it is tried."""
        nonlocal offers
        shot, now = project.shots[number], choices[number]
        offers = [offer for offer in offers if offer.number != number]
        for place, (simpler, less) in enumerate(
            _simpler(shot, now, planned[number], changed[number], most_ratio, goal)
        ):
            gives = float(np.median(simpler.hours) - np.median(now.hours))
            if gives < less * little:
                insort(offers, _Offer(gives / less, number, place, gives, simpler))

    for number in range(len(choices)):
        ask(number)
    while True:
        total = _total(choices)
        taken = next(
            (
                offer
                for offer in offers
                if in_time(total - choices[offer.number].hours + offer.simpler.hours) or (late and offer.gives <= 0)
            ),
            None,
        )
        if taken is None:
            break
        choices[taken.number] = taken.simpler
        ask(taken.number)
    if hours_with is not None:
        choices = _without_saves(project, choices, in_time, hours_with, film)
    return tuple(choice.options for choice in choices), tuple(choice.place for choice in choices)


def _total(choices: Sequence[_Choice]) -> Floats:
    return np.asarray(np.sum([choice.hours for choice in choices], axis=0))


def _simpler(
    shot: Shot, now: _Choice, planned: float, changed: Ints, most_ratio: float, goal: Goal
) -> Iterator[tuple[_Choice, int]]:
    """Yield the quickest options that pass with one changed lever less, two less, and so on; and how many less."""
    options = now.options
    ratio = np.nan_to_num(options.error / options.ceiling, nan=0.0)
    limit = max(np.nan_to_num(most_ratio, nan=1.0), 1.0) * (1 + PASSES)
    # What passes must pass; over its ceiling already, a picture may be as bad as the worst of the plan.
    passes = options.plannable & (ratio <= (limit if now.error > options.ceiling else 1 + PASSES))
    if goal == "picture" and not now.error > options.ceiling:
        passes &= ~(options.error > planned + max(FREE, SAME_PICTURE * planned))
    count = int(changed[now.place])
    for fewer in range(count):
        simpler = np.flatnonzero(passes & (changed == fewer))
        by_hours = simpler[np.argsort(options.middle_hours[simpler])]
        place = next((int(k) for k in by_hours if keeps_pins(shot, options.settings[k])), None)
        if place is not None:
            yield _Choice(options, place), count - fewer


def _changed(shot: Shot, options: Options) -> Ints:
    """Return how many levers each option changes, (K,); saves are one decision for the film, and not counted."""
    saves = options.settings.differing(shot.asked)[:, FIELDS.index("saves")]
    return count_changed(shot.asked, options.settings) - saves


def _without_saves(
    project: Project,
    choices: Sequence[_Choice],
    in_time: Callable[[Floats], bool],
    hours_with: Callable[[Shot, ShotSettings], Floats],
    film: float,
) -> list[_Choice]:
    """Return the choices with saves as asked in all shots, if saving gives next to nothing over the film."""
    back = []
    for shot, now in zip(project.shots, choices, strict=True):
        settings = now.settings.model_copy(update={"saves": shot.asked.saves})
        if settings == now.settings or "saves" in shot.pins:
            back.append(now)
        elif now.options.has(settings):
            back.append(_Choice(now.options, now.options.place(settings)))
        else:
            back.append(_Choice(_with_saves(now, settings, hours_with(shot, settings)), len(now.options.settings)))
    before, after = _total(choices), _total(back)
    gives = float(np.median(after) - np.median(before))
    needless = gives < LEAST_SHARE * film and (in_time(after) or gives <= 0)
    return back if needless else list(choices)


def _with_saves(now: _Choice, settings: ShotSettings, hours: Floats) -> Options:
    """Return options with one more, that is like one of them but for its saves: those do not change the picture."""
    options, at = now.options, now.place
    error = Interval(float(options.low[at]), float(options.error[at]), float(options.high[at]))
    eye = 0 if options.eye is None else int(options.eye[at])
    flicker = float("nan") if options.flicker is None else float(options.flicker[at])
    usable, spent = bool(options.usable[at]), float(options.spent[at])
    return options.and_one(settings, hours, spent, error, usable=usable, eye=eye, flicker=flicker)
