"""From trials to what the fit sees: log seconds on the reference machine, stage by stage where stages were timed.

May import the plan. Pure.
"""

from dataclasses import dataclass

import numpy as np

from pemlo.core.arrays import Floats
from pemlo.core.cost.along import places
from pemlo.core.cost.frame_model import Frames, frames_of
from pemlo.core.plan.project import Project
from pemlo.core.plan.settings import FrameSettings
from pemlo.core.plan.trials import STAGES, Trial

# A stage is read to about half a percent of the whole frame, and a remainder below two percent of it is lost in that.
STAGE_READING = 0.005
LEAST_REMAINDER = 0.02


@dataclass(frozen=True)
class Observations:
    """What was timed of one shot, K readings.

    Attributes
    ----------
    log_seconds : (K,) ndarray
        On the reference machine.
    frames : Frames of shape (K,)
    stages : (K, 5) ndarray
        1 for each stage that the reading holds.
    place : (K,) ndarray
        Where in the shot, 0 to 1.
    reading_variance : (K,) ndarray
        Added to the repeatability's variance, log squared.
    trial : (K,) ndarray of int
        Which trial of the project each reading is from.
    """

    log_seconds: Floats
    frames: Frames
    stages: Floats
    place: Floats
    reading_variance: Floats
    trial: np.ndarray

    def __len__(self) -> int:
        return len(self.log_seconds)


def observations(project: Project) -> dict[str, Observations]:
    """Return the readings of every shot that has been timed.

    A trial's times are brought to the reference machine by the speed of the machine that ran it; a machine that the
    brief does not list counts as the reference.
    """
    speeds = {machine.name: machine.speed for machine in project.machines}
    denoisers = project.denoisers()
    by_shot: dict[str, list[tuple[int, Trial]]] = {}
    for index, trial in enumerate(project.trials):
        by_shot.setdefault(trial.shot, []).append((index, trial))
    return {
        shot.name: _of_shot(by_shot[shot.name], speeds, (shot.first, shot.last), project.size_of(shot), denoisers)
        for shot in project.shots
        if shot.name in by_shot
    }


def _of_shot(
    trials: list[tuple[int, Trial]],
    speeds: dict[str, float],
    span: tuple[int, int],
    size: tuple[int, int],
    denoisers: tuple[str, ...],
) -> Observations:
    rows = [
        (index, trial, *reading, speeds.get(trial.machine, 1.0))
        for index, trial in trials
        for reading in readings(trial)
    ]
    timed = [trial for _, trial, *_ in rows]
    return Observations(
        np.array([np.log(seconds * speed) for _, _, seconds, _, _, speed in rows]),
        frames_of(list(timed), [size] * len(timed), denoisers),
        np.array([stages for _, _, _, stages, _, _ in rows]),
        places(np.array([float(trial.frame) for trial in timed]), *span),
        np.array([variance for *_, variance, _ in rows]),
        np.array([index for index, *_ in rows]),
    )


def readings(trial: Trial) -> list[tuple[float, Floats, float]]:
    """Split a trial into independent readings: seconds, which stages they hold, and added variance (log squared).

    Stages that were timed are readings of their own, and what they leave of the whole is one more; so the same
    second is never counted twice. If the stages do not fit into the whole frame, the whole is believed alone.
    """
    taken = {stage: seconds for stage, seconds in trial.stage_seconds().items() if seconds > 0}
    # A stage timed at nothing is no reading in logarithms, yet it takes no part in the remainder either.
    without = {stage for stage, seconds in trial.stage_seconds().items() if seconds == 0}
    remainder = trial.seconds - sum(taken.values())
    if not taken or remainder < -LEAST_REMAINDER * trial.seconds:
        return [(trial.seconds, np.ones(len(STAGES)), 0.0)]
    found = [
        (seconds, np.array([float(stage == name) for name in STAGES]), (STAGE_READING * trial.seconds / seconds) ** 2)
        for stage, seconds in taken.items()
    ]
    rest = np.array([float(name not in taken and name not in without) for name in STAGES])
    if rest.any() and remainder > LEAST_REMAINDER * trial.seconds:
        found.append((remainder, rest, (STAGE_READING * trial.seconds / remainder) ** 2))
    return found


def noise_centre(project: Project) -> float:
    """Return where the noise's median is expected, log of the threshold scale, before any adaptive trial is timed.

    People choose a threshold that bites between the least and the most samples: half-way, on a log scale.
    """
    asked: list[FrameSettings] = [shot.asked for shot in project.shots if shot.asked.noise_threshold is not None]
    adaptive = asked or [trial for trial in project.trials if trial.noise_threshold is not None]
    if not adaptive:
        return 0.0
    centres = [
        np.log(s.noise_threshold or 1.0) + 0.25 * (np.log(s.least_samples) + np.log(s.samples)) for s in adaptive
    ]
    return float(np.median(centres))
