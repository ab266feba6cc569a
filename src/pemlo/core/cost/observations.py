"""From trials to what the fit sees: log seconds on the reference machine, stage by stage where stages were timed.

Where a trial says what it spent or how noisy it is, that is read too. May import the plan. Pure.
"""

from collections.abc import Mapping
from dataclasses import dataclass, replace

import numpy as np
import numpy.typing as npt

from pemlo.core.arrays import Floats
from pemlo.core.cost.along import places
from pemlo.core.cost.fit_input import REFERENCE, FitInput, FitMachine
from pemlo.core.cost.frame_arrays import Frames, frames_of, rendered_pixels, spent_of
from pemlo.core.cost.frame_model import PARTS
from pemlo.core.cost.noise_shape import NoiseShape, ShotShapes, noise_shape_of, shot_shapes
from pemlo.core.project.repeated import counted_once
from pemlo.core.project.settings import CostFactors, FrameSettings
from pemlo.core.project.trials import STAGES, TimedFrame

# A stage is read to about half a percent of the whole frame, and a remainder below two percent of it is lost in that.
STAGE_READING = 0.005
LEAST_REMAINDER = 0.02
LEAST_STAGE = 1e-6  # of the whole
READ_BACK = 0.5
# Noise differs along a shot too, by about a tenth of the samples that are spent.
SAMPLES_READING = 0.08
# A sample in a part of a frame costs what one of the whole frame does to this deviation of its log.
REGION_SD = 0.4
# A guess of a time is right to a factor of 1.6 nine times in ten (common practice, no source).
GUESS_SD = 0.3
# A picture of n samples shows the noise of one to this deviation of its log, and over n to 1 / sqrt(n) more.
NOISE_READING = 0.06
# Another way of rendering follows the costs of the usual one only so nearly, log: its own times say more of it.
WAY_READING = 0.15
# How much of what other programs took was taken from the frame: between nothing and all of it. Half is added to the
# deviation of its log time (common practice, no source).
LOAD_SHARE = 0.5
# A limit is set where frames take a few times as long (common practice, no source): log, and its deviation.
BOUND_READING = 0.05
OVER_LIMIT, OVER_LIMIT_SD = np.log(2.0), 0.6


@dataclass(frozen=True)
class Observations:
    """What was timed and measured of one shot, K readings.

    Attributes
    ----------
    value : (K,) ndarray
        Log seconds on the reference machine; log samples or log noise where that was read.
    frames : Frames of shape (K,)
    mask : (K, 8) ndarray
        1 for each of `frame_model.PARTS` that the reading holds.
    place : (K,) ndarray
        Where in the shot, 0 to 1.
    reading_variance : (K,) ndarray
        Added to the repeatability's variance, log squared.
    shared : (K, K) ndarray
        Covariance of readings of one region of a frame: what all of it costs is only nearly known from it, log squared.
    trial : (K,) ndarray of int
        Which trial of the project each reading is from.
    whole : (K,) ndarray of bool
        Whether it is of a whole frame that was timed, and not guessed.
    other_way : (K,) ndarray of bool
        Whether it is of another way of rendering than the shot asks for.
    asked : Frames of shape ()
        The frame that is asked for.
    shapes : ShotShapes or None
        How noise is spread over the shot's frames, if pictures of it were measured.
    """

    value: Floats
    frames: Frames
    mask: Floats
    place: Floats
    reading_variance: Floats
    shared: Floats
    trial: np.ndarray
    whole: npt.NDArray[np.bool_]
    other_way: npt.NDArray[np.bool_]
    asked: Frames
    shapes: ShotShapes | None = None

    def __len__(self) -> int:
        return len(self.value)

    @property
    def timed(self) -> npt.NDArray[np.bool_]:
        """Which readings are times, (K,): only they follow how cost runs along the shot."""
        return is_time(self.mask)

    @property
    def bounds(self) -> npt.NDArray[np.bool_]:
        """Which readings only say that a frame takes longer, (K,)."""
        return is_bound(self.mask)


@dataclass(frozen=True)
class Reading:
    """One thing read of a trial: its value, which of `frame_model.PARTS` it holds, and added variance (log squared)."""

    value: float
    mask: Floats
    variance: float


def is_time(mask: Floats) -> npt.NDArray[np.bool_]:
    """Return which readings are times, (...), from what they hold, (..., 8)."""
    return np.asarray(mask[..., : len(STAGES)].any(axis=-1))


def is_bound(mask: Floats) -> npt.NDArray[np.bool_]:
    """Return which readings only say that a frame takes longer, (...), from what they hold, (..., 8)."""
    return np.asarray(mask[..., PARTS.index("at_least")] > 0)


