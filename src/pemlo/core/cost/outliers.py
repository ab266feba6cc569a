"""Which readings may be grossly wrong: the likelihood of a shot's readings, summed over who may be an outlier. NumPy.

Of few readings every choice of up to two outliers is weighed, so that nothing is called wrong before the rest can say
so. Of many, each reading has an inlier probability that is found in turn with the fit, as there the rest is sure.

References
----------
.. [1] Gross errors as a second normal: G. Box and G. Tiao, "A Bayesian approach to some outlier problems",
   Biometrika 55, 1968.
"""

from dataclasses import dataclass
from itertools import combinations

import numpy as np
import numpy.typing as npt

from pemlo.core.arrays import Floats
from pemlo.core.cost.along import matern32
from pemlo.core.cost.batches import Batch, missed
from pemlo.core.cost.posterior import Spread
from pemlo.core.cost.priors import OUTLIER_SD, OUTLIER_SHARE

MOST_PAIRED = 8  # readings of a shot up to which pairs of outliers are weighed
MOST_WEIGHED = 16  # and up to which each one is


@dataclass(frozen=True)
class Likelihood:
    """Of B shots with K readings, over Z choices of outliers.

    Attributes
    ----------
    outliers : (B, Z, K) ndarray of float
        Share of each reading that is an outlier in a choice: 0 or 1, or in between where it is only probable.
    log_prior : (B, Z) ndarray
        Of each choice, with half the log determinant of its weight.
    weight : (B, Z, K, K) ndarray
        Inverse covariance of the readings given the parameters.
    bounds : (B, K) ndarray of bool
        Which readings only say that a frame takes longer.
    """

    outliers: Floats
    log_prior: Floats
    weight: Floats
    bounds: npt.NDArray[np.bool_]

    def choices(self, residual: Floats) -> Floats:
        """Return how probable each choice is at residuals (B, N, K); (B, N, Z)."""
        terms = self._terms(residual)
        share = np.exp(terms - terms.max(axis=1, keepdims=True))
        return np.swapaxes(share / share.sum(axis=1, keepdims=True), 1, 2)

    def _terms(self, residual: Floats) -> Floats:
        """Return the log density of each choice, (B, Z, N)."""
        count, choices, size, _ = self.weight.shape
        across = np.ascontiguousarray(np.swapaxes(missed(residual, self.bounds[:, None]), 1, 2))
        pull = (self.weight.reshape(count, choices * size, size) @ across).reshape(count, choices, size, -1)
        pull *= across[:, None]
        return np.asarray(self.log_prior[:, :, None] - 0.5 * pull.sum(axis=2))

    def log_density(self, residual: Floats) -> Floats:
        """Return the log density of residuals (B, N, K), but for a constant; (B, N)."""
        terms = self._terms(residual)
        top = terms.max(axis=1, keepdims=True)
        return np.asarray(top[:, 0] + np.log(np.exp(terms - top).sum(axis=1)))

    def some(self, rows: npt.NDArray[np.intp], choices: npt.NDArray[np.intp]) -> "Likelihood":
        """Return the likelihood of some shots over some of the choices."""
        at = np.ix_(rows, choices)
        return Likelihood(self.outliers[at], self.log_prior[at], self.weight[at], self.bounds[rows])

    def of_no_outliers(self) -> "Likelihood":
        """Return the likelihood with all readings taken for inliers."""
        return self.some(np.arange(len(self.weight)), np.array([0]))

    def mean_weight(self, residual: Floats) -> Floats:
        """Return the weight that has the density's own slope at residuals (B, K); (B, K, K)."""
        choices = self.choices(residual[:, None])[:, 0]
        return np.asarray(np.einsum("bz,bzkl->bkl", choices, self.weight))

    def inliers(self, choices: Floats) -> Floats:
        """Return the probability of each reading to be no outlier, (B, K), from that of the choices, (B, N, Z)."""
        return np.asarray(1.0 - np.einsum("bz,bzk->bk", choices.mean(axis=1), self.outliers))


def make_likelihood(batch: Batch, spread: Spread, repeat_sd: float, inlier: Floats | None = None) -> Likelihood:
    """Build the likelihood of a batch.

    Parameters
    ----------
    batch : Batch
    spread : Spread
        Of the course along the shot.
    repeat_sd : float
        Repeatability, log.
    inlier : (B, K) ndarray, optional
        Inlier probabilities, if there are too many readings to weigh each choice.
    """
    outliers = _choices(batch.valid) if inlier is None else (1.0 - inlier)[:, None, :]
    precision = (1.0 - outliers) / repeat_sd**2 + outliers / OUTLIER_SD**2
    own = np.where(batch.valid[:, None], batch.reading_variance[:, None] + 1.0 / precision, 1.0)
    process = matern32(batch.place, batch.place, spread.along_sd, spread.along_length)
    covariance = np.broadcast_to(np.where(batch.together, process, 0.0)[:, None], (*outliers.shape, own.shape[-1]))
    covariance = covariance + batch.shared[:, None]
    index = np.arange(own.shape[-1])
    covariance[..., index, index] += own
    count = outliers.sum(axis=-1)
    log_prior = count * np.log(OUTLIER_SHARE / (1 - OUTLIER_SHARE)) - 0.5 * np.linalg.slogdet(covariance)[1]
    # A choice that would call padding an outlier is none.
    none = (outliers * ~batch.valid[:, None]).sum(axis=-1) > 0
    log_prior = np.where(none, -np.inf, log_prior)
    return Likelihood(outliers, log_prior, np.asarray(np.linalg.inv(covariance)), batch.bounds)


def weighs_choices(batch: Batch) -> bool:
    """Return whether each choice of outliers is weighed."""
    return bool(batch.valid.shape[1] <= MOST_WEIGHED)


def _choices(valid: npt.NDArray[np.bool_]) -> Floats:
    size = valid.shape[1]
    chosen: list[tuple[int, ...]] = [(), *combinations(range(size), 1)]
    if size <= MOST_PAIRED:
        chosen += combinations(range(size), 2)
    rows = np.zeros((len(chosen), size))
    for row, members in zip(rows, chosen, strict=True):
        row[list(members)] = 1.0
    return np.broadcast_to(rows, (len(valid), *rows.shape))
