"""Curves to look at: the ladder of seconds over samples or threshold, cost along a shot, and how far trials lie off.

Pure NumPy; all from a fit and its draws.
"""

from dataclasses import dataclass

import numpy as np

from pemlo.core.arrays import Floats
from pemlo.core.cost.along import places
from pemlo.core.cost.draws import ShotDraws, mean_of
from pemlo.core.cost.frame_arrays import frames_of
from pemlo.core.cost.posterior import Fit, ShotPosterior, along_shot
from pemlo.core.interval import NINETY
from pemlo.core.project.narrow import narrowing
from pemlo.core.project.project import Project
from pemlo.core.project.settings import FrameSettings
from pemlo.core.project.shots import Shot

BAND = (0.05, 0.5, 0.95)
# Half the width of a 90 % interval of a normal distribution, in standard deviations.


@dataclass(frozen=True)
class Curve:
    """A curve with its 90 % band: x, low, middle, high, each (K,) ndarray."""

    x: Floats
    low: Floats
    middle: Floats
    high: Floats


def seconds_curve(fit: Fit, draws: ShotDraws, project: Project, shot: Shot, settings: list[FrameSettings]) -> Curve:
    """Return the seconds of the shot's mean frame for a row of settings; x counts the settings."""
    frames = frames_of(
        settings, [project.size_of(shot)] * len(settings), fit.cost_factors, fit.shots[shot.name].shape()
    )
    seconds = mean_of(draws, frames)[0]
    low, middle, high = np.quantile(seconds, BAND, axis=0)
    return Curve(np.arange(len(settings), dtype=float), low, middle, high)


def along_curve(fit: Fit, shot: Shot, frames: Floats) -> Curve:
    """Return how much more expensive frames are than the shot's typical one, as a factor."""
    along = fit.along(fit.shots[shot.name], places(frames, shot.first, shot.last))
    own = np.diagonal(along.covariance, axis1=1, axis2=2)[along.chosen]
    spread = NINETY * np.sqrt(np.maximum(own.mean(axis=0) + along.mean.var(axis=0), 0.0))
    middle = along.mean.mean(axis=0)
    return Curve(frames, np.exp(middle - spread), np.exp(middle), np.exp(middle + spread))


@dataclass(frozen=True)
class TrialFit:
    """How one trial lies against the fit.

    Attributes
    ----------
    off : float
        Timed over predicted, less 1.
    widest : float
        By what factor it is missed in one of ten draws: each takes others for wrong.
    factor : float
        Against the shot's typical frame.
    inlier : float
        Chance to be no outlier.
    """

    off: float
    widest: float
    factor: float
    inlier: float


def largest_miss(fit: Fit, shot: str) -> float:
    """Return by what factor the worst time of a shot is missed, in the middle of the draws; 1 if nothing was timed."""
    readings = fit.shots[shot].readings
    if readings is None or not readings.seen.timed.any():
        return 1.0
    miss = readings.residual - fit.along(fit.shots[shot], readings.seen.place).mean
    return float(np.exp(np.median(np.abs(miss[:, readings.seen.timed]).max(axis=1))))


def trial_fits(fit: Fit, shot: str) -> dict[int, TrialFit]:
    """Return how each trial of a shot lies, by its index in the project.

    A trial with stage times is judged by all of them together, and looks inlier if every one of them does.
    """
    return _trial_fits(fit.shots[shot], fit.spread.along_sd, fit.spread.along_length)


@narrowing  # asked for by several who judge trials
def _trial_fits(posterior: ShotPosterior, along_sd: float, along_length: float) -> dict[int, TrialFit]:
    readings = posterior.readings
    if readings is None:
        return {}
    timed = readings.seen.timed
    took = np.exp(readings.seen.value)
    along = along_shot(posterior, readings.seen.place, along_sd, along_length).mean
    miss = readings.residual - along
    predicted = took / np.exp(miss)
    typical = np.median(took / np.exp(readings.residual), axis=0)
    indices = np.unique(readings.seen.trial[timed])
    # Of each trial, which readings are its own: a matrix that sums them.
    own = (timed[:, None] & (readings.seen.trial[:, None] == indices)).astype(float)
    whole, expected = took @ own, predicted @ own
    off = whole / np.median(expected, axis=0) - 1
    widest = np.exp(np.quantile(np.abs(np.log(whole / expected)), 0.9, axis=0))
    factor = whole / (typical @ own)
    inlier = np.where(own > 0, readings.inlier[:, None], 1.0).min(axis=0)
    return {
        int(index): TrialFit(*(float(values[number]) for values in (off, widest, factor, inlier)))
        for number, index in enumerate(indices)
    }
