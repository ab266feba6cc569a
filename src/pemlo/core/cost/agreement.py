"""Whether the trials of a shot agree with each other and with any cost that is known here. Pure NumPy.

A forecast from trials that do not agree is none, however narrow it looks. One reading that is far off among many that
agree is only doubted; but where it cannot be known which one is wrong, or too many are, no verdict should be given.
"""

from collections.abc import Collection
from itertools import combinations

import numpy as np

from pemlo.core.cost.as_timed import nearest_doubted
from pemlo.core.cost.curves import TrialFit, largest_miss, trial_fits
from pemlo.core.cost.fit_input import FitInput
from pemlo.core.cost.posterior import Disagreement, Fit, Readings
from pemlo.core.cost.priors import DOUBTFUL, REPEAT_SPREAD
from pemlo.core.cost.repeats import groups_of_repeats, repeat_belief

MOST_OFF = 1.5  # a trial that counts and is missed by more than this factor fits no cost that is known here
NOTICED = 1.25  # a trial that is missed by less in most draws is not what is wrong
MOST_DOUBTED = 1 / 3  # of a shot's trials
TOO_FEW = 3  # trials of which any one may be the wrong one, whatever the fit prefers
DEVIATIONS = 3.0  # of what repeats show, by which trials may be off or differ where the machine does other things


def disagreements(fit: Fit, given: FitInput) -> tuple[Disagreement, ...]:
    """Return what is wrong with the trials of each shot, at most one thing a shot."""
    scatter = _scatter(fit, given)
    most_off = max(MOST_OFF, float(np.exp(DEVIATIONS * scatter)))
    guessed = {index for index, trial in enumerate(given.trials) if trial.assumed}
    # Only repeats of one way of rendering contradict each other: another may cost anything.
    asked = {shot.name: (shot.asked.way, shot.asked.way_value) for shot in given.shots}
    other_ways = {
        index for index, trial in enumerate(given.trials) if (trial.way, trial.way_value) != asked.get(trial.shot)
    }
    repeats: dict[str, list[list[tuple[float, int]]]] = {}
    for times in groups_of_repeats(given):
        repeats.setdefault(given.trials[times[0][1]].shot, []).append(times)
    generator = (
        _of_repeats(shot.name, repeats.get(shot.name, []), scatter)
        or _of_asked(fit, shot.name, readings)
        or _of_fit(fit, shot.name, readings, most_off, guessed | other_ways)
        for shot in given.shots
        if (readings := fit.shots[shot.name].readings) is not None
    )
    return tuple(disagreement for disagreement in generator if disagreement is not None)


def _scatter(fit: Fit, given: FitInput) -> float:
    """Return how well times repeat; only repeats can show that it is worse than a stopwatch does."""
    belief = repeat_belief(given)
    return belief.sd if belief.spread == REPEAT_SPREAD else max(belief.sd, fit.spread.repeat_sd)


def _of_repeats(shot: str, groups: list[list[tuple[float, int]]], scatter: float) -> Disagreement | None:
    """Return the two trials of one frame and the same settings that differ most, if they differ by too much."""
    most = max(MOST_OFF, float(np.exp(DEVIATIONS * np.sqrt(2) * scatter)))
    pairs = [
        (float(np.exp(abs(one[0] - other[0]))), max(one, other)[1], min(one, other)[1])
        for times in groups
        for one, other in combinations(times, 2)
    ]
    factor, slow, quick = max(pairs, default=(1.0, -1, -1))
    return Disagreement(shot, "repeats", (slow, quick), factor) if factor > most else None


def _of_asked(fit: Fit, shot: str, readings: Readings) -> Disagreement | None:
    """Return the time nearest to what is asked, if all others make it look like a slip: they may be the wrong ones."""
    doubted = nearest_doubted(readings)
    if doubted is None:
        return None
    residuals = trial_fits(fit, shot)
    trials = sorted(
        (int(readings.seen.trial[number]) for number in doubted), key=lambda index: -residuals[index].widest
    )
    others = [residual for index, residual in residuals.items() if index not in trials]
    # Where the others do not agree among themselves either, nothing points at this one.
    if any(residual.inlier < DOUBTFUL for residual in others) or residuals[trials[0]].widest <= NOTICED:
        return None
    return Disagreement(shot, "asked", tuple(trials), 1.0 + residuals[trials[0]].off)


def _of_fit(fit: Fit, shot: str, readings: Readings, most_off: float, guessed: Collection[int]) -> Disagreement | None:
    # A guess that turns out wrong contradicts nothing.
    residuals = {index: residual for index, residual in trial_fits(fit, shot).items() if index not in guessed}
    if not residuals:
        return None
    off = {index: float(np.exp(abs(np.log1p(residual.off)))) for index, residual in residuals.items()}
    worst = tuple(sorted(off, key=lambda index: -off[index]))
    # A stage may be off where the whole frame is not: that is no matter for the verdict.
    doubted = tuple(
        index for index in worst if residuals[index].inlier < DOUBTFUL and residuals[index].widest > NOTICED
    )
    missed = tuple(index for index in worst if index not in doubted and off[index] > most_off)
    if len(residuals) > 1 and len(doubted) >= max(1, MOST_DOUBTED * len(residuals)):
        if len(residuals) <= TOO_FEW:
            return _open(fit, shot, residuals)
        return Disagreement(shot, "doubted", doubted, off[doubted[0]])
    unsure = (
        len(residuals) > 1
        and readings.sound < DOUBTFUL
        and any(residual.widest > NOTICED for residual in residuals.values())
    )
    if not doubted and unsure:
        return _open(fit, shot, residuals)
    if missed:
        return Disagreement(shot, "missed", missed, off[missed[0]])
    return None if fit.settled else Disagreement(shot, "unsettled", worst, 1.0)


def _open(fit: Fit, shot: str, residuals: dict[int, TrialFit]) -> Disagreement:
    worst = tuple(sorted(residuals, key=lambda index: -residuals[index].widest))
    return Disagreement(shot, "open", worst, largest_miss(fit, shot))
