"""The fit: from timed trials to what is known of every shot. Pure NumPy; runs in whatever thread calls it.

A shot's log parameters depart from the film's mean, which is uncertain itself; readings depart from the model by how
cost runs along the shot and by repeatability, and a few are grossly wrong. First the most probable parameters are
sought and the widths learned (`optimum.py`), then everything that the readings leave open is drawn (`chains.py`). A
shot that was never timed gets the film's mean and the full width of shots about it.
"""

from dataclasses import replace
from zlib import crc32

import numpy as np

from pemlo.core.arrays import Floats
from pemlo.core.cost.agreement import disagreements
from pemlo.core.cost.batches import residuals_of_draws
from pemlo.core.cost.chains import draw_film_mean, run_chains
from pemlo.core.cost.fit_input import FitInput, FitShot
from pemlo.core.cost.frame_arrays import frames_of
from pemlo.core.cost.frame_model import frame_seconds, log_values
from pemlo.core.cost.observations import Observations, asked_work, noise_centre, observations
from pemlo.core.cost.optimum import Optimum
from pemlo.core.cost.outliers import weighs_choices
from pemlo.core.cost.pairs import switch_widths
from pemlo.core.cost.posterior import DRAWS, Fit, Readings, ShotPosterior
from pemlo.core.cost.priors import PriorTable, prior_table
from pemlo.core.cost.repeats import repeat_belief
from pemlo.core.progress import Monitor, Unwatched

ROUND_TO = 10  # decimals of a log time, far below what any clock tells


def fit(given: FitInput, monitor: Monitor | None = None) -> Fit:
    """Fit the cost of every shot of a film to its trials.

    Parameters
    ----------
    given : FitInput
        Any number of shots, timed or not. The same seed gives the same draws.
    monitor : Monitor, optional
        Hears of progress; may stop the work.

    Returns
    -------
    Fit
        With no trial at all, only what was believed before (`known` is False).
    """
    watched = monitor or Unwatched()
    found = observations(given)
    table = prior_table(given.cost_factors, noise_centre(given), asked_work(given, set(found)), switch_widths(given))
    level = _level(table, list(found.values()))
    readings = [_brought_to(level, seen) for seen in found.values()]
    optimum = Optimum(table, readings, repeat_belief(given))
    optimum.run(watched)
    shift = np.asarray(level * table.timed, dtype=np.float64)
    if readings:
        chains = run_chains(
            *(table, optimum.spread, optimum.batches, optimum.likelihoods, optimum.theta, optimum.film.covariance),
            given.seed,
            watched,
        )
        film = chains.film + shift
        posteriors = _posteriors(optimum, chains.theta, list(found.values()), shift, given.seed)
    else:
        film, posteriors = draw_film_mean(table, DRAWS, given.seed), []
    timed = dict(zip(found, posteriors, strict=True))
    made = Fit(
        given.cost_factors,
        film,
        optimum.spread,
        {shot.name: timed.get(shot.name) or _untimed(optimum, film, shift, shot, given) for shot in given.shots},
        len({int(number) for seen in found.values() for number in seen.trial}),
        optimum.settled,
    )
    return replace(made, disagreements=disagreements(made, given))


def _brought_to(level: float, seen: Observations) -> Observations:
    """Return readings with their times relative to a level: the same numbers whatever the unit of time is."""
    return replace(
        seen, value=np.asarray(np.round(seen.value - level * (seen.timed | seen.bounds), ROUND_TO), dtype=np.float64)
    )


def _level(table: PriorTable, readings: list[Observations]) -> float:
    """Return by how much readings lie over what the table expects, log: so the unit of time decides nothing."""
    offs = [
        np.median((seen.value - log_values(table.mean, seen.frames, seen.mask))[seen.timed])
        for seen in readings
        if seen.timed.any()
    ]
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
