"""Draws of what a film costs: parameters and the course along each shot, the same for the same seed. Pure NumPy."""

from collections.abc import Mapping
from dataclasses import dataclass, replace
from functools import cached_property
from zlib import crc32

import numpy as np
import numpy.typing as npt

from pemlo.core.arrays import Floats
from pemlo.core.cost.along import JITTER, knots, places, places_within, shares_between, shares_with_handles
from pemlo.core.cost.as_timed import AsTimed, as_timed
from pemlo.core.cost.frame_arrays import Frames, frames_of
from pemlo.core.cost.frame_model import capped, capped_mean, samples_spent, seconds_with
from pemlo.core.cost.posterior import DRAWS, Fit
from pemlo.core.project.narrow import narrowing
from pemlo.core.project.project import Project
from pemlo.core.project.settings import FrameSettings
from pemlo.core.project.shots import Shot

ALONG_UNEVEN = 0.5  # shots differ in how restless they are: log spread of the process's width


@dataclass(frozen=True)
class ShotDraws:
    """Draws of one shot.

    Attributes
    ----------
    theta : (N, D) ndarray
        Parameters.
    cost_profile : (N, L) ndarray of float32
        How much more expensive than its typical frame those at L places of the shot are.
    share : (L,) ndarray
        Of the shot's frames that each place stands for.
    repeat : (N,) ndarray
        Standard normal, for the repeatability of what is timed.
    as_timed : AsTimed, optional
        What timed settings take by their own times, where that is not what parameters say.
    """

    theta: Floats
    cost_profile: Floats
    share: Floats
    repeat: Floats
    as_timed: AsTimed | None = None

    def __post_init__(self) -> None:
        # Of a thousand shots these are most of what is kept: seven digits are enough, and take half the memory. What
        # is worked out from them has as many digits as ever.
        object.__setattr__(self, "cost_profile", self.cost_profile.astype(np.float32))

    @cached_property
    def factor(self) -> Floats:
        """Mean over the shot's frames of how much more expensive they are than its typical frame, (N,)."""
        return np.asarray(self.cost_profile @ self.share)


FilmDraws = Mapping[str, ShotDraws]


def draw_film(fit: Fit, project: Project, seed: int = 0, count: int = DRAWS) -> FilmDraws:
    """Draw every shot of a film, their common uncertainty in common.

    Each shot has random numbers of its own, found from the seed and its name: adding or removing a shot that was never
    timed leaves the draws of the others as they were.

    Parameters
    ----------
    fit : Fit
        Of this project.
    project : Project
    seed : int
        >= 0; of the course between trials and of repeatability. The parameters are those of the fit, with its seed.
    count : int
        How many draws, N; at most as many as the fit has.
    """
    return {shot.name: draws_of(fit, drawn_shot(shot), seed, count) for shot in project.shots}


@dataclass(frozen=True)
class DrawnShot:
    """All that draws of a shot read of it beside the fit: which of its frames are rendered, before any lever."""

    name: str
    first: int
    last: int
    step: int
    handles: int
    ranges: tuple[tuple[int, int], ...] = ()

    @property
    def span_count(self) -> int:
        """How many frames there would be from the first to the last, if it had no gaps."""
        return (self.last - self.first) // self.step + 1


@narrowing
def drawn_shot(shot: Shot) -> DrawnShot:
    """Return what draws of a shot read of it."""
    return DrawnShot(shot.name, shot.first, shot.last, shot.step, shot.handles, shot.ranges)


def draws_of(fit: Fit, shot: DrawnShot, seed: int = 0, count: int = DRAWS) -> ShotDraws:
    """Draw one shot; as `draw_film`."""
    at, share = shot_knots(shot)
    theta, cost_profile = draw_shot(fit, shot.name, at, seed, count)
    repeat = _generator(seed, shot.name + "/repeat").standard_normal(count)
    cost_profile = np.exp(cost_profile)
    timed = as_timed(fit, shot.name, cost_profile, share, seed, still=shot.span_count == 1)
    return ShotDraws(theta, cost_profile, share, repeat, timed)


