"""Which trial to run next: one of the set that takes most from the uncertainty of the hours.

A shot is allowed tests worth a frame and a half of its own, unless another limit is given. Among sets of cheaper and
more expensive frames that fit into what is left of that, the best one is sought by its effect on the variance of the
shot's hours; of that set, the trial with the largest effect comes first. How much one time would say of another is read
from draws of what is known, because the linear model sees too little of what is not; nothing is rendered. Pure NumPy.

References
----------
.. [1] The linear-Gaussian update: C. Rasmussen and C. Williams, "Gaussian Processes for Machine Learning", MIT Press
   2006, eq. 2.23-2.24. Choosing by variance removed: D. MacKay, "Information-based objective functions for active data
   selection", Neural Computation 4, 1992.
.. [2] Greedy sets from several starts under a budget: S. Khuller, A. Moss, J. Naor, "The budgeted maximum coverage
   problem", Information Processing Letters 70, 1999.
"""

from collections.abc import Callable, Collection, Mapping
from dataclasses import dataclass, replace
from functools import lru_cache
from typing import Any

import numpy as np
import numpy.typing as npt

from pemlo.core.arrays import Floats
from pemlo.core.cost.along import places
from pemlo.core.cost.draws import ShotDraws, draw_shot, mean_of, seconds_of, shot_knots
from pemlo.core.cost.frame_arrays import frames_of
from pemlo.core.cost.posterior import Fit
from pemlo.core.cost.priors import DOUBTFUL, LIGHT, PREPARE
from pemlo.core.project.project import Project
from pemlo.core.project.settings import MOST_THRESHOLD, NO_DENOISE, FrameSettings
from pemlo.core.project.shots import Shot
from pemlo.core.project.trials import Trial
from pemlo.core.units import HOUR_S, MINUTE_S

# What tests of a shot may cost, in full frames of it: where the study of docs/method/model.md finds the bend.
ALLOWANCE = 1.5
FRAME_PLACES = 9
SAMPLE_SHARES = (1.0, 0.5, 0.25, 0.0625)
THRESHOLD_FACTORS = (1.0, 1.5, 2.5, 5.0)
RESOLUTION_SHARES = (1.0, 0.5, 0.25)
# Where in the shot cheap trials of one kind may stand together, as shares of it.
SPOTS = (
    *((0.5,), (0.0,), (1.0,), (0.25,), (0.75,), (0.125,), (0.875,)),
    *((0.0, 1.0), (0.125, 0.875), (0.25, 0.75)),
    *((0.0, 0.5, 1.0), (0.125, 0.5, 0.875), (0.25, 0.5, 0.75)),
    *((0.0, 0.25, 0.75, 1.0), (0.125, 0.375, 0.625, 0.875)),
    *((0.125, 0.25, 0.5, 0.75, 0.875), (0.0, 0.25, 0.5, 0.75, 1.0)),
    *((0.0, 0.25, 0.375, 0.625, 0.75, 1.0), (0.0, 0.125, 0.375, 0.5, 0.625, 0.875, 1.0)),
)
STARTS = 6
LARGEST_SET = 8
DRAWS = 500
WORTH_ASKING = 0.3  # of the variance of a shot's hours, from which on it is asked how long preparing took
SEED = 0
SAFE = 0.65  # a trial counts for what it takes at most in so many of the draws
HOPED = 0.3  # and where nothing is affordable so, in so many: whether a cheap one is all preparing, it shows itself
FEARED = 0.9  # what it takes at worst
UNSURE = 2.0  # feared over hoped price, from which on a cheap trial goes first to show what cheap ones take


@dataclass(frozen=True)
class PrepareQuestion:
    """What the person may know without rendering: how long the renderer prepared a frame that was timed.

    Attributes
    ----------
    frame : int
    hours_sd_after : float
        Standard deviation of the shot's machine-hours once it is known.
    """

    frame: int
    hours_sd_after: float


