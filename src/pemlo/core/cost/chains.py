"""Draws from what is known of all timed shots and of the film's mean: many short Markov chains side by side. NumPy.

What a stage costs is often known from one side only: preparing may be a tenth of a percent of the frame or nothing at
all. There a normal distribution about the most probable parameters is wrong, however it is bent. So draws begin near
the trials, by solving for each of them, and then walk with the posterior density itself: along differences between
chains; and by asking the prior for one stage anew, with the level brought to where the readings agree again.

References
----------
.. [1] Starts, randomize-then-optimize: J. Bardsley, A. Solonen, H. Haario, M. Laine, "Randomize-then-optimize: a method
   for sampling from posterior distributions in nonlinear inverse problems", SIAM J. Sci. Comput. 36, 2014.
.. [2] Steps along differences: C. ter Braak, "A Markov chain Monte Carlo version of the genetic algorithm Differential
   Evolution", Statistics and Computing 16, 2006; in two halves: J. Goodman and J. Weare, Comm. App. Math. Comp. Sci. 5,
   2010.
"""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

from pemlo.core.arrays import Floats
from pemlo.core.cost.batches import Batch, batch_rows, residuals_of_draws
from pemlo.core.cost.frame_model import log_readings
from pemlo.core.cost.observations import is_time
from pemlo.core.cost.outliers import Likelihood
from pemlo.core.cost.posterior import Spread
from pemlo.core.cost.priors import (
    FIRST_DENOISER,
    LIGHT,
    NOISE,
    NOISE_POWER,
    NOISE_SPREAD,
    PIXEL,
    PREPARE,
    SAMPLE,
    SPECKS,
    WRITE,
    PriorTable,
)
from pemlo.core.progress import Monitor

DRAWS = 1000
MOST_ALONE = 12  # shots up to which each walks with the film's mean left open; with more, all walk given its draws
# Chains of each shot, sweeps that are thrown away, and sweeps from one draw of a chain to the next: fewer of all where
# many shots walk, as their sum is what is asked for.
ALONE, TOGETHER = (200, 16, 4), (100, 12, 2)
UNLIKELY = 1e-3  # a choice of two outliers that is less probable than this is weighed no further
SOLVER_STEPS = 6
LONGEST_STEP = 2.0
WHOLE_STEPS = 0.1  # share of steps along a difference that go all of it: from one mode to another


@dataclass(frozen=True)
class Chains:
    """Draws: of the film's mean, (N, D), and of each timed shot, (S, N, D)."""

    film: Floats
    theta: Floats


