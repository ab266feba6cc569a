"""The fit: from timed trials to what is known of every shot. Pure NumPy; runs in whatever thread calls it.

A shot's log parameters depart from the film's mean, which is uncertain itself; readings depart from the model by how
cost runs along the shot and by repeatability, and a few are grossly wrong. In turn, until nothing moves: linearise at
the parameters; weigh each reading by how probably it is sound; solve the film's mean exactly in the linear model, then
each shot; and learn how widely things vary. So a shot that was never timed gets the film's mean and the full width of
shots about it.

References
----------
.. [1] Partial pooling: A. Gelman and J. Hill, "Data Analysis Using Regression and Multilevel/Hierarchical Models",
   Cambridge 2007, ch. 12.
.. [2] Laplace's approximation: C. Bishop, "Pattern Recognition and Machine Learning", Springer 2006, sec. 4.4.
.. [3] Gross errors as a second normal: G. Box and G. Tiao, "A Bayesian approach to some outlier problems",
   Biometrika 55, 1968.
"""

from dataclasses import dataclass, replace

import numpy as np

from pemlo.core.arrays import Floats
from pemlo.core.cost.along import matern32
from pemlo.core.cost.batches import Batch, linearise, make_batches, residuals
from pemlo.core.cost.gauss_newton import Linear, Normal, damped_step, normal_equations, quadratic
from pemlo.core.cost.observations import Observations, is_time, noise_centre, observations
from pemlo.core.cost.posterior import Fit, ShotPosterior, Spread
from pemlo.core.cost.priors import (
    ALONG_LENGTH,
    ALONG_SD,
    GROSS_SD,
    GROSS_SHARE,
    REPEAT_SD,
    SAMPLE,
    PriorTable,
    prior_table,
)
from pemlo.core.cost.spread import learn_shot_sd, learn_spread
from pemlo.core.plan.project import Project
from pemlo.core.progress import Monitor, Unwatched

MOST_ROUNDS = 40
LEARN_AT = (4, 8, 12)  # rounds in which the widths are learned anew
FIRST_SD = 0.3  # readings are loose at first, so that a gross error cannot hold the start
TOLERANCE = 1e-4


@dataclass(frozen=True)
class Film:
    """The film's mean as it stands: value (D,), covariance (D, D)."""

    mean: Floats
    covariance: Floats


def fit(project: Project, monitor: Monitor | None = None) -> Fit:
    """Fit the cost of every shot of a project to its trials.

    Parameters
    ----------
    project : Project
        Any number of shots, timed or not.
    monitor : Monitor, optional
        Hears of progress; may stop the work.

    Returns
    -------
    Fit
        With no trial at all, only what was believed before (`known` is False).
    """
    found = observations(project)
    ways = project.ways()
    table = prior_table(ways, noise_centre(project))
    solver = Solver(table, list(found.values()))
    solver.run(monitor or Unwatched())
    timed = dict(zip(found, solver.posteriors(), strict=True))
    spread = solver.spread
    return Fit(
        ways,
        solver.film.mean,
        solver.film.covariance,
        spread,
        {shot.name: timed.get(shot.name) or _untimed(solver.film, spread) for shot in project.shots},
        len({int(number) for readings in found.values() for number in readings.trial}),
    )


def _untimed(film: Film, spread: Spread) -> ShotPosterior:
    size = len(film.mean)
    return ShotPosterior(
        film.mean,
        np.diag(spread.shot_sd**2),
        np.eye(size),
        None,
        np.zeros((0, size)),
        np.zeros(0),
        np.zeros((0, 0)),
        np.zeros(0),
    )


