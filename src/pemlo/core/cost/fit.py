"""The fit: from timed trials to what is known of every shot. Pure NumPy; runs in whatever thread calls it.

A shot's log parameters depart from the film's mean, which is uncertain itself; readings depart from the model by how
cost runs along the shot and by repeatability, and a few are grossly wrong. First the most probable parameters are
sought and the widths learned (`optimum.py`), then everything that the readings leave open is drawn (`chains.py`). A
shot that was never timed gets the film's mean and the full width of shots about it.
"""

from collections.abc import Mapping, Sequence
from copy import deepcopy
from dataclasses import dataclass, replace
from zlib import crc32

import numpy as np

from pemlo.core.arrays import Floats
from pemlo.core.cost.agreement import disagreements
from pemlo.core.cost.batches import Batch, make_batches, residuals_of_draws
from pemlo.core.cost.chains import Walk, begin_chains, draw_film_mean, run_chains
from pemlo.core.cost.fit_input import FitInput, FitShot
from pemlo.core.cost.frame_arrays import frames_of
from pemlo.core.cost.frame_model import frame_seconds, log_values
from pemlo.core.cost.observations import Observations, asked_work, is_bound, is_time, noise_centre, observations
from pemlo.core.cost.optimum import Optimum
from pemlo.core.cost.outliers import weighs_choices
from pemlo.core.cost.pairs import switch_widths
from pemlo.core.cost.posterior import DRAWS, Fit, Readings, ShotPosterior
from pemlo.core.cost.priors import PriorTable, prior_table
from pemlo.core.cost.repeats import repeat_belief
from pemlo.core.progress import Monitor, Unwatched

ROUND_TO = 10  # decimals of a log time, far below what any clock tells


@dataclass(frozen=True)
class BegunFit:
    """A fit whose most probable parameters are known, and whose chains stand where they begin.

    Attributes
    ----------
    found : mapping of shot name to Observations
        Of the shots that were timed.
    table : PriorTable
    shift : (D,) ndarray
        By how much parameters lie over those of the readings as they were fitted, log.
    optimum : Optimum
    walk : Walk or None
        None where nothing was timed.
    """

    found: Mapping[str, Observations]
    table: PriorTable
    shift: Floats
    optimum: Optimum
    walk: Walk | None


def begin_fit(given: FitInput, monitor: Monitor | None = None) -> BegunFit:
    """Find the most probable parameters of every shot, and where draws about them begin; as `fit`."""
    found = observations(given)
    table = prior_table(given.cost_factors, noise_centre(given), asked_work(given, set(found)), switch_widths(given))
    batches = make_batches([*found.values()])
    level = _level(table, batches)
    optimum = Optimum(table, [_brought_to(level, batch) for batch in batches], len(found), repeat_belief(given))
    optimum.run(monitor or Unwatched())
    shift = np.asarray(level * table.timed, dtype=np.float64)
    walk = None
    if found:
        walk = begin_chains(
            *(table, optimum.spread, optimum.batches, optimum.likelihoods, optimum.theta, optimum.film.covariance),
            given.seed,
        )
    return BegunFit(found, table, shift, optimum, walk)


def first_fit(given: FitInput, begun: BegunFit) -> Fit:
    """Return what can be said of a fit that was begun: a hundred or two draws, of where the chains stand now.

    These starts are near what the chains draw in the end [1]_, and a tenth of the work. Whether trials agree is not
    asked yet.

    References
    ----------
    .. [1] As those of `chains.py`: randomize, then optimize.
    """
    walk = begun.walk
    if walk is None:
        return fit(given, begun=begun)
    return _fit_of(given, begun, walk.film, walk.theta)


def fit(given: FitInput, monitor: Monitor | None = None, begun: BegunFit | None = None) -> Fit:
    """Fit the cost of every shot of a film to its trials.

    Parameters
    ----------
    given : FitInput
        Any number of shots, timed or not. The same seed gives the same draws.
    monitor : Monitor, optional
        Hears of progress; may stop the work.
    begun : BegunFit, optional
        Of the same; stays as it is.

    Returns
    -------
    Fit
        With no trial at all, only what was believed before (`known` is False).
    """
    watched = monitor or Unwatched()
    start = begun or begin_fit(given, watched)
    if start.walk is None:
        film, theta = draw_film_mean(start.table, DRAWS, given.seed), np.zeros((0, DRAWS, start.table.size))
    else:
        chains = run_chains(start.walk if begun is None else deepcopy(start.walk), watched)
        film, theta = chains.film, chains.theta
    made = _fit_of(given, start, film, theta)
    return replace(made, disagreements=disagreements(made, given))