def run_chains(
    table: PriorTable,
    spread: Spread,
    batches: Sequence[Batch],
    likelihoods: Sequence[Likelihood],
    best: Floats,
    seed: int,
    monitor: Monitor,
) -> Chains:
    """Draw parameters of the timed shots and of the film's mean.

    Parameters
    ----------
    table : PriorTable
    spread : Spread
    batches, likelihoods
        Of the shots.
    best : (S, D) ndarray
        Most probable parameters.
    seed : int
        >= 0.
    """
    walk = _Walk(table, spread, batches, likelihoods, best, np.random.default_rng([seed, 1]))
    films, thetas = [], []
    count, burn_in, stride = walk.pace
    sweeps = burn_in + stride * (DRAWS // count - 1) + 1
    for number in range(sweeps):
        monitor.step(number / sweeps, "Drawing from what is known")
        take = number >= burn_in and (number - burn_in) % stride == 0
        walk.sweep(rest=take or number % 4 == 0)
        if take:
            films.append(walk.film.copy())
            thetas.append(walk.theta.copy())
    # In no order, so that the first half stands for all.
    order = np.random.default_rng(0).permutation(DRAWS)
    return Chains(np.concatenate(films)[order], np.concatenate(thetas, axis=1)[:, order])


def draw_film_mean(table: PriorTable, count: int, seed: int) -> Floats:
    """Draw the film's mean as it is believed before anything is timed, (N, D)."""
    random = np.random.default_rng([seed, 1])
    return table.mean + random.standard_normal((count, table.size)) @ np.linalg.cholesky(table.covariance).T


class _Walk:
    """Chains of all shots as they stand.

    Attributes
    ----------
    film : (N, D) ndarray
    theta : (S, N, D) ndarray
    """

    def __init__(
        self,
        table: PriorTable,
        spread: Spread,
        batches: Sequence[Batch],
        likelihoods: Sequence[Likelihood],
        best: Floats,
        random: np.random.Generator,
    ) -> None:
        self._random = random
        self._prior = np.diag(spread.shot_sd**-2.0)
        self._own = np.linalg.inv(table.covariance)
        self._pull = self._own @ table.mean
        self._alone = len(best) <= MOST_ALONE
        self.pace = ALONE if self._alone else TOGETHER
        self.theta = np.repeat(best[:, None], self.pace[0], axis=1)
        self.film = self._draw_film()
        self._groups = [
            _Group(part, some, best[part.shots], table.timed, random)
            for batch, likelihood in zip(batches, likelihoods, strict=True)
            for part, some in _parts(batch, likelihood, best, alone=self._alone)
        ]
        for group in self._groups:
            mean, precision = self._belief(group)
            self.theta[group.shots] = group.start(mean, precision)
        self.film = self._draw_film()

    def sweep(self, *, rest: bool) -> None:
        """Go a step or two with every shot, then draw the film's mean given them.

        What no reading of a shot shows is drawn anew only where that is asked for: it is dear, and walks at once.
        """
        for group in self._groups:
            mean, precision = self._belief(group)
            theta = group.walk(self.theta[group.shots], mean, precision)
            self.theta[group.shots] = group.draw_rest(theta, mean, precision) if rest else theta
        self.film = self._draw_film()

    def _belief(self, group: "_Group") -> tuple[Floats, Floats]:
        """Return what is believed of the shots of a group: mean, (1, N, D), and precision, (D, D)."""
        if not self._alone:
            return self.film[None], self._prior
        others = len(self.theta) - 1
        precision = self._own + others * self._prior
        rest = self.theta.sum(axis=0) - self.theta[group.shots].sum(axis=0)
        mean = np.linalg.solve(precision, (self._pull + rest @ self._prior).T).T
        return mean[None], np.asarray(np.linalg.inv(np.linalg.inv(precision) + np.linalg.inv(self._prior)))

    def _draw_film(self) -> Floats:
        precision = self._own + len(self.theta) * self._prior
        covariance = np.linalg.inv(precision)
        mean = (self._pull + self.theta.sum(axis=0) @ self._prior) @ covariance
        root = np.linalg.cholesky((covariance + covariance.T) / 2)
        return np.asarray(mean + self._random.standard_normal(mean.shape) @ root.T)


def _parts(batch: Batch, likelihood: Likelihood, best: Floats, *, alone: bool) -> list[tuple[Batch, Likelihood]]:
    """Part a batch into groups that walk side by side; those of one need only choices of outliers that are probable."""
    share = likelihood.choices(residuals_of_draws(best[batch.shots][:, None], batch))[:, 0]
    few = likelihood.outliers.sum(axis=2) <= 1
    needs = few | (share > UNLIKELY)
    plain = ~(needs & ~few).any(axis=1)
    rows = [np.array([row]) for row in range(len(plain)) if alone or not plain[row]]
    if not alone:
        rows.append(np.flatnonzero(plain))
    return [
        (batch_rows(batch, members), likelihood.some(members, np.flatnonzero(needs[members].any(axis=0))))
        for members in rows
        if len(members)
    ]


class _Group:
    """Shots that walk side by side, B of them.

    `mean` (1 or B, N, D) and `precision` (D, D) say what is believed of each before its readings.
    """

    def __init__(
        self,
        batch: Batch,
        likelihood: Likelihood,
        best: Floats,
        timed: npt.NDArray[np.bool_],
        random: np.random.Generator,
    ) -> None:
        self.shots = batch.shots
        self._batch, self._likelihood, self._random = batch, likelihood, random
        self._best = best
        self._timed = timed.astype(float)
        _, jacobian = log_readings(best[:, None], batch.frames, batch.holds)
        self._active = np.abs(jacobian).max(axis=(0, 1)) > 0
        # Where all pixels take the most, or the least, the noise leaves no slope, and is asked for all the same.
        predicted = batch.valid & ~np.isnan(batch.frames.threshold) & np.isnan(batch.frames.spent)
        shaped = ~np.isnan(batch.frames.shape[..., 0, 0])
        self._active[[NOISE, NOISE_POWER]] |= predicted.any()
        self._active[NOISE_SPREAD] |= (predicted & ~shaped).any()
        self._active[SPECKS] |= (predicted & shaped).any()
        self._blocks = _blocks(self._active)
        of_time = batch.valid & is_time(batch.holds)
        weight = of_time / (batch.reading_variance + 1e-3)
        self._level_weight = weight / np.maximum(weight.sum(axis=1, keepdims=True), 1e-300)
        self._of_time = of_time

    def start(self, mean: Floats, precision: Floats) -> Floats:
        """Solve for the parameters of each draw, its readings and its prior each moved as far as they are unsure."""
        batch, count = self._batch, len(self.shots)
        covariance = np.linalg.inv(precision)
        root = np.linalg.cholesky((covariance + covariance.T) / 2)
        chains = mean.shape[1]
        wanted = mean + self._random.standard_normal((count, chains, len(root))) @ root.T
        chosen, own = self._start_weights(chains)
        at = (np.arange(count)[:, None], chosen)
        apart = self._random.standard_normal((count, chains, batch.value.shape[1], 1))
        value = batch.value[:, None] + (np.linalg.cholesky(own)[at] @ apart)[..., 0]
        readings = own[at]
        # The level is as good as free, and what is timed far better known: it is brought there first.
        theta = wanted + self._level(self._residual(wanted) + value - batch.value[:, None])[..., None] * self._timed
        for _ in range(SOLVER_STEPS):
            model, jacobian = log_readings(theta[:, :, None], batch.frames[:, None], batch.holds[:, None])
            jacobian = np.where(batch.valid[:, None, :, None], jacobian, 0.0)
            model = np.where(batch.valid[:, None], model, value)
            gain = jacobian @ covariance
            left = value - model - np.einsum("bnkd,bnd->bnk", jacobian, wanted - theta)
            pull = np.linalg.solve(gain @ np.swapaxes(jacobian, 2, 3) + readings, left[..., None])[..., 0]
            then = wanted + np.einsum("bnkd,bnk->bnd", gain, pull)
            theta = theta + np.clip(then - theta, -LONGEST_STEP, LONGEST_STEP)
        return np.asarray(theta)

    def _start_weights(self, chains: int) -> tuple[npt.NDArray[np.intp], Floats]:
        """Choose for each chain which readings it takes for outliers; return the choices (B, N) and covariances."""
        covariance = np.linalg.inv(self._likelihood.weight)
        residual = self._residual(self._best[:, None])
        share = self._likelihood.choices(residual)[:, 0] ** 0.25
        share = np.where(share > 0.02, share, 0.0) if share.shape[1] > 1 else share
        share /= share.sum(axis=1, keepdims=True)
        at = self._random.random((len(share), chains))
        return (at[..., None] > np.cumsum(share, axis=1)[:, None]).sum(axis=-1).clip(0, share.shape[1] - 1), covariance

    def walk(self, theta: Floats, mean: Floats, precision: Floats) -> Floats:
        """Return the chains, (B, N, D), one sweep later."""
        state = _State(theta, self._residual(theta))
        state.density = self._density(state, mean, precision)
        self._ask_prior(state, mean, precision, self._blocks[self._random.integers(len(self._blocks))])
        for half in (0, 1):
            self._go_along_differences(state, mean, precision, half)
        return state.theta

    def draw_rest(self, theta: Floats, mean: Floats, precision: Floats) -> Floats:
        """Draw what no reading shows from what is believed; (B, N, D)."""
        rest = np.flatnonzero(~self._active)
        if len(rest):
            theta = theta.copy()
            theta[..., rest] = self._conditional(theta, mean, precision, rest)[0]
        return theta

    def _density(self, state: "_State", mean: Floats, precision: Floats) -> Floats:
        prior = _quadratic(state.theta - mean, precision)
        return np.asarray(self._likelihood.log_density(state.residual) - 0.5 * prior)

    def _residual(self, theta: Floats) -> Floats:
        return residuals_of_draws(theta, self._batch)

    def _level(self, residual: Floats) -> Floats:
        return np.asarray((residual * self._level_weight[:, None]).sum(axis=-1))

    def _conditional(
        self, theta: Floats, mean: Floats, precision: Floats, block: npt.NDArray[np.intp]
    ) -> tuple[Floats, Floats, Floats]:
        """Draw some parameters from what is believed given the others; with their means and precision."""
        middle, own = _given_rest(theta, mean, precision, block)
        covariance = np.linalg.inv(own)
        root = np.linalg.cholesky((covariance + covariance.T) / 2)
        return middle + self._random.standard_normal(middle.shape) @ root.T, middle, own

    def _ask_prior(self, state: "_State", mean: Floats, precision: Floats, block: npt.NDArray[np.intp]) -> None:
        """Draw some stages anew from what is believed, then bring the level to where it fitted as well as before."""
        drawn, middle, own = self._conditional(state.theta, mean, precision, block)
        theta = state.theta.copy()
        theta[..., block] = drawn
        residual = self._residual(theta)
        shift = self._level(residual - state.residual)
        there = _quadratic(drawn - middle, own)
        back_theta = state.theta + shift[..., None] * self._timed
        back = _quadratic(back_theta[..., block] - _given_rest(back_theta, mean, precision, block)[0], own)
        theta += shift[..., None] * self._timed
        residual = residual - shift[..., None] * self._of_time[:, None]
        self._take(state, theta, residual, mean, precision, 0.5 * (there - back), slice(None))

    def _go_along_differences(self, state: "_State", mean: Floats, precision: Floats, half: int) -> None:
        mine, others = slice(half, None, 2), state.theta[:, 1 - half :: 2]
        count = others.shape[1]
        first, second = self._random.choice(count, 2, replace=False)
        difference = np.roll(others, first, axis=1) - np.roll(others, second, axis=1)
        shape = difference.shape[:2]
        size = 2.38 / np.sqrt(2 * max(1, self._active.sum())) * np.exp(0.6 * self._random.standard_normal(shape))
        size = np.where(self._random.random(shape) < WHOLE_STEPS, 1.0, size)
        theta = state.theta[:, mine] + size[..., None] * difference * self._active
        part = mean if mean.shape[1] == 1 else mean[:, mine]
        self._take(state, theta, self._residual(theta), part, precision, 0.0, mine)

    def _take(
        self,
        state: "_State",
        theta: Floats,
        residual: Floats,
        mean: Floats,
        precision: Floats,
        favour: Floats | float,
        which: slice,
    ) -> None:
        """Take what was proposed where the density says so (Metropolis and Hastings)."""
        tried = _State(theta, residual)
        tried.density = self._density(tried, mean, precision)
        chance = tried.density - state.density[:, which] + favour
        taken = np.log(self._random.random(chance.shape)) < chance
        state.theta[:, which][taken] = theta[taken]
        state.residual[:, which][taken] = residual[taken]
        state.density[:, which][taken] = tried.density[taken]


class _State:
    """Chains in the middle of a sweep: parameters (B, N, D), residuals (B, N, K), log densities (B, N)."""

    def __init__(self, theta: Floats, residual: Floats) -> None:
        self.theta, self.residual = theta, residual
        self.density = np.zeros(theta.shape[:2])


def _quadratic(off: Floats, precision: Floats) -> Floats:
    if not np.any(precision - np.diag(np.diag(precision))):
        return np.asarray((off * off) @ np.diag(precision))
    return np.asarray(((off @ precision) * off).sum(axis=-1))


def _given_rest(
    theta: Floats, mean: Floats, precision: Floats, block: npt.NDArray[np.intp]
) -> tuple[Floats, Floats]:
    """Return mean and precision of some parameters given the others."""
    own = precision[np.ix_(block, block)]
    rest = np.setdiff1d(np.arange(len(precision)), block)
    pull = precision[np.ix_(rest, block)] @ np.linalg.inv(own)
    middle = mean[..., block]
    if pull.any():
        middle = middle - (theta[..., rest] - mean[..., rest]) @ pull
    return np.broadcast_to(middle, (*theta.shape[:-1], len(block))), own


def _blocks(active: npt.NDArray[np.bool_]) -> list[npt.NDArray[np.intp]]:
    """Return the parameters that are asked for anew together."""
    wanted = [(PREPARE, LIGHT), (PIXEL, WRITE), (SAMPLE,), (NOISE, NOISE_SPREAD)]
    wanted += [(number,) for number in range(FIRST_DENOISER, len(active))]
    found = [np.array([number for number in block if active[number]], dtype=np.intp) for block in wanted]
    return [block for block in found if len(block)]
