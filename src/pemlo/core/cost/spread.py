"""Learning how widely things vary: along a shot, between repeats, between shots. Pure NumPy.

The widths maximise the marginal likelihood of the linearised readings times their priors (type II maximum likelihood:
Rasmussen and Williams 2006, sec. 5.4), by a search over one width after the other.
"""

from dataclasses import replace
from typing import Any

import numpy as np

from pemlo.core.arrays import Floats
from pemlo.core.cost.along import matern32
from pemlo.core.cost.batches import Batch
from pemlo.core.cost.posterior import Spread
from pemlo.core.cost.priors import (
    ALONG_LENGTH,
    ALONG_LENGTH_SPREAD,
    ALONG_SD,
    ALONG_SD_SPREAD,
    OUTLIER_SD,
)
from pemlo.core.cost.repeats import WORST, RepeatBelief

# What is believed of each width: its median, and the standard deviation of its log.
BELIEFS = {"along_sd": (ALONG_SD, ALONG_SD_SPREAD), "along_length": (ALONG_LENGTH, ALONG_LENGTH_SPREAD)}
GRID = np.exp(np.linspace(-1.2, 1.2, 9))
SHOT_SD_WEIGHT = 5.0  # the prior width between shots counts as much as so many shots


def learn_spread(
    spread: Spread,
    batches: list[Batch],
    jacobians: list[Floats],
    offs: list[Floats],
    inlier: list[Floats],
    repeats: RepeatBelief,
) -> Spread:
    """Return the widths along the shot and between repeats that explain the readings best.

    Parameters
    ----------
    spread : Spread
        As it stands; its `shot_sd` is taken as given.
    batches : list of Batch
    jacobians : list of (B, K, D) ndarray
    offs : list of (B, K) ndarray
        Readings less what the film's mean predicts, in the linear model.
    inlier : list of (B, K) ndarray
        Probability of each reading to be no outlier.
    repeats : RepeatBelief
    """
    shot_parts = [jac * spread.shot_sd @ np.swapaxes(jac * spread.shot_sd, 1, 2) for jac in jacobians]
    for _ in range(2):
        for name, (median, belief) in {**BELIEFS, "repeat_sd": (repeats.sd, repeats.spread)}.items():
            tried = [_with(spread, name, median * factor) for factor in GRID]
            scores = -0.5 * (np.log(GRID) / belief) ** 2
            for parts in zip(batches, shot_parts, offs, inlier, strict=True):
                scores = scores + _log_likelihoods(*parts, tried)
            spread = _with(spread, name, median * _peak(np.log(GRID), scores))
    return replace(spread, repeat_sd=min(spread.repeat_sd, WORST))


def _with(spread: Spread, name: str, value: float) -> Spread:
    fields: dict[str, Any] = {name: value}
    return replace(spread, **fields)


def _peak(grid: Floats, scores: Floats) -> float:
    """Return the exponential of where a parabola through the best point and its neighbours peaks."""
    best = int(np.argmax(scores))
    if best in (0, len(grid) - 1):
        return float(np.exp(grid[best]))
    left, middle, right = scores[best - 1 : best + 2]
    bend = left - 2 * middle + right
    shift = 0.5 * (left - right) / bend if bend < 0 else 0.0
    return float(np.exp(grid[best] + shift * (grid[1] - grid[0])))


def _log_likelihoods(batch: Batch, shot_part: Floats, off: Floats, inlier: Floats, tried: list[Spread]) -> Floats:
    """Return the log likelihood of the readings of a batch under each of some widths."""
    both = batch.valid[:, :, None] & batch.valid[:, None, :]
    alike = np.where(both, shot_part, 0.0) + batch.shared
    # A width that is tried at one value only is worked out once.
    processes = {
        width: np.where(batch.together, matern32(batch.place, batch.place, *width), 0.0)
        for width in {(spread.along_sd, spread.along_length) for spread in tried}
    }
    covariance = np.stack([alike + processes[spread.along_sd, spread.along_length] for spread in tried])
    index = np.arange(covariance.shape[2])
    repeats = np.array([spread.repeat_sd for spread in tried])[:, None, None]
    precision = inlier / repeats**2 + (1.0 - inlier) / OUTLIER_SD**2
    covariance[..., index, index] += np.where(batch.valid, batch.reading_variance + 1.0 / precision, 1.0)
    lower = np.linalg.cholesky(covariance)
    white = np.linalg.solve(lower, np.broadcast_to(off[..., None], (*covariance.shape[:3], 1)))[..., 0]
    return np.asarray(-np.log(lower[..., index, index]).sum(axis=(1, 2)) - 0.5 * (white**2).sum(axis=(1, 2)))


def learn_shot_sd(
    believed: Floats, current: Floats, thetas: list[Floats], precisions: list[Floats], film: tuple[Floats, Floats]
) -> Floats:
    """Return how far shots depart from the film's mean: one step of expectation and maximisation.

    Parameters
    ----------
    believed, current : (D,) ndarray
        The table's widths, and those that stand.
    thetas : list of (B, D) ndarray
    precisions : list of (B, D, D) ndarray
        What the readings say of each shot's parameters.
    film : (mean, covariance)
        Of the film's mean.
    """
    mean, covariance = film
    prior = np.diag(current**-2.0)
    squares = SHOT_SD_WEIGHT * believed**2
    count = SHOT_SD_WEIGHT
    for theta, precision in zip(thetas, precisions, strict=True):
        own = np.linalg.inv(precision + prior)
        follow = own @ prior - np.eye(len(mean))
        unsure = np.einsum("bii->bi", own) + np.einsum("bij,jk,bik->bi", follow, covariance, follow)
        squares = squares + ((theta - mean) ** 2 + unsure).sum(axis=0)
        count += len(theta)
    return np.asarray(np.sqrt(squares / count))
