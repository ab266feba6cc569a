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

import math
from collections.abc import Callable, Iterable, Sequence
from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

from pemlo.core.arrays import Floats
from pemlo.core.cost.batches import Batch, batch_rows, linearise, residuals_of_draws
from pemlo.core.cost.frame_model import log_readings
from pemlo.core.cost.observations import is_time
from pemlo.core.cost.outliers import Likelihood, weighs_choices
from pemlo.core.cost.posterior import DRAWS, Spread
from pemlo.core.cost.priors import (
    FIREFLIES,
    FIRST_DENOISER,
    LIGHT,
    NOISE,
    NOISE_POWER,
    NOISE_SPREAD,
    PIXEL,
    PREPARE,
    SAMPLE,
    WRITE,
    PriorTable,
)
from pemlo.core.progress import Monitor
from pemlo.core.threads import in_order

# Chains of each shot, sweeps that are thrown away, and sweeps from one draw of a chain to the next: fewer of all where
# many shots walk, as their sum is what is asked for.
PACES = {3: (200, 40, 8), 30: (200, 16, 2), math.inf: (100, 8, 1)}  # by the most shots that there may be
TOGETHER = 100  # shots that walk in one group; more are walked on two threads
UNLIKELY = 1e-3  # a choice of two outliers that is less probable than this is weighed no further
SOLVER_STEPS = 6
LONGEST_STEP = 2.0
PARAMETER_SHARES = (0.3, 0.6, 1.0)  # of the parameters that a step along a difference moves
OPEN_SHARE = 0.2  # chance of an outlier from which on it is open which one it is
HOTTEST, COOLING = 0.03, 0.75  # how little readings count there at first, and for what share of what is thrown away
STRAGGLES = 6.0  # nats below the middle chain
WHOLE_STEPS = 0.1  # share of steps along a difference that go all of it: from one mode to another


@dataclass(frozen=True)
class Chains:
    """Draws: of the film's mean, (N, D), and of each timed shot, (S, N, D)."""

    film: Floats
    theta: Floats


def begin_chains(
    table: PriorTable,
    spread: Spread,
    batches: Sequence[Batch],
    likelihoods: Sequence[Likelihood],
    best: Floats,
    film_covariance: Floats,
    seed: int,
) -> "Walk":
    """Return chains of the timed shots and of the film's mean where they begin: solved for near the trials.

    Parameters
    ----------
    table : PriorTable
    spread : Spread
    batches, likelihoods
        Of the shots.
    best : (S, D) ndarray
        Most probable parameters.
    film_covariance : (D, D) ndarray
        Of the film's mean about its most probable value.
    seed : int
        >= 0.
    """
    return Walk(table, spread, batches, likelihoods, best, film_covariance, np.random.default_rng([seed, 1]))