def shot_knots(shot: Shot | DrawnShot) -> tuple[Floats, Floats]:
    """Return places along a shot, and the share of its rendered frames that each stands for; as `knots`."""
    at, share = knots(shot.span_count)
    if shot.ranges:
        rendered = {
            frame
            for first, last in shot.ranges
            for frame in range(first - shot.handles // shot.step * shot.step, last + shot.handles + 1, shot.step)
        }
        frames = np.array(sorted(rendered), float)
        return at, shares_between(at, places_within(frames, shot.first, shot.last))
    return at, shares_with_handles(share, shot.span_count, shot.handles // shot.step)


def draw_shot(fit: Fit, name: str, at: Floats, seed: int, count: int = DRAWS) -> tuple[Floats, Floats]:
    """Draw one shot's parameters, (N, D), and its log factor at places, (N, L)."""
    random = _generator(seed, name)
    posterior = fit.shots[name]
    along = fit.along(posterior, at, count)
    uneven = np.exp(ALONG_UNEVEN * random.standard_normal((count, 1)))
    own = random.standard_normal(along.mean.shape)
    for number, covariance in enumerate(along.covariance):  # a few: which of its readings count
        rows = along.chosen == number
        own[rows] = own[rows] @ _root(covariance).T
    # As wide as it may be, the mean of the frames stays where it is: the exponential of a normal lies above its middle.
    variance = np.diagonal(along.covariance, axis1=1, axis2=2)[along.chosen]
    return posterior.theta[:count], along.mean + uneven * own - 0.5 * uneven**2 * variance


def draw_frame(
    fit: Fit, project: Project, shot_name: str, frame: int, settings: FrameSettings, seed: int = 0, count: int = DRAWS
) -> Floats:
    """Draw the seconds that one frame would take on the reference machine, repeatability included.

    Returns
    -------
    (N,) ndarray
    """
    shot = project.shot(shot_name)
    at = places(np.array([float(frame)]), shot.first, shot.last)
    theta, cost_profile = draw_shot(fit, shot.name, at, seed, count)
    repeat = fit.spread.repeat_sd * _generator(seed, shot.name + "/repeat").standard_normal(count)
    wanted = frames_of([settings], [project.size_of(shot)], fit.cost_factors, fit.shots[shot.name].shape(float(at[0])))
    seconds, _ = seconds_of(theta, wanted, np.exp(cost_profile[:, 0]))
    timed = as_timed(fit, shot_name, np.exp(cost_profile), np.ones(1), seed, still=shot.span_count == 1)
    own = 1.0 if timed is None else timed.factor(wanted)[:, 0]
    return np.asarray(seconds * own * np.exp(repeat))


def draw_samples(
    fit: Fit, project: Project, shot_name: str, frame: int, settings: FrameSettings, seed: int = 0, count: int = DRAWS
) -> Floats:
    """Draw the mean samples a pixel that one frame would take, (N,)."""
    shot = project.shot(shot_name)
    at = places(np.array([float(frame)]), shot.first, shot.last)
    theta, cost_profile = draw_shot(fit, shot.name, at, seed, count)
    wanted = frames_of([settings], [project.size_of(shot)], fit.cost_factors, fit.shots[shot.name].shape(float(at[0])))
    return seconds_of(theta, wanted, np.exp(cost_profile[:, 0]))[1]


def seconds_of(theta: Floats, frames: Frames, factor: Floats) -> tuple[Floats, Floats]:
    """Return seconds and samples of frames so many times as expensive as the typical one; shapes as in `capped`."""
    spent = samples_spent(theta, frames)[0]
    if np.isnan(frames.cap).all():
        return seconds_with(theta, frames, spent) * factor, np.asarray(spent)
    return capped(theta, replace(frames, cap=np.where(np.isnan(frames.cap), np.inf, frames.cap)), factor, spent)


def seconds_along(
    draws: ShotDraws, frames: Frames, which: npt.NDArray[np.intp] | npt.NDArray[np.bool_] | None = None
) -> Floats:
    """Return the seconds of frames at the L places of a shot's draws on the reference machine, (N, L).

    Parameters
    ----------
    draws : ShotDraws
    frames : Frames
        One way of rendering them, shape (1,).
    which : ndarray, optional
        Which of the draws; all unless given.
    """
    some = slice(None) if which is None else which
    seconds = seconds_of(draws.theta[some][:, None, :], frames, draws.cost_profile[some])[0]
    return seconds if draws.as_timed is None else np.asarray(seconds * draws.as_timed.factor(frames)[some])


def mean_of(draws: ShotDraws, frames: Frames, count: int | None = None) -> tuple[Floats, Floats]:
    """Return what a shot's mean frame takes, for K ways of rendering it.

    Parameters
    ----------
    draws : ShotDraws
    frames : Frames
        Of shape (K,).
    count : int, optional
        How many of the draws, N; all unless given.

    Returns
    -------
    seconds : (N, K) ndarray
        On the reference machine.
    spent : (N, K) ndarray
        Samples a pixel. Where a cap makes them differ from frame to frame: those that would leave the same noise,
        squared and averaged over the frames, in all of them.
    """
    theta = draws.theta[:count, None, :]
    spent = _spent(theta, frames)
    seconds = seconds_with(theta, frames, spent) * draws.factor[:count, None]
    ends = ~np.isnan(frames.cap)
    if ends.any():
        found = capped_mean(theta, frames[ends], draws.cost_profile[:count], draws.share, spent[:, ends])
        seconds[:, ends], spent[:, ends] = found
    if draws.as_timed is not None:
        seconds = seconds * draws.as_timed.factor(frames, count)
    return np.asarray(seconds), spent


def _spent(theta: Floats, frames: Frames) -> Floats:
    """Return samples a pixel for K ways of rendering, (N, K); worked out once for those that share what decides it."""
    if len(frames.pixels_mpx) == 1:
        return np.array(np.broadcast_to(samples_spent(theta, frames)[0], (len(theta), 1)))
    deciding = np.stack([frames.pixels_mpx, frames.least, frames.most, frames.threshold], axis=-1)
    _, first, same = np.unique(deciding, axis=0, return_index=True, return_inverse=True)
    found = np.broadcast_to(samples_spent(theta, frames[first])[0], (len(theta), len(first)))
    return np.array(found[:, same.reshape(-1)])


def _generator(seed: int, name: str) -> np.random.Generator:
    return np.random.default_rng([seed, crc32(name.encode())])


def _root(covariance: Floats) -> Floats:
    """Return a square root of a covariance, which rounding may have left a little short of positive."""
    diagonal = np.diag(covariance)
    return np.asarray(np.linalg.cholesky(covariance + np.diag(JITTER * np.maximum(diagonal, 1e-12))), dtype=np.float64)