@dataclass(frozen=True)
class Advice:
    """A trial worth running, and what it would tell.

    Attributes
    ----------
    shot, frame, settings
        What to render.
    seconds : float
        What it should take on the reference machine.
    hours_sd, hours_sd_after : float
        Standard deviation of the shot's machine-hours now, and once this time is known.
    variance_per_minute : float
        Machine-hours squared removed for each minute that it costs, what it takes beside its own time counted.
    again : bool
        Whether it is a trial that does not agree with the others, to be timed once more.
    question : PrepareQuestion, optional
        Where the answer would tell much: preparing may be most of what was timed, and nobody said how long it took.
    """

    shot: str
    frame: int
    settings: FrameSettings
    seconds: float
    hours_sd: float
    hours_sd_after: float
    variance_per_minute: float
    question: PrepareQuestion | None = None
    again: bool = False


FrameKey = tuple[str, int, FrameSettings]


@dataclass(frozen=True)
class Limits:
    """What trials may be, where something renders them.

    Attributes
    ----------
    most_seconds : float
        On the reference machine.
    reachable : callable
        From a shot and settings to the nearest that can be rendered.
    avoided : collection of (shot, frame, FrameSettings)
        What is not to be run, again or at all.
    overhead_s : float
        What every trial takes beside its own time: the start of a renderer, and looking for the next.
    """

    most_seconds: float = np.inf
    reachable: Callable[[Shot, FrameSettings], FrameSettings] = lambda _, settings: settings
    avoided: Collection[FrameKey] = ()
    overhead_s: float = 0.0


ANY = Limits()


@dataclass(frozen=True)
class Candidates:
    """Trials of one shot that could be run: S settings at F frames, C = S F of them, settings first.

    Attributes
    ----------
    settings : list of FrameSettings
    frames : list of int
    seconds : (C,) ndarray
        What each should take on the reference machine.
    price : (C,) ndarray
        The same in full frames of the shot, with room for being wrong; infinite where it was timed already.
    hoped_price, feared_price : (C,) ndarray
        The same without much caution, and with the most.
    full_seconds : float
        What the shot's mean frame should take with the plan's settings.
    prepare_told : float
        Share of the variance of the shot's hours that goes once it is known how long preparing takes.
    joint : (1 + C, 1 + C) ndarray
        Covariance of the shot's hours (first) and the log seconds of each candidate.
    repeat_variance : float
        Added to the variance of each when it is timed.
    """

    settings: list[FrameSettings]
    frames: list[int]
    seconds: Floats
    price: Floats
    hoped_price: Floats
    feared_price: Floats
    full_seconds: float
    prepare_known: float
    joint: Floats
    repeat_variance: float


def advise(
    fit: Fit,
    project: Project,
    shots: Collection[str] | None = None,
    allowed: Mapping[str, float] | None = None,
    limits: Limits = ANY,
) -> tuple[Advice, ...]:
    """Return the best next trial of each shot, the most telling one of the film first.

    Parameters
    ----------
    fit : Fit
        Of this project.
    project : Project
    shots : collection of str, optional
        Only these shots; all if not given.
    allowed : mapping of shot name to float, optional
        What may still be spent on tests of a shot, in full frames of it. If not given, `ALLOWANCE` less what its
        trials took; and one more frame when that is used up.
    limits : Limits
        What trials may be.

    Returns
    -------
    tuple of Advice
        At most one a shot, and none for shots where nothing is affordable.
    """
    found = []
    for shot in project.shots:
        if shots is not None and shot.name not in shots:
            continue
        able = _candidates(fit, project, shot, limits)
        apart = next(
            (disagreement.trials[0] for disagreement in fit.disagreements if disagreement.shot == shot.name), None
        )
        if apart is not None and _may_be(project.trials[apart], shot, limits):
            found.append(_once_more(project.trials[apart], able))
            continue
        left = allowed.get(shot.name, 0.0) if allowed is not None else _left(fit, project, shot, able)
        chosen = best_set(able, left) or best_set(replace(able, price=able.hoped_price), left)
        if chosen:
            found.append(
                replace(_advice(shot, able, chosen[0], limits.overhead_s), question=_question(project, shot, able))
            )
    return tuple(sorted(found, key=lambda advice: -advice.variance_per_minute))