def run_chains(walk: "Walk", monitor: Monitor) -> Chains:
    """Draw parameters of the timed shots and of the film's mean; the chains go on from where they stand."""
    films, thetas = [], []
    count, burn_in, stride = walk.pace
    sweeps = burn_in + stride * (DRAWS // count - 1) + 1
    for number in range(sweeps):
        monitor.step(number / sweeps, "Drawing from what is known")
        take = number >= burn_in and (number - burn_in) % stride == 0
        walk.sweep(min(1.0, number / (COOLING * burn_in)), rest=take or number % 4 == 0)
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


class Walk:
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
        film_covariance: Floats,
        random: np.random.Generator,
    ) -> None:
        self._random, self._sweeps = random, 0
        self._prior = np.diag(spread.shot_sd**-2.0)
        self._own = np.linalg.inv(table.covariance)
        self._pull = self._own @ table.mean
        self.pace = next(pace for most, pace in PACES.items() if len(best) <= most)
        self.theta = np.repeat(best[:, None], self.pace[0], axis=1)
        self.film = self._first_film(film_covariance)
        parts = [
            part
            for batch, likelihood in zip(batches, likelihoods, strict=True)
            for part in _parts(batch, likelihood, best)
        ]
        # Many shots walk on two threads: then every group has random numbers of its own, whichever comes first.
        self._is_large = len(best) > TOGETHER
        dice = random.spawn(len(parts)) if self._is_large else [random] * len(parts)
        self._groups = [
            _Group(batch, likelihood, best[batch.shots], table.timed, own)
            for (batch, likelihood), own in zip(parts, dice, strict=True)
        ]
        mean, precision = self._belief()
        for group, theta in self._by_groups(self._groups, lambda group: group.start(mean, precision)):
            self.theta[group.shots] = theta
        self.film = self._draw_film()

    def sweep(self, cooled: float, *, rest: bool) -> None:
        """Go a step or two with every shot, then draw the film's mean given them.

        Where it is open which reading is an outlier, readings count little at first, so that chains find their way from
        one answer to the other; `cooled` goes from 0 to 1, where they count whole.
        What no reading of a shot shows is drawn anew only where that is asked for: it is expensive, and walks at once.
        """
        self._sweeps += 1
        mean, precision = self._belief()

        def walked(group: _Group) -> Floats:
            theta = group.walk(self.theta[group.shots], mean, precision, cooled)
            return group.draw_rest(theta, mean, precision) if rest else theta

        walking = [group for group in self._groups if not (group.is_sure and self._sweeps % 2)]
        for group, theta in self._by_groups(walking, walked):
            self.theta[group.shots] = theta
        self.film = self._draw_film()

    def _by_groups(
        self, groups: "Sequence[_Group]", work: "Callable[[_Group], Floats]"
    ) -> "Iterable[tuple[_Group, Floats]]":
        """Yield each group with what comes of it: given the film's mean they know nothing of each other."""
        return in_order(groups, work) if self._is_large else ((group, work(group)) for group in groups)

    def _belief(self) -> tuple[Floats, Floats]:
        """Return what is believed of each shot before its own readings: mean, (1, N, D), and precision, (D, D).

        Of one shot alone, with the film's mean left open: it would only follow the shot, and slow it down.
        """
        if len(self.theta) > 1:
            return self.film[None], self._prior
        mean = np.broadcast_to(np.linalg.solve(self._own, self._pull), self.film.shape)
        return mean[None], np.asarray(np.linalg.inv(np.linalg.inv(self._own) + np.linalg.inv(self._prior)))

    def _first_film(self, covariance: Floats) -> Floats:
        """Draw the film's mean as widely as it is unsure when the shots' parameters are left open."""
        root = np.linalg.cholesky(covariance + 1e-12 * np.eye(len(covariance)))
        return np.asarray(self._draw_film().mean(axis=0) + self._random.standard_normal(self.theta.shape[1:]) @ root.T)

    def _draw_film(self) -> Floats:
        precision = self._own + len(self.theta) * self._prior
        covariance = np.linalg.inv(precision)
        mean = (self._pull + self.theta.sum(axis=0) @ self._prior) @ covariance
        root = np.linalg.cholesky((covariance + covariance.T) / 2)
        return np.asarray(mean + self._random.standard_normal(mean.shape) @ root.T)


def _parts(batch: Batch, likelihood: Likelihood, best: Floats) -> list[tuple[Batch, Likelihood]]:
    """Part a batch into groups that walk side by side: shots that may hold two outliers from those that do not."""
    share = likelihood.choices(residuals_of_draws(best[batch.shots][:, None], batch))[:, 0]
    few = likelihood.outliers.sum(axis=2) <= 1
    needs = few | (share > UNLIKELY)
    plain = ~(needs & ~few).any(axis=1)
    together = np.flatnonzero(plain)
    rows = [together[at : at + TOGETHER] for at in range(0, len(together), TOGETHER)]
    rows += [np.array([row]) for row in np.flatnonzero(~plain)]
    return [
        (batch_rows(batch, members), likelihood.some(members, np.flatnonzero(needs[members].any(axis=0))))
        for members in rows
        if len(members)
    ]


