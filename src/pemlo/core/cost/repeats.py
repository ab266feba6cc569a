"""How well times repeat, from trials of one frame with the same settings. Pure NumPy.

A stopwatch on a quiet machine repeats within a few percent. One that does other things does not, and only repeats can
tell that from a renderer that costs otherwise than is believed.
"""

from dataclasses import dataclass

import numpy as np

from pemlo.core.cost.fit_input import FitInput
from pemlo.core.cost.pairs import reference_seconds
from pemlo.core.cost.priors import REPEAT_SD, REPEAT_SPREAD
from pemlo.core.project.repeated import counted_once
from pemlo.core.project.trials import TimedFrame

FEWEST = 2  # differences from which on scatter is believed: of one alone, it may as well be a slip
OPEN_SPREAD = 1.0  # of the log of the repeatability, before anything was repeated
WORST = 0.3


@dataclass(frozen=True)
class RepeatBelief:
    """What is believed of the repeatability: its median, and the standard deviation of its log."""

    sd: float
    spread: float


def groups_of_repeats(given: FitInput) -> list[list[tuple[float, int]]]:
    """Return trials of one frame with the same settings: log seconds on the reference machine, and their indices."""
    alike: dict[tuple[object, ...], list[tuple[float, int]]] = {}
    once = counted_once(given.trials)
    for index, trial in enumerate(given.trials):
        if index in once and not trial.assumed:
            alike.setdefault(_key(trial), []).append((float(np.log(reference_seconds(given, trial))), index))
    return [times for times in alike.values() if len(times) > 1]


def _key(trial: TimedFrame) -> tuple[object, ...]:
    return (trial.shot, trial.frame, trial.region_percent, *trial.frame_fields().values())


def repeat_belief(given: FitInput) -> RepeatBelief:
    """Return what repeats tell of the repeatability; what is believed of a stopwatch where there are none.

    The largest deviation does not count, so that one slip among repeats does not make all times loose.
    """
    groups = groups_of_repeats(given)
    differences = sum(len(times) - 1 for times in groups)
    if differences < FEWEST:
        return RepeatBelief(REPEAT_SD, REPEAT_SPREAD)
    deviations = [
        abs(value - np.median([other for other, _ in times])) * np.sqrt(len(times) / (len(times) - 1))
        for times in groups
        for value, _ in times
    ]
    usual = sorted(deviations)[:-1]
    scatter = float(np.sqrt(np.sum(np.square(usual)) / len(usual)))
    measured, before = 2.0 * (differences - 1), OPEN_SPREAD**-2
    middle = (measured * np.log(max(scatter, REPEAT_SD / 4)) + before * np.log(REPEAT_SD)) / (measured + before)
    return RepeatBelief(float(min(np.exp(middle), WORST)), float(min((measured + before) ** -0.5, REPEAT_SPREAD)))