def _fit_of(given: FitInput, begun: BegunFit, film: Floats, theta: Floats) -> Fit:
    """Return a fit from draws of the film's mean, (N, D), and of each timed shot, (S, N, D)."""
    optimum, shift, seen = begun.optimum, begun.shift, list(begun.found.values())
    film = film + shift
    posteriors = _posteriors(optimum, theta, seen, shift, given.seed) if seen else []
    timed = dict(zip(begun.found, posteriors, strict=True))
    return Fit(
        given.cost_factors,
        film,
        optimum.spread,
        {shot.name: timed.get(shot.name) or _untimed(optimum, film, shift, shot, given) for shot in given.shots},
        len({int(number) for one in seen for number in one.trial}),
        optimum.settled,
    )


def _brought_to(level: float, batch: Batch) -> Batch:
    """Return readings with their times relative to a level: the same numbers whatever the unit of time is."""
    of_time = is_time(batch.mask) | is_bound(batch.mask)
    return replace(batch, value=np.asarray(np.round(batch.value - level * of_time, ROUND_TO), dtype=np.float64))


def _level(table: PriorTable, batches: Sequence[Batch]) -> float:
    """Return by how much readings lie over what the table expects, log: so the unit of time decides nothing."""
    offs: list[float] = []
    for batch in batches:
        timed = batch.valid & is_time(batch.mask)
        if timed.any():
            over = batch.value - log_values(table.mean, batch.frames, batch.mask)
            ordered, count = np.sort(np.where(timed, over, np.inf), axis=1), timed.sum(axis=1)
            rows = np.flatnonzero(count)
            offs += (0.5 * (ordered[rows, (count[rows] - 1) // 2] + ordered[rows, count[rows] // 2])).tolist()
    return float(np.median(offs)) if offs else 0.0


def _posteriors(
    optimum: Optimum, theta: Floats, readings: list[Observations], shift: Floats, seed: int
) -> list[ShotPosterior]:
    """Put together what is known of each timed shot, in the order of the readings."""
    random = np.random.default_rng([seed, 2])
    found: dict[int, ShotPosterior] = {}
    for batch, likelihood in zip(optimum.batches, optimum.likelihoods, strict=True):
        residual = residuals_of_draws(theta[batch.shots], batch)
        choices = likelihood.choices(residual)
        inlier = likelihood.inliers(choices)
        # Of many readings a few are always off; each is judged by itself.
        none = choices[..., 0].mean(axis=1) if weighs_choices(batch) else np.ones(len(inlier))
        at = random.random(choices.shape[:2])
        chosen = (at[..., None] > np.cumsum(choices, axis=-1)).sum(axis=-1).clip(0, choices.shape[-1] - 1)
        for row, shot in enumerate(batch.shots):
            size = len(readings[shot])
            found[int(shot)] = ShotPosterior(
                optimum.theta[shot] + shift,
                theta[shot] + shift,
                Readings(
                    readings[shot],
                    residual[row, :, :size],
                    chosen[row],
                    likelihood.weight[row, :, :size, :size],
                    likelihood.outliers[row, :, :size],
                    inlier[row, :size],
                    float(none[row]),
                ),
            )
    return [found[shot] for shot in range(len(readings))]


def _untimed(optimum: Optimum, film: Floats, shift: Floats, shot: FitShot, given: FitInput) -> ShotPosterior:
    """Draw a shot that nobody timed about the film's mean.

    Its likely time is the mean of those that were timed, rendered as it is; and so that many such shots together cost
    what they would at it, each lies above it as far as below, in seconds: with logarithms that are as far from it
    either way, two hundred shots would take a third more than one of them timed says.
    """
    random = np.random.default_rng([given.seed, crc32(shot.name.encode())])
    theta = film + optimum.spread.shot_sd * random.standard_normal(film.shape)
    asked = frames_of([shot.asked], [shot.size], given.cost_factors)
    drawn, common, timed = (
        np.log(frame_seconds(some[:, None], asked))[:, 0] for some in (theta, film, optimum.theta + shift)
    )
    likely = float(np.mean(timed)) if len(timed) else float(np.median(common))
    apart = drawn - common
    apart -= np.median(apart)
    own = np.where(apart > 0, np.log(2.0 - np.exp(-np.maximum(apart, 0.0))), apart)
    wanted = likely + (common - np.median(common)) + own
    return ShotPosterior(optimum.film.mean + shift, theta + (wanted - drawn)[:, None] * optimum.timed, None)
