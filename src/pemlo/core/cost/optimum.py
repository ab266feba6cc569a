"""The most probable parameters of all shots and of the film's mean, together. Pure NumPy.

Levenberg and Marquardt over all shots at once: a step counts only where it betters the joint objective, and the film's
mean is always the best one for its shots. Readings are loose at first, so that a gross error cannot hold the start; on
the way the widths are learned; then rounds go on until nothing moves.

References
----------
.. [1] Partial pooling: A. Gelman and J. Hill, "Data Analysis Using Regression and Multilevel/Hierarchical Models",
   Cambridge 2007, ch. 12.
.. [2] Damped steps: J. Nocedal and S. Wright, "Numerical Optimization", 2nd ed., Springer 2006, sec. 10.3.
"""

from dataclasses import dataclass, replace

import numpy as np
import numpy.typing as npt

from pemlo.core.arrays import Floats
from pemlo.core.cost.batches import Batch, linearise, residuals
from pemlo.core.cost.observations import is_time
from pemlo.core.cost.outliers import Likelihood, make_likelihood, weighs_choices
from pemlo.core.cost.posterior import Spread
from pemlo.core.cost.priors import (
    ALONG_LENGTH,
    ALONG_SD,
    OUTLIER_SD,
    OUTLIER_SHARE,
    PriorTable,
)
from pemlo.core.cost.repeats import RepeatBelief
from pemlo.core.cost.spread import learn_shot_sd, learn_spread
from pemlo.core.progress import Monitor

MOST_ROUNDS = 80
LEARN_AT = (4, 8, 12)  # rounds in which the widths are learned anew
FIRST_SD = 0.3  # how loose readings are in the first round; half as loose in each that follows
SETTLED = 1e-3  # nats: what further rounds could still gain
QUIET_ROUNDS = 3
PATIENT_ROUNDS = 10
LONGEST_STEP = 3.0
FIRST_DAMPING, LEAST_DAMPING, MOST_DAMPING = 1e-2, 1e-6, 1e8


@dataclass(frozen=True)
class FilmMean:
    """The film's mean as it stands: value (D,), covariance (D, D)."""

    mean: Floats
    covariance: Floats


