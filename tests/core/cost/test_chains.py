"""Draws against the density itself: a million draws of the prior, weighed by how well they agree with the readings.

So no step of a chain, no tangent and no optimum is shared with what is tested. Ladders that leave a stage known from
one side only are where a normal distribution goes wrong.
"""

import numpy as np
import pytest

from beliefs import log_likelihood_of_any_level
from film import exact_seconds, exact_trial, make_project, make_shot
from pemlo.core.cost.fit import fit
from pemlo.core.cost.fit_input import fit_input
from pemlo.core.cost.frame_arrays import frames_of
from pemlo.core.cost.frame_model import frame_seconds, log_values
from pemlo.core.cost.observations import asked_work, noise_centre, observations
from pemlo.core.cost.priors import PRIORS, SAMPLE, prior_table
from pemlo.core.project.settings import FrameSettings
from pemlo.core.project.trials import Trial

SIZE = (1920, 1080)
ADAPTIVE = {"samples": 512, "min_samples": 16, "noise_threshold": 0.01}


def ladder(*tests, **cost):
    """Trials of one frame: samples, percentage, and by what factor the stopwatch is off."""
    for samples, percent, off in tests:
        settings = FrameSettings(samples=samples, resolution_percent=percent)
        seconds = off * exact_seconds(settings, **cost)
        yield Trial(shot="010", frame=50, seconds=seconds, **settings.frame_fields())


def adaptive(*tests):
    """Trials with a threshold, which spends no less than 16 and no more than 512 samples: factor, seconds."""
    for factor, seconds in tests:
        settings = FrameSettings(**{**ADAPTIVE, "noise_threshold": 0.01 * factor}, resolution_percent=50)
        yield Trial(shot="010", frame=50, seconds=seconds, **settings.frame_fields())


LADDERS = {
    "one cheap frame": ({}, ladder((16, 50, 1.0))),
    "half the size, doubled": ({}, ladder((16, 50, 1.02), (32, 50, 0.97), (64, 50, 1.03), (128, 50, 1.0))),
    "nothing is prepared": ({}, ladder((8, 100, 1.0), (16, 100, 1.05), (32, 100, 0.97), prepare=0.01, pixel=0.05)),
    "nearly all is prepared": ({}, ladder((16, 50, 1.03), (64, 50, 0.96), (128, 50, 1.0), prepare=900.0)),
    "one of three is off": ({}, ladder((16, 50, 1.0), (64, 50, 2.4), (128, 50, 1.0))),
    "a threshold, loosened": (ADAPTIVE, adaptive((4, 60.0), (2, 110.0), (1, 230.0))),
    "a threshold that takes the most": (ADAPTIVE, adaptive((2, 300.0), (1, 306.0))),
    "a threshold that takes the least": (ADAPTIVE, adaptive((8, 31.0), (4, 30.0))),
}


def weighed(project, known, wanted, count=500_000):
    """Return draws of log seconds of a frame, and their weights."""
    random = np.random.default_rng(3)
    seen, spread = observations(fit_input(project))["010"], known.spread
    table = prior_table(
        project.cost_factors(), noise_centre(fit_input(project)), asked_work(fit_input(project), {"010"})
    )
    open_level = PRIORS[SAMPLE].film_sd * table.timed
    covariance = table.covariance - np.outer(open_level, open_level) + np.diag(spread.shot_sd**2)
    root = np.linalg.cholesky(covariance)
    values, weights = [], []
    for _ in range(count // 100_000):
        theta = table.mean + random.standard_normal((100_000, table.size)) @ root.T
        left = seen.value - log_values(theta[:, None], seen.frames, seen.mask)
        found, level = log_likelihood_of_any_level(seen, spread, left, random)
        values.append(np.log(frame_seconds(theta, wanted)) + level)
        weights.append(found)
    total = np.concatenate(weights)
    return np.concatenate(values), np.exp(total - total.max())


@pytest.mark.parametrize(("asked", "trials"), LADDERS.values(), ids=LADDERS)
def test_draws_are_those_of_the_density(asked, trials):
    shot = make_shot("010", **asked)
    project = make_project(shots=(shot,), trials=tuple(trials))
    known = fit(fit_input(project))
    wanted = frames_of([shot.asked], [SIZE], known.cost_factors)
    values, weights = weighed(project, known, wanted)
    assert weights.sum() ** 2 / (weights**2).sum() > 300, "enough of the prior agrees with the readings"
    # Which of three readings is off is open: two answers far apart, and their shares are only roughly found.
    open_choice = trials is LADDERS["one of three is off"][1]
    points, within = ([0.05, 0.5, 0.95], 0.25) if open_choice else ([0.05, 0.25, 0.5, 0.75, 0.95], 0.12)
    order = np.argsort(values)
    at = np.cumsum(weights[order]) / weights.sum()
    theirs = values[order][np.searchsorted(at, points)]
    ours = np.quantile(np.log(frame_seconds(known.shots["010"].theta, wanted)), points)
    assert ours == pytest.approx(theirs, abs=within * (theirs[-1] - theirs[0]))


def test_what_shots_share_stays_shared():
    """Ten shots of one cheap trial each: how much of it was preparing is unknown in common, and does not average out."""
    names = [f"{number:03d}" for number in range(10)]
    project = make_project(
        shots=tuple(make_shot(name) for name in names),
        trials=tuple(exact_trial(name, 50, 16, 50) for name in names),
    )
    known = fit(fit_input(project))
    wanted = frames_of([project.shots[0].asked], [SIZE], known.cost_factors)
    drawn = np.log([frame_seconds(known.shots[name].theta, wanted) for name in names])
    assert np.corrcoef(drawn)[0, 1:].min() > 0.5