class _Group:
    """Shots that walk side by side, B of them.

    Those of many readings begin close to where they belong: they are `is_sure`, and walk half as often.

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
        self._best, self.is_sure = best, not weighs_choices(batch)
        self._timed = timed.astype(float)
        _, jacobian = log_readings(best[:, None], batch.frames, batch.mask)
        self._active = np.abs(jacobian).max(axis=(0, 1)) > 0
        # Where all pixels take the most, or the least, the noise leaves no slope, and is asked for all the same.
        predicted = batch.valid & ~np.isnan(batch.frames.threshold) & np.isnan(batch.frames.spent)
        shaped = ~np.isnan(batch.frames.shape[..., 0, 0])
        self._active[[NOISE, NOISE_POWER]] |= predicted.any()
        self._active[NOISE_SPREAD] |= (predicted & ~shaped).any()
        self._active[FIREFLIES] |= (predicted & shaped).any()
        self._blocks = _blocks(self._active)
        of_time = batch.valid & is_time(batch.mask)
        weight = of_time / (batch.reading_variance + 1e-3)
        self._level_weight = weight / np.maximum(weight.sum(axis=1, keepdims=True), 1e-300)
        self._in_seconds = of_time | batch.bounds  # what follows when all times go up
        self._hottest = self._heat = HOTTEST if self._is_open() else 1.0
        # Of the chains as they stand: between two sweeps only that is drawn which no reading shows.
        self._residual_there: Floats | None = None

    def start(self, mean: Floats, precision: Floats) -> Floats:
        """Solve for the parameters of each draw, its readings and its prior each moved as far as they are unsure."""
        if self.is_sure:
            return self.without_stragglers(self._start_of_many(mean, precision), mean, precision)
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
        bounds = batch.bounds[:, None]
        for _ in range(SOLVER_STEPS):
            model, jacobian = log_readings(theta[:, :, None], batch.frames[:, None], batch.mask[:, None])
            jacobian = np.where(batch.valid[:, None, :, None], jacobian, 0.0)
            model = np.where(batch.valid[:, None], model, value)
            met = bounds & (model >= value)
            model, jacobian = np.where(met, value, model), np.where(met[..., None], 0.0, jacobian)
            gain = jacobian @ covariance
            left = value - model - np.einsum("bnkd,bnd->bnk", jacobian, wanted - theta)
            pull = np.linalg.solve(gain @ np.swapaxes(jacobian, 2, 3) + readings, left[..., None])[..., 0]
            then = wanted + np.einsum("bnkd,bnk->bnd", gain, pull)
            theta = theta + np.clip(then - theta, -LONGEST_STEP, LONGEST_STEP)
        return self.without_stragglers(theta, mean, precision)

    def _start_of_many(self, mean: Floats, precision: Floats) -> Floats:
        """Draw from the linear model about the most probable parameters: many readings leave little room beside it."""
        linear = linearise(self._best, self._batch)
        pull = np.swapaxes(linear.jacobian, 1, 2) @ self._likelihood.weight[:, 0]
        covariance = np.linalg.inv(precision + pull @ linear.jacobian)
        readings = linear.residual + np.einsum("bkd,bd->bk", linear.jacobian, self._best)
        middle = (mean @ precision + np.einsum("bdk,bk->bd", pull, readings)[:, None]) @ covariance
        root = np.linalg.cholesky((covariance + np.swapaxes(covariance, 1, 2)) / 2)
        return np.asarray(middle + self._random.standard_normal(middle.shape) @ np.swapaxes(root, 1, 2))

    def without_stragglers(self, theta: Floats, mean: Floats, precision: Floats) -> Floats:
        """Put chains that stand where next to nothing is probable in the places of others."""
        state = _State(theta, self._residual(theta))
        density = self._density(state, mean, precision)
        lost = density < np.median(density, axis=1, keepdims=True) - STRAGGLES
        theta = theta.copy()
        for shot, rows in enumerate(lost):
            theta[shot, rows] = theta[shot, self._random.choice(np.flatnonzero(~rows), rows.sum())]
        return theta

    def _is_open(self) -> bool:
        """Return whether it may be open which reading is an outlier."""
        share = self._likelihood.choices(self._residual(self._best[:, None]))[:, 0]
        return bool(share[:, 1:].sum(axis=1).max() > OPEN_SHARE)

    def _start_weights(self, chains: int) -> tuple[npt.NDArray[np.intp], Floats]:
        """Choose for each chain which readings it takes for outliers; return the choices (B, N) and covariances."""
        covariance = np.linalg.inv(self._likelihood.weight)
        residual = self._residual(self._best[:, None])
        share = self._likelihood.choices(residual)[:, 0] ** 0.25
        share /= share.sum(axis=1, keepdims=True)
        at = self._random.random((len(share), chains))
        chosen = (at[..., None] > np.cumsum(share, axis=1)[:, None]).sum(axis=-1).clip(0, share.shape[1] - 1)
        return np.asarray(chosen, dtype=np.intp), np.asarray(covariance / self._heat)

    def walk(self, theta: Floats, mean: Floats, precision: Floats, cooled: float) -> Floats:
        """Return the chains, (B, N, D), one sweep later."""
        self._heat = self._hottest ** (1.0 - cooled)
        if self._residual_there is None:
            self._residual_there = self._residual(theta)
        state = _State(theta, self._residual_there)
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
        return np.asarray(self._heat * self._likelihood.log_density(state.residual) - 0.5 * prior)

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
        self._bring_up(theta, residual, shift)
        self._take(state, theta, residual, mean, precision, 0.5 * (there - back), slice(None))

    def _go_along_differences(self, state: "_State", mean: Floats, precision: Floats, half: int) -> None:
        """Go some way, in some of the parameters, as two other chains differ; for every second chain with its level."""
        mine, others = slice(half, None, 2), state.theta[:, 1 - half :: 2]
        count = others.shape[1]
        first, second = self._random.choice(count, 2, replace=False)
        difference = np.roll(others, first, axis=1) - np.roll(others, second, axis=1)
        shape = difference.shape[:2]
        share = self._random.choice(PARAMETER_SHARES, (*shape, 1))
        moved = (self._random.random(difference.shape) < share) & self._active
        size = 2.38 / np.sqrt(2 * np.maximum(1, moved.sum(axis=-1))) * np.exp(0.6 * self._random.standard_normal(shape))
        size = np.where(self._random.random(shape) < WHOLE_STEPS, 1.0, size)
        theta = state.theta[:, mine] + size[..., None] * difference * moved
        residual = self._residual(theta)
        shift = self._level(residual - state.residual[:, mine]) * (self._random.random(shape) < 0.5)
        self._bring_up(theta, residual, shift)
        part = mean if mean.shape[1] == 1 else mean[:, mine]
        self._take(state, theta, residual, part, precision, 0.0, mine)

    def _bring_up(self, theta: Floats, residual: Floats, shift: Floats) -> None:
        """Bring times up by a shift of their log, (B, N), in place."""
        theta += shift[..., None] * self._timed
        residual -= shift[..., None] * self._in_seconds[:, None]

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
        np.copyto(state.theta[:, which], theta, where=taken[..., None])
        np.copyto(state.residual[:, which], residual, where=taken[..., None])
        np.copyto(state.density[:, which], tried.density, where=taken)


class _State:
    """Chains in the middle of a sweep: parameters (B, N, D), residuals (B, N, K), log densities (B, N)."""

    def __init__(self, theta: Floats, residual: Floats) -> None:
        self.theta, self.residual = theta, residual
        self.density = np.zeros(theta.shape[:2])


def _quadratic(off: Floats, precision: Floats) -> Floats:
    if not np.any(precision - np.diag(np.diag(precision))):
        return np.asarray((off * off) @ np.diag(precision))
    return np.asarray(((off @ precision) * off).sum(axis=-1))


def _given_rest(theta: Floats, mean: Floats, precision: Floats, block: npt.NDArray[np.intp]) -> tuple[Floats, Floats]:
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