def best_set(able: Candidates, most: float) -> list[int]:
    """Return candidates that together remove most for at most so many full frames, the one to run first in front.

    A cheap trial often tells nothing alone and much beside another, so whole designs are weighed first: an expensive
    one in the middle, and cheap ones of one kind at several frames. The best of them are then filled up. Empty if none
    is affordable.
    """
    designs = _designs(len(able.settings), len(able.frames))
    price = np.where(designs >= 0, able.price[designs], 0.0).sum(axis=1)
    designs = designs[price <= most]
    if not len(designs):
        return []
    removed = _removed_by(able, designs)
    best: tuple[float, list[int]] = (-1.0, [])
    for number in np.argsort(-removed)[:STARTS]:
        found = _grow(able, [int(one) for one in designs[number] if one >= 0], most)
        if found[0] > best[0] * (1 + 1e-9):
            best = found
    return _in_order(able, best[1], most)


def _in_order(able: Candidates, chosen: list[int], most: float) -> list[int]:
    """Return a set with the most telling one first; or a cheap one, if only that shows what cheap ones take.

    After the most expensive one it would be too late for others: how many are affordable must be known before.
    """
    removed = _removal(able.joint, able.repeat_variance)
    found = sorted(chosen, key=lambda number: -removed[number])
    cheap = min(chosen, key=lambda number: able.feared_price[number])
    expensive = float(able.price[chosen].max())
    unsure = able.feared_price[cheap] > UNSURE * able.hoped_price[cheap]
    if len(chosen) > 1 and unsure and able.feared_price[cheap] + expensive <= most:
        return [cheap, *(number for number in found if number != cheap)]
    return found


