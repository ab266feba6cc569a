"""Draws against a long Markov chain over the same posterior: the curved ridge is where a linear model goes wrong."""

import numpy as np
import pytest

from film import exact_trial, make_project, make_shot
from pemlo.core.cost.along import matern32
from pemlo.core.cost.draws import draw_film
from pemlo.core.cost.fit import fit
from pemlo.core.cost.frame_model import frame_seconds, frames_of, log_readings
from pemlo.core.plan.settings import Ways


def chain(project, known, steps=16_000):
    """Random-walk Metropolis over one shot's parameters, the film's mean fixed at what the fit found."""
    shot = known.shots["010"]
    readings = shot.readings
    spread = known.spread
    covariance = matern32(readings.place, readings.place, spread.along_sd, spread.along_length)
    weight = np.linalg.inv(covariance + np.eye(len(readings)) * spread.repeat_sd**2)
    random = np.random.default_rng(1)

    def energy(theta):
        value, _ = log_readings(np.broadcast_to(theta, (len(readings), len(theta))), readings.frames, readings.holds)
        off = readings.value - value
        return 0.5 * (off @ weight @ off + (((theta - known.film_mean) / spread.shot_sd) ** 2).sum())

    root = np.linalg.cholesky(shot.covariance + 1e-9 * np.eye(len(shot.theta)))
    theta, now = shot.theta.copy(), energy(shot.theta)
    kept = []
    for number in range(steps):
        tried = theta + 0.7 * root @ random.standard_normal(len(theta))
        then = energy(tried)
        if np.log(random.random()) < now - then:
            theta, now = tried, then
        if number % 20 == 0:
            kept.append(theta)
    return np.array(kept[len(kept) // 10 :])


@pytest.mark.slow
@pytest.mark.parametrize("settings", [((256, 100.0),), ((16, 50.0), (64, 50.0))])
def test_draws_agree_with_a_markov_chain(settings):
    shots = (make_shot("010"),)
    project = make_project(shots=shots, trials=tuple(exact_trial("010", 50, n, p) for n, p in settings))
    known = fit(project)
    # The chain takes the film's mean as fixed: so do the draws here.
    fixed = type(known)(**{**known.__dict__, "film_covariance": np.zeros_like(known.film_covariance)})
    drawn = draw_film(fixed, project, count=4000)["010"].theta
    plan = frames_of([shots[0].asked], [(1920, 1080)], Ways())
    drawn_by_chain = chain(project, known)
    for wanted in (plan, frames_of([shots[0].asked.changed(samples=64)], [(1920, 1080)], Ways())):
        ours = np.quantile(np.log(frame_seconds(drawn, wanted)), [0.05, 0.5, 0.95])
        theirs = np.quantile(np.log(frame_seconds(drawn_by_chain, wanted)), [0.05, 0.5, 0.95])
        assert ours == pytest.approx(theirs, abs=0.25 * (theirs[2] - theirs[0]))
        assert (ours[2] - ours[0]) / (theirs[2] - theirs[0]) == pytest.approx(1.0, abs=0.25)