class Solver:
    """The rounds of a fit over the shots that were timed."""

    def __init__(self, table: PriorTable, readings: list[Observations]) -> None:
        self._table = table
        self._readings = readings
        self._batches = make_batches(readings)
        self._prior_precision = np.linalg.inv(table.covariance)
        self.film = Film(table.mean, table.covariance)
        self.spread = Spread(table.shot_sd, ALONG_SD, ALONG_LENGTH, REPEAT_SD)
        self._theta = self._start()
        self._sound = [np.ones(batch.value.shape) for batch in self._batches]

    def run(self, monitor: Monitor) -> None:
        """Go round until nothing moves."""
        if not self._readings:
            return
        for number in range(MOST_ROUNDS):
            monitor.step(number / MOST_ROUNDS, "Fitting the trials")
            loose = FIRST_SD * 0.5**number
            if number in LEARN_AT:
                self._learn()
            moved = self._round(max(self.spread.repeat_sd, loose))
            if moved < TOLERANCE and loose < self.spread.repeat_sd and number > LEARN_AT[-1]:
                return

    def posteriors(self) -> list[ShotPosterior]:
        """Return what is known of each shot, in the order of the readings."""
        found: list[ShotPosterior | None] = [None] * len(self._readings)
        prior = np.diag(self.spread.shot_sd**-2.0)
        for batch, sound in zip(self._batches, self._sound, strict=True):
            theta = self._theta[batch.shots]
            linear = linearise(theta, batch)
            normal = self._normal(batch, linear, theta, sound, self.spread.repeat_sd)
            covariance = np.linalg.inv(normal.precision + prior)
            for row, shot in enumerate(batch.shots):
                size = len(self._readings[shot])
                found[shot] = ShotPosterior(
                    theta[row],
                    covariance[row],
                    covariance[row] @ prior,
                    self._readings[shot],
                    linear.jacobian[row, :size],
                    linear.residual[row, :size],
                    normal.weight[row, :size, :size],
                    sound[row, :size],
                )
        return [posterior for posterior in found if posterior is not None]

    def _start(self) -> Floats:
        """Start every shot at the prior, its times brought to the level of its readings."""
        theta = np.tile(self._table.mean, (len(self._readings), 1))
        for batch in self._batches:
            timed = batch.valid & is_time(batch.holds)
            level = np.nanmedian(np.where(timed, residuals(theta[batch.shots], batch), np.nan), axis=1)
            theta[batch.shots] += level[:, None] * self._table.timed
        if len(theta):
            shift = (np.median(theta[:, SAMPLE]) - self._table.mean[SAMPLE]) * self._table.timed
            self.film = Film(self._table.mean + shift, self._table.covariance)
        return theta

    def _covariance(self, batch: Batch) -> Floats:
        process = matern32(batch.place, batch.place, self.spread.along_sd, self.spread.along_length)
        return np.where(batch.together, process, 0.0)

    def _normal(self, batch: Batch, linear: Linear, theta: Floats, sound: Floats, repeat_sd: float) -> Normal:
        readings = self._covariance(batch)
        index = np.arange(readings.shape[1])
        readings[:, index, index] += reading_variance(batch, sound, repeat_sd)
        return normal_equations(linear, theta, np.asarray(np.linalg.inv(readings), dtype=np.float64))

    def _round(self, repeat_sd: float) -> float:
        prior = np.diag(self.spread.shot_sd**-2.0)
        steps = []
        precision, information = self._prior_precision.copy(), self._prior_precision @ self._table.mean
        for batch, sound in zip(self._batches, self._sound, strict=True):
            theta = self._theta[batch.shots]
            linear = linearise(theta, batch)
            normal = self._normal(batch, linear, theta, sound, repeat_sd)
            covariance = np.linalg.inv(normal.precision + prior)
            kept = normal.precision - normal.precision @ covariance @ normal.precision
            told = normal.information - np.einsum("bij,bj->bi", normal.precision @ covariance, normal.information)
            precision += kept.sum(axis=0)
            information += told.sum(axis=0)
            steps.append((linear, normal, covariance, kept, told))
        film_covariance = np.linalg.inv(precision)
        self.film = Film(film_covariance @ information, (film_covariance + film_covariance.T) / 2)
        moved = 0.0
        for number, (batch, (linear, normal, covariance, kept, told)) in enumerate(
            zip(self._batches, steps, strict=True)
        ):
            theta = self._theta[batch.shots]
            self._sound[number] = self._weigh(
                batch, linear, theta, self._sound[number], (precision - kept, information - told), repeat_sd
            )
            wanted = np.einsum("bij,bj->bi", covariance, normal.information + prior @ self.film.mean)
            self._theta[batch.shots] = self._step(batch, theta, wanted, normal.weight, prior)
            moved = max(moved, float(np.abs(self._theta[batch.shots] - theta).max()))
        return moved

    def _step(self, batch: Batch, theta: Floats, wanted: Floats, weight: Floats, prior: Floats) -> Floats:
        def cost(at: Floats) -> Floats:
            off: Floats = at - self.film.mean
            return np.asarray(quadratic(weight, residuals(at, batch)) + (off**2 * np.diag(prior)).sum(axis=1))

        return damped_step(cost, theta, wanted)

    def _weigh(
        self,
        batch: Batch,
        linear: Linear,
        theta: Floats,
        sound: Floats,
        others: tuple[Floats, Floats],
        repeat_sd: float,
    ) -> Floats:
        """Return how probably each reading is sound, judged by what all other readings of the film foretell."""
        precision, information = others
        film_covariance = np.linalg.inv(precision)
        film_mean = np.einsum("bij,bj->bi", film_covariance, information)
        spread = film_covariance + np.diag(self.spread.shot_sd**2)
        jacobian = linear.jacobian
        readings = self._covariance(batch) + jacobian @ spread @ np.swapaxes(jacobian, 1, 2)
        index = np.arange(readings.shape[1])
        own = reading_variance(batch, sound, repeat_sd)
        readings[:, index, index] += own
        off = linear.residual + np.einsum("bkd,bd->bk", jacobian, theta - film_mean)
        weight = np.linalg.inv(readings)
        variance = 1.0 / weight[:, index, index]
        miss = np.einsum("bkl,bl->bk", weight, off) * variance
        foretold = np.maximum(variance - own, 0.0) + batch.reading_variance
        good = (1 - GROSS_SHARE) * _density(miss, foretold + repeat_sd**2)
        gross = GROSS_SHARE * _density(miss, foretold + GROSS_SD**2)
        return np.asarray(np.where(batch.valid, good / (good + gross + 1e-300), 1.0))

    def _learn(self) -> None:
        linears = [linearise(self._theta[batch.shots], batch) for batch in self._batches]
        offs = [
            linear.residual + np.einsum("bkd,bd->bk", linear.jacobian, self._theta[batch.shots] - self.film.mean)
            for batch, linear in zip(self._batches, linears, strict=True)
        ]
        self.spread = learn_spread(self.spread, self._batches, [li.jacobian for li in linears], offs, self._sound)
        normals = [
            self._normal(batch, linear, self._theta[batch.shots], sound, self.spread.repeat_sd)
            for batch, linear, sound in zip(self._batches, linears, self._sound, strict=True)
        ]
        shot_sd = learn_shot_sd(
            self._table.shot_sd,
            self.spread.shot_sd,
            [self._theta[batch.shots] for batch in self._batches],
            [normal.precision for normal in normals],
            (self.film.mean, self.film.covariance),
        )
        self.spread = replace(self.spread, shot_sd=shot_sd)


def reading_variance(batch: Batch, sound: Floats, repeat_sd: float) -> Floats:
    """Return the variance of each reading: repeatability, wider as it is less probably sound; 1 in padding."""
    precision = sound / repeat_sd**2 + (1.0 - sound) / GROSS_SD**2
    return np.where(batch.valid, batch.reading_variance + 1.0 / precision, 1.0)


def _density(value: Floats, variance: Floats) -> Floats:
    return np.asarray(np.exp(-0.5 * value**2 / variance) / np.sqrt(variance))