class Optimum:
    """The rounds of a fit over the shots that were timed.

    Attributes
    ----------
    film : FilmMean
    spread : Spread
    theta : (S, D) ndarray
        Most probable parameters of each shot.
    batches : list of Batch
    likelihoods : list of Likelihood
        Of each batch.
    timed : (D,) ndarray of bool
        Which parameters are times.
    settled : bool
        Whether the rounds came to rest.
    """

    def __init__(self, table: PriorTable, batches: list[Batch], shots: int, repeats: RepeatBelief) -> None:
        self._table = table
        self.timed = table.timed
        self._precision = np.linalg.inv(table.covariance)
        self._repeats = repeats
        self.batches = batches
        self.spread = Spread(table.shot_sd, ALONG_SD, ALONG_LENGTH, repeats.sd)
        self.theta = _at_the_level_of_readings(table, shots, self.batches)
        self.film = FilmMean(table.mean, table.covariance)
        self._inliers = [None if weighs_choices(batch) else np.ones(batch.value.shape) for batch in self.batches]
        self._damping = np.full(shots, FIRST_DAMPING)
        self.likelihoods: list[Likelihood] = []
        self._promise = np.inf  # by how much the next step should better the objective, nats
        self._quiet, self._reached = 0, np.inf
        self.settled = not shots

    def run(self, monitor: Monitor) -> None:
        """Go round until nothing moves; and once more from the start where outliers may have been called too soon."""
        if self.settled:
            return
        for number in range(MOST_ROUNDS):
            monitor.step(number / MOST_ROUNDS, "Fitting the trials")
            loose = FIRST_SD * 0.5**number
            if number in LEARN_AT:
                self._learn()
            last = number > LEARN_AT[-1] and loose < self.spread.repeat_sd
            self._weigh(max(self.spread.repeat_sd, loose), again=not last or number % 5 == 0)
            if self._comes_to_rest(self._round(), last=last):
                break
        doubtful = self._with_outliers()
        if doubtful.any():
            monitor.step(0.9, "Fitting the trials")
            self._start_again(doubtful)

    def _comes_to_rest(self, reached: float, *, last: bool) -> bool:
        """Return whether the rounds may end, from the objective that was reached."""
        self._quiet = self._quiet + 1 if last and self._reached - reached < SETTLED else 0
        self._reached = reached
        self.settled = self._quiet >= QUIET_ROUNDS and self._promise < SETTLED * len(self.theta)
        return self.settled

    def _with_outliers(self) -> npt.NDArray[np.bool_]:
        """Return which shots are fitted with one or more readings called wrong, (S,)."""
        found = np.zeros(len(self.theta), dtype=bool)
        for batch, likelihood in zip(self.batches, self.likelihoods, strict=True):
            if weighs_choices(batch):
                residual = residuals(self.theta[batch.shots], batch)[:, None]
                found[batch.shots] = likelihood.choices(residual)[:, 0, 0] < 0.5
        return found

    def _start_again(self, shots: npt.NDArray[np.bool_]) -> None:
        """Fit some shots anew, at first with no reading called wrong; each takes what is more probable."""
        before, whole = self.theta.copy(), self.likelihoods
        start = _at_the_level_of_readings(self._table, len(self.theta), self.batches)
        self.theta = np.where(shots[:, None], start, before)
        self._damping[:] = FIRST_DAMPING
        self.likelihoods = [likelihood.of_no_outliers() if weighs_choices(batch) else likelihood
                            for batch, likelihood in zip(self.batches, whole, strict=True)]  # fmt: skip
        self._go_on()
        self.likelihoods = whole
        self._go_on()
        mean = self.film.mean
        better = self._objective(self.theta, mean) < self._objective(before, mean)
        self.theta = np.where(better[:, None], self.theta, before)
        self._damping[:] = FIRST_DAMPING
        self._quiet, self._reached = 0, np.inf
        for _ in range(MOST_ROUNDS):
            if self._comes_to_rest(self._round(), last=True):
                return

    def _go_on(self) -> None:
        """Go a few rounds, fewer where they gain nothing more."""
        reached = np.inf
        for _ in range(PATIENT_ROUNDS):
            before, reached = reached, self._round()
            if before - reached < SETTLED and self._promise < SETTLED * len(self.theta):
                return

    def _weigh(self, repeat_sd: float, *, again: bool) -> None:
        if again:
            for number, batch in enumerate(self.batches):
                if self._inliers[number] is not None:
                    self._inliers[number] = self._inlier_probability(batch, self._inliers[number], repeat_sd)
        if again or not self.likelihoods:
            self.likelihoods = [
                make_likelihood(batch, self.spread, repeat_sd, inlier)
                for batch, inlier in zip(self.batches, self._inliers, strict=True)
            ]

    def _objective(self, theta: Floats, mean: Floats) -> Floats:
        """Return minus the log density of each shot given the film's mean, (S,)."""
        return self._of_shots(theta, mean) + self._of_readings(theta)

    def _of_shots(self, theta: Floats, mean: Floats) -> Floats:
        return np.asarray(0.5 * ((theta - mean) ** 2 / self.spread.shot_sd**2).sum(axis=1))

    def _of_readings(self, theta: Floats) -> Floats:
        found = np.empty(len(theta))
        for batch, likelihood in zip(self.batches, self.likelihoods, strict=True):
            found[batch.shots] = -likelihood.log_density(residuals(theta[batch.shots], batch)[:, None])[:, 0]
        return found

    def _best_mean(self, theta: Floats) -> Floats:
        prior = np.diag(self.spread.shot_sd**-2.0)
        precision = self._precision + len(theta) * prior
        return np.asarray(np.linalg.solve(precision, self._precision @ self._table.mean + prior @ theta.sum(axis=0)))

    def _round(self) -> float:
        """Go a step with every shot that it betters; return the joint objective."""
        mean = self._best_mean(self.theta)
        prior = np.diag(self.spread.shot_sd**-2.0)
        size = len(mean)
        slope = np.empty_like(self.theta)
        curvature = np.empty((len(self.theta), size, size))
        for batch, likelihood in zip(self.batches, self.likelihoods, strict=True):
            theta = self.theta[batch.shots]
            linear = linearise(theta, batch)
            pull = np.swapaxes(linear.jacobian, 1, 2) @ likelihood.mean_weight(linear.residual)
            slope[batch.shots] = np.einsum("bdk,bk->bd", pull, linear.residual) + (mean - theta) @ prior
            curvature[batch.shots] = pull @ linear.jacobian + prior
        own = np.linalg.inv(curvature)
        schur = self._precision + len(self.theta) * prior - prior @ own.sum(axis=0) @ prior
        covariance = np.linalg.inv(schur)
        self.film = FilmMean(mean, (covariance + covariance.T) / 2)
        index = np.arange(size)
        damped = curvature.copy()
        damped[:, index, index] *= 1 + self._damping[:, None]
        inverse = np.linalg.inv(damped)
        shift = np.linalg.solve(
            self._precision + len(self.theta) * prior - prior @ inverse.sum(axis=0) @ prior,
            prior @ np.einsum("sij,sj->i", inverse, slope),
        )
        step = np.einsum("sij,sj->si", inverse, slope + prior @ shift)
        self._promise = float((step * slope).sum())
        step = np.clip(step, -LONGEST_STEP, LONGEST_STEP)
        tried = self.theta + step
        read, read_then = self._of_readings(self.theta), self._of_readings(tried)
        better = read_then + self._of_shots(tried, mean + shift) < read + self._of_shots(self.theta, mean + shift)
        mixed = np.where(better[:, None], tried, self.theta)
        moved = self._best_mean(mixed)
        total = float((read + self._of_shots(self.theta, mean)).sum() + self._of_mean(mean))
        then = float((np.where(better, read_then, read) + self._of_shots(mixed, moved)).sum() + self._of_mean(moved))
        if then <= total:
            self.theta, total = mixed, then
            self.film = replace(self.film, mean=moved)
        else:
            better = np.zeros_like(better)
        self._damping = np.clip(self._damping * np.where(better, 0.2, 5.0), LEAST_DAMPING, MOST_DAMPING)
        return total

    def _of_mean(self, mean: Floats) -> float:
        off = mean - self._table.mean
        return float(0.5 * off @ self._precision @ off)

    def _inlier_probability(self, batch: Batch, inlier: Floats | None, repeat_sd: float) -> Floats:
        """Return how probably each of many readings is an inlier, judged by what the others predict."""
        assert inlier is not None
        linear = linearise(self.theta[batch.shots], batch)
        spread = self.film.covariance + np.diag(self.spread.shot_sd**2)
        likelihood = make_likelihood(batch, self.spread, repeat_sd, inlier)
        jacobian = linear.jacobian
        readings = np.linalg.inv(likelihood.weight[:, 0]) + jacobian @ spread @ np.swapaxes(jacobian, 1, 2)
        off = linear.residual + np.einsum("bkd,bd->bk", jacobian, self.theta[batch.shots] - self.film.mean)
        weight = np.linalg.inv(readings)
        index = np.arange(weight.shape[1])
        variance = 1.0 / weight[:, index, index]
        miss = np.einsum("bkl,bl->bk", weight, off) * variance
        own = batch.reading_variance + 1.0 / (inlier / repeat_sd**2 + (1.0 - inlier) / OUTLIER_SD**2)
        predicted = np.maximum(variance - own, 0.0) + batch.reading_variance
        good = (1 - OUTLIER_SHARE) * _density(miss, predicted + repeat_sd**2)
        bad = OUTLIER_SHARE * _density(miss, predicted + OUTLIER_SD**2)
        return np.asarray(np.where(batch.valid, good / (good + bad + 1e-300), 1.0))

    def _learn(self) -> None:
        linears = [linearise(self.theta[batch.shots], batch) for batch in self.batches]
        offs = [
            linear.residual + np.einsum("bkd,bd->bk", linear.jacobian, self.theta[batch.shots] - self.film.mean)
            for batch, linear in zip(self.batches, linears, strict=True)
        ]
        inliers = [
            np.where(batch.bounds, 0.0, likelihood.inliers(likelihood.choices(linear.residual[:, None])))
            for batch, likelihood, linear in zip(self.batches, self.likelihoods, linears, strict=True)
        ]
        jacobians = [linear.jacobian for linear in linears]
        self.spread = learn_spread(self.spread, self.batches, jacobians, offs, inliers, self._repeats)
        self._weigh(self.spread.repeat_sd, again=True)
        precisions = [
            np.swapaxes(linear.jacobian, 1, 2) @ likelihood.mean_weight(linear.residual) @ linear.jacobian
            for linear, likelihood in zip(linears, self.likelihoods, strict=True)
        ]
        thetas = [self.theta[batch.shots] for batch in self.batches]
        film = (self.film.mean, self.film.covariance)
        shot_sd = learn_shot_sd(self._table.shot_sd, self.spread.shot_sd, thetas, precisions, film)
        self.spread = replace(self.spread, shot_sd=shot_sd)


def _at_the_level_of_readings(table: PriorTable, shots: int, batches: list[Batch]) -> Floats:
    """Start every shot at the prior, its times brought to the level of its readings."""
    theta = np.tile(table.mean, (shots, 1))
    for batch in batches:
        timed = batch.valid & is_time(batch.mask)
        if timed.any():
            level = np.nan_to_num(np.nanmedian(np.where(timed, residuals(theta[batch.shots], batch), np.nan), axis=1))
            theta[batch.shots] += level[:, None] * table.timed
    return theta


def _density(value: Floats, variance: Floats) -> Floats:
    return np.asarray(np.exp(-0.5 * value**2 / variance) / np.sqrt(variance))