def observations(given: FitInput) -> dict[str, Observations]:
    """Return the readings of every shot that has been timed.

    A trial's times are brought to the reference machine, alone, by the speed that a frame has on the machine that ran
    it, with as many at once; a machine that the
    brief does not list counts as the reference. Trials that are left out say nothing.
    """
    by_shot: dict[str, list[tuple[int, TimedFrame]]] = {}
    once = counted_once(given.trials)
    for index, trial in enumerate(given.trials):
        if index not in once or not readings(trial):
            continue
        by_shot.setdefault(trial.shot, []).append((index, trial))
    for timed in by_shot.values():
        timed.sort(key=_in_order)  # so that the order in which they were typed decides nothing, to the last bit
    machines = given.machine
    return {
        shot.name: _of_shot(
            by_shot[shot.name],
            machines,
            (shot.first, shot.last),
            shot.size,
            given.cost_factors,
            shot.asked,
        )
        for shot in given.shots
        if shot.name in by_shot
    }


def _in_order(timed: tuple[int, TimedFrame]) -> tuple[object, ...]:
    trial = timed[1]
    return (trial.frame, trial.samples, trial.resolution_percent, trial.seconds, repr(trial))


def _of_shot(
    trials: list[tuple[int, TimedFrame]],
    machines: Mapping[str, FitMachine],
    span: tuple[int, int],
    size: tuple[int, int],
    cost_factors: CostFactors,
    asked: FrameSettings,
) -> Observations:
    usual = asked.switched
    rows = [
        (index, trial, reading, _speed(machines.get(trial.machine), trial))
        for index, trial in trials
        for reading in _read(trial, trials, asked)
    ]
    read = [trial for _, trial, *_ in rows]
    mask = np.array([reading.mask for _, _, reading, _ in rows])
    speed = np.where(is_time(mask) | is_bound(mask), [speed for *_, speed in rows], 1.0)
    shapes = _shapes([trial for _, trial in trials if trial.switched == usual and trial.region_percent is None], span)
    place = places(np.array([float(trial.frame) for trial in read]), *span)
    here = None if shapes is None else np.array([shapes.at(float(at)) for at in place])
    frames = frames_of(list(read), [size] * len(read), cost_factors, here)
    # What was spent is known where times are read, and predicted where it is the reading itself.
    spent = np.where(mask[:, PARTS.index("samples")] > 0, np.nan, frames.spent)
    seen_by = np.array([_seen(trial).median_samples if trial.noise_shape else 1.0 for trial in read])
    return Observations(
        np.log(np.array([reading.value for _, _, reading, _ in rows])) + np.log(speed),
        replace(frames, spent=spent, seen=seen_by),
        mask,
        place,
        np.array([reading.variance for _, _, reading, _ in rows]),
        _shared(read, mask) + _shared_by_ways(read, mask, (asked.way, asked.way_value)),
        np.array([index for index, *_ in rows]),
        np.array([trial.region_percent is None and not trial.assumed for trial in read]),
        np.array([(trial.way, trial.way_value) != (asked.way, asked.way_value) for trial in read]),
        frames_of([asked], [size], cost_factors)[0],
        shapes,
    )


def _read(trial: TimedFrame, trials: list[tuple[int, TimedFrame]], asked: FrameSettings) -> list[Reading]:
    """Return the readings of a trial beside the others of its shot."""
    found = readings(trial, asked.switched)
    if trial.only_says_longer and all(other.only_says_longer for _, other in trials):
        # Nothing else says what the frame takes without its limit.
        found.append(Reading(trial.seconds * float(np.exp(OVER_LIMIT)), _holding(*STAGES), OVER_LIMIT_SD**2))
    return found


def _speed(machine: FitMachine | None, trial: TimedFrame) -> float:
    """Return the reference seconds in a second of a trial; of a machine that is not listed nothing is known."""
    return (machine or REFERENCE).slot_speed(trial.frames_at_once)


def _shared(trials: list[TimedFrame], mask: Floats) -> Floats:
    """Return the covariance of readings of one region: people test the worst place, and it costs more than others."""
    traced = mask[:, PARTS.index("trace")] > 0
    places = [None if trial.region_percent is None else (trial.frame, trial.region_percent) for trial in trials]
    same = np.array([[place is not None and place == other for other in places] for place in places])
    return np.asarray(REGION_SD**2 * (same & traced[:, None] & traced))


def _shared_by_ways(trials: list[TimedFrame], mask: Floats, asked: tuple[str, float | None]) -> Floats:
    """Return the covariance of times of another way with the same settings: they depart from the model together."""
    keys = [None if (trial.way, trial.way_value) == asked else tuple(trial.frame_fields().values()) for trial in trials]
    same = np.array([[key is not None and key == other for other in keys] for key in keys])
    timed = is_time(mask)
    return np.asarray(WAY_READING**2 * (same & timed[:, None] & timed))


def _shapes(trials: list[TimedFrame], span: tuple[int, int]) -> ShotShapes | None:
    shown = [trial for trial in trials if trial.noise_shape]
    place = places(np.array([float(trial.frame) for trial in shown]), *span)
    return shot_shapes([_seen(trial) for trial in shown], place)


def _seen(trial: TimedFrame) -> NoiseShape:
    return noise_shape_of(trial.noise_shape, trial.noise_threshold, float(trial.least_samples), float(trial.samples))


