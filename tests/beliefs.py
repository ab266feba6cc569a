"""The density of what is believed and read, written down a second time and plainly, for tests of the fit and of draws."""

from itertools import combinations

import numpy as np

from pemlo.core.cost.along import matern32
from pemlo.core.cost.priors import OUTLIER_SD, OUTLIER_SHARE


def choices(seen, spread):
    """Covariances of the readings and log priors, for every choice of up to two outliers."""
    count = len(seen)
    process = matern32(seen.place, seen.place, spread.along_sd, spread.along_length)
    process = process * np.outer(seen.timed, seen.timed)
    for wrong in range(min(2, count) + 1):
        for members in combinations(range(count), wrong):
            own = seen.reading_variance + spread.repeat_sd**2
            own[list(members)] = seen.reading_variance[list(members)] + OUTLIER_SD**2
            yield process + np.diag(own), wrong * np.log(OUTLIER_SHARE / (1 - OUTLIER_SHARE))


def log_likelihood(seen, spread, left):
    """Log density of residuals (N, K) but for a constant, outliers summed over."""
    terms = []
    for covariance, prior in choices(seen, spread):
        _, size = np.linalg.slogdet(covariance)
        terms.append(prior - 0.5 * size - 0.5 * np.einsum("nk,kl,nl->n", left, np.linalg.inv(covariance), left))
    return np.logaddexp.reduce(terms, axis=0)


def log_likelihood_of_any_level(seen, spread, left, random):
    """The same where all times may be any factor longer; with a draw of that factor's log, (N,)."""
    terms, levels = [], []
    one = seen.timed.astype(float)
    for covariance, prior in choices(seen, spread):
        weight = np.linalg.inv(covariance)
        _, size = np.linalg.slogdet(covariance)
        sure = one @ weight @ one
        middle = left @ weight @ one / sure
        square = np.einsum("nk,kl,nl->n", left, weight, left) - middle**2 * sure
        terms.append(prior - 0.5 * (size + np.log(sure)) - 0.5 * square)
        levels.append(middle + random.standard_normal(len(left)) / np.sqrt(sure))
    total = np.logaddexp.reduce(terms, axis=0)
    share = np.exp(np.array(terms) - total)
    picked = (random.random(len(left)) > np.cumsum(share, axis=0)).sum(axis=0).clip(0, len(terms) - 1)
    return total, np.array(levels)[picked, np.arange(len(left))]