@lru_cache(maxsize=64)
def _designs(settings: int, frames: int) -> npt.NDArray[np.intp]:
    """Return sets of candidates worth weighing, (Q, 1 + most places), padded with -1; none is empty."""
    last = frames - 1
    spots = {tuple(sorted({round(last * share) for share in spot})) for spot in SPOTS}
    width = 1 + max(len(spot) for spot in spots)
    found = set()
    for cheap in range(settings):
        for spot in spots:
            low = [cheap * frames + place for place in spot]
            found.add(tuple(low))
            found.update((expensive * frames + last // 2, *low) for expensive in range(settings))
    return np.array([row + (-1,) * (width - len(row)) for row in sorted(found)], dtype=np.intp)


def _removed_by(able: Candidates, designs: npt.NDArray[np.intp]) -> Floats:
    """Return the variance that each set removes, (Q,)."""
    removed = np.empty(len(designs))
    index = np.arange(designs.shape[1])
    for begin in range(0, len(designs), 2048):
        part = designs[begin : begin + 2048]
        used = part >= 0
        both = used[:, :, None] & used[:, None, :]
        joint = np.where(both, able.joint[1 + part[:, :, None], 1 + part[:, None, :]], 0.0)
        joint[:, index, index] += np.where(used, able.repeat_variance, 1.0)
        updated = np.where(used, able.joint[0, 1 + part], 0.0)
        removed[begin : begin + 2048] = (updated * np.linalg.solve(joint, updated[..., None])[..., 0]).sum(axis=1)
    return removed


def _grow(able: Candidates, start: list[int], most: float) -> tuple[float, list[int]]:
    """Add to a set what removes most for its price, while it is affordable."""
    joint, chosen, left = able.joint.copy(), list(start), most - float(able.price[start].sum())
    before = joint[0, 0]
    for number in start:
        _know(joint, number, able.repeat_variance)
    while len(chosen) < LARGEST_SET:
        worth = _removal(joint, able.repeat_variance) / able.price
        worth[able.price > left] = -1.0
        worth[chosen] = -1.0
        pick = int(np.argmax(worth))
        if worth[pick] <= 0:
            break
        _know(joint, pick, able.repeat_variance)
        chosen.append(pick)
        left -= float(able.price[pick])
    return float(before - joint[0, 0]), chosen


def _know(joint: Floats, number: int, repeat_variance: float) -> None:
    """Take from a covariance, in place, what knowing one candidate's time takes from it."""
    row = joint[1 + number].copy()
    joint -= np.outer(row, row) / (row[1 + number] + repeat_variance)


def _removal(joint: Floats, repeat_variance: float) -> Floats:
    return np.asarray(joint[0, 1:] ** 2 / (np.diag(joint)[1:] + repeat_variance))


def _may_be(trial: Trial, shot: Shot, limits: Limits) -> bool:
    """Whether a trial may be run once more."""
    settings = FrameSettings.model_validate(trial.frame_fields())
    return (
        trial.seconds <= limits.most_seconds
        and limits.reachable(shot, settings) == settings
        and (shot.name, trial.frame, settings) not in limits.avoided
    )


def _once_more(trial: Trial, able: Candidates) -> Advice:
    """Return the advice to time a trial again: until trials agree, nothing else is worth more."""
    settings = FrameSettings.model_validate(trial.frame_fields())
    sd = float(np.sqrt(able.joint[0, 0]))
    return Advice(trial.shot, trial.frame, settings, trial.seconds, sd, sd, np.inf, again=True)


def _advice(shot: Shot, able: Candidates, number: int, overhead_s: float) -> Advice:
    row, column = divmod(number, len(able.frames))
    seconds = float(able.seconds[number])
    removed = float(_removal(able.joint, able.repeat_variance)[number])
    variance = float(able.joint[0, 0])
    return Advice(
        shot.name,
        able.frames[column],
        able.settings[row],
        seconds,
        float(np.sqrt(variance)),
        float(np.sqrt(max(variance - removed, 0.0))),
        removed / ((seconds + overhead_s) / MINUTE_S),
    )


def _told_by(known: Floats, wanted: Floats) -> float:
    """Return the share of a variance that goes with knowing something, by ranks: neither need be normal."""
    ranks = np.argsort(np.argsort(np.stack([known, wanted]), axis=1), axis=1)
    return float(np.asarray(np.corrcoef(ranks))[0, 1] ** 2)


def _question(project: Project, shot: Shot, able: Candidates) -> PrepareQuestion | None:
    timed = [trial for trial in project.trials_of(shot.name) if not trial.left_out]
    if not timed or able.prepare_known < WORTH_ASKING or any(trial.prepare_seconds is not None for trial in timed):
        return None
    return PrepareQuestion(timed[0].frame, float(np.sqrt(able.joint[0, 0] * (1 - able.prepare_known))))


def _left(fit: Fit, project: Project, shot: Shot, able: Candidates) -> float:
    speeds = {machine.name: machine.speed for machine in project.machines}
    spent = sum(trial.seconds * speeds.get(trial.machine, 1.0) for trial in project.trials_of(shot.name))
    left = ALLOWANCE - (spent / able.full_seconds if fit.known else 0.0)
    return left if left >= able.price.min() else 1.0


def _candidates(fit: Fit, project: Project, shot: Shot, limits: Limits) -> Candidates:
    plan, frames = FrameSettings.model_validate(shot.settings.frame_fields()), _frames_to_try(shot)
    settings = list(dict.fromkeys(limits.reachable(shot, tried) for tried in _settings_to_try(shot)))
    at, share = shot_knots(shot)
    everywhere = np.concatenate([at, places(np.array(frames, dtype=float), shot.first, shot.last)])
    theta, cost_profile = draw_shot(fit, shot.name, everywhere, SEED, DRAWS)
    size, shape = project.size_of(shot), fit.shots[shot.name].shape()
    wanted = frames_of([plan, *settings], [size] * (1 + len(settings)), fit.cost_factors, shape)
    factor = np.exp(cost_profile[:, None, len(at) :])
    tried = np.log(seconds_of(theta[:, None, None, :], wanted[1:, None], factor)[0]).reshape(len(theta), -1)
    whole = ShotDraws(theta, np.exp(cost_profile[:, : len(at)]), share, np.zeros(len(theta)))
    total = np.log(mean_of(whole, wanted[:1])[0][:, 0])
    hours = shot.rendered_count(shot.settings) * float(np.exp(np.median(total))) / HOUR_S
    joint = np.cov(np.column_stack([hours * total, tried]), rowvar=False)
    price, hoped, feared = np.exp(np.quantile(tried - total[:, None], [SAFE, HOPED, FEARED], axis=0))
    before = _timed_before(fit, project, shot, settings, frames)
    before += [
        row * len(frames) + column
        for row, tested in enumerate(settings)
        for column, frame in enumerate(frames)
        if (shot.name, frame, tested) in limits.avoided
    ]
    price[before] = hoped[before] = np.inf
    beside = limits.overhead_s / float(np.exp(np.median(total)))
    price, hoped, feared = price + beside, hoped + beside, feared + beside
    too_long = np.exp(np.quantile(tried, SAFE, axis=0)) > limits.most_seconds
    price[too_long] = hoped[too_long] = np.inf
    return Candidates(
        settings,
        frames,
        np.exp(np.median(tried, axis=0)),
        price,
        hoped,
        feared,
        float(np.exp(np.median(total))),
        _told_by(np.logaddexp(theta[:, PREPARE], theta[:, LIGHT]), total),
        joint,
        fit.spread.repeat_sd**2,
    )


def _timed_before(
    fit: Fit, project: Project, shot: Shot, settings: list[FrameSettings], frames: list[int]
) -> list[int]:
    """Return candidates that were timed already and are no outliers: the same again would guard against a slip only."""
    readings = fit.shots[shot.name].readings
    if readings is None:
        return []
    sure = {int(t) for t, p in zip(readings.seen.trial, readings.inlier, strict=True) if p >= DOUBTFUL}
    whole = [trial for number in sure if (trial := project.trials[number]).region_percent is None]
    done = {(trial.frame, *trial.frame_fields().values()) for trial in whole}
    return [
        row * len(frames) + column
        for row, tried in enumerate(settings)
        for column, frame in enumerate(frames)
        if (frame, *tried.frame_fields().values()) in done
    ]


def _frames_to_try(shot: Shot) -> list[int]:
    """Return frames spread over the shot, first, middle and last among them."""
    frames = shot.frames
    last = len(frames) - 1
    numbers = {round(last * number / (FRAME_PLACES - 1)) for number in range(FRAME_PLACES)}
    return [frames[number] for number in sorted(numbers)]


def _settings_to_try(shot: Shot) -> list[FrameSettings]:
    """Return the plan's settings and cheaper ones, the plan's own first."""
    plan = FrameSettings.model_validate(shot.settings.frame_fields())
    filters = [plan.denoise] if plan.denoise == NO_DENOISE else [plan.denoise, NO_DENOISE]
    found: dict[FrameSettings, None] = {}
    for denoise in filters:
        for share in RESOLUTION_SHARES:
            percent = max(1.0, round(plan.resolution_percent * share, 1))
            for fields in _samplings(plan):
                tried = {**plan.frame_fields(), **fields, "denoise": denoise, "resolution_percent": percent}
                found.setdefault(FrameSettings.model_validate(tried))
    return list(found)


def _samplings(plan: FrameSettings) -> list[dict[str, Any]]:
    if plan.noise_threshold is not None:
        most = MOST_THRESHOLD
        loosened = [min(float(f"{plan.noise_threshold * factor:.3g}"), most) for factor in THRESHOLD_FACTORS]
        fixed = max(1, plan.least_samples)
        return [{"noise_threshold": threshold} for threshold in loosened] + [
            {"noise_threshold": None, "min_samples": None, "samples": fixed}
        ]
    return [{"samples": max(1, round(plan.samples * share)), "min_samples": None} for share in SAMPLE_SHARES]