def load_sd(trial: TimedFrame) -> float:
    """Return how much less exact other programs made a time, as a deviation of its log.

    Examples
    --------
    >>> from pemlo.core.project.trials import Trial
    >>> [round(load_sd(Trial(shot="a", frame=1, samples=1, seconds=9, other_load=load)), 3) for load in (0.02, 0.5)]
    [0.01, 0.347]
    """
    return LOAD_SHARE * float(-np.log1p(-min(trial.other_load or 0.0, 0.99)))


def readings(trial: TimedFrame, usual: tuple[str, ...] | None = None) -> list[Reading]:
    """Split a trial into independent readings; of one that ran into its limit, only that the frame takes longer.

    A guess is one reading of the whole frame, and a loose one.

    Noise and samples count only where the trial has on what is `usual` in its shot, if that is said.

    Stages that were timed are readings of their own, and what they leave of the whole is one more; so the same
    second is never counted twice. If the stages do not fit into the whole frame, the whole is believed alone.
    """
    if trial.assumed:
        return [Reading(trial.seconds, _holding(*STAGES), GUESS_SD**2)]
    if trial.only_says_longer:
        if trial.region_percent is not None:
            return []
        return [Reading(trial.seconds, _holding("at_least"), BOUND_READING**2)]
    load = load_sd(trial) ** 2
    found = [replace(reading, variance=reading.variance + load) for reading in _times(trial)]
    if (usual is not None and trial.switched != usual) or trial.region_percent is not None:
        # What is switched changes the noise too, and a region has its own: that is for the pictures to tell.
        return found
    if trial.adaptive and trial.mean_samples and not trial.stopped_by_cap:
        found.append(Reading(spent_of(trial), _holding("samples"), SAMPLES_READING**2))
    if trial.noise_shape:
        shape = _seen(trial)
        variance = NOISE_READING**2 + 1 / shape.median_samples
        found.append(Reading(float(np.exp(shape.median)), _holding("noise"), variance))
    return found


def _holding(*parts: str) -> Floats:
    return np.array([float(part in parts) for part in PARTS])


def _times(trial: TimedFrame) -> list[Reading]:
    taken = {stage: seconds for stage, seconds in trial.stage_seconds().items() if seconds > 0}
    # A stage timed at nothing is no reading in logarithms, yet it takes no part in the remainder either.
    without = {stage for stage, seconds in trial.stage_seconds().items() if seconds == 0}
    timed, remainder = set(taken), trial.seconds - sum(taken.values())
    if remainder < -LEAST_REMAINDER * trial.seconds:
        return [Reading(trial.seconds, _holding(*STAGES), 0.0)]
    kept = [_read_back(trial, stage) for stage in trial.keep if stage in without]
    if not taken:
        return [Reading(trial.seconds, _holding(*(one for one in STAGES if one not in without)), 0.0), *kept]
    # A stage so short beside the whole tells nothing of itself that could be counted.
    taken = {stage: seconds for stage, seconds in taken.items() if seconds > LEAST_STAGE * trial.seconds}
    found = kept + [
        Reading(seconds, _holding(stage), (STAGE_READING * trial.seconds / seconds) ** 2)
        for stage, seconds in taken.items()
    ]
    rest = [stage for stage in STAGES if stage not in timed and stage not in without]
    if rest and remainder > LEAST_REMAINDER * trial.seconds:
        found.append(Reading(remainder, _holding(*rest), (STAGE_READING * trial.seconds / remainder) ** 2))
    return found


def _read_back(trial: TimedFrame, stage: str) -> Reading:
    """Return the reading of a kept stage that took no time that a clock shows: half of what can be read, or so."""
    return Reading(0.5 * STAGE_READING * trial.seconds, _holding(stage), READ_BACK**2)


def asked_work(given: FitInput, timed: set[str]) -> float:
    """Return the log of the Mpx times samples of a frame as asked, the median of the shots that were timed.

    It is the unit in which preparing is expected, so that neither the size of pictures nor the seconds decide anything.
    """
    shots = [shot for shot in given.shots if shot.name in timed] or list(given.shots)
    if not shots:
        return 0.0
    return float(np.median([_work(shot.asked, shot.size) for shot in shots]))


def _work(asked: FrameSettings, size: tuple[int, int]) -> float:
    pixels = rendered_pixels(size, asked.resolution_percent) / 1e6
    return float(np.log(pixels) + 0.5 * (np.log(asked.least_samples) + np.log(asked.samples)))


def noise_centre(given: FitInput) -> float:
    """Return where the noise's median is expected, log of the threshold scale, before any adaptive trial is timed.

    People choose a threshold that bites between the least and the most samples: half-way, on a log scale.
    """
    asked: list[FrameSettings] = [shot.asked for shot in given.shots if shot.asked.noise_threshold is not None]
    adaptive = asked or [trial for trial in given.trials if trial.noise_threshold is not None]
    if not adaptive:
        return 0.0
    centres = [
        np.log(s.noise_threshold or 1.0) + 0.25 * (np.log(s.least_samples) + np.log(s.samples)) for s in adaptive
    ]
    return float(np.median(centres))
