"""Advice: affordable, telling, and never the same frame twice."""

import numpy as np
import pytest

from film import exact_seconds, exact_trial, make_project, make_shot, well_timed
from pemlo.core.cost.draws import draw_film
from pemlo.core.cost.fit import fit
from pemlo.core.cost.fit_input import fit_input
from pemlo.core.cost.next_trial import Candidates, advise, best_set
from pemlo.core.forecast.needs import shot_hours
from pemlo.core.project.edits import add_trials
from pemlo.core.project.settings import FrameSettings
from pemlo.core.project.trials import Trial


def test_every_shot_gets_advice_and_the_most_telling_comes_first():
    project = make_project(trials=well_timed())
    found = advise(fit(fit_input(project)), project)
    assert {one.shot for one in found} == {"010", "020"}
    assert found[0].shot == "020", "the shot that was never timed tells most"
    assert found[0].variance_per_minute >= found[1].variance_per_minute
    for one in found:
        shot = project.shot(one.shot)
        assert shot.first <= one.frame <= shot.last
        assert one.hours_sd_after <= one.hours_sd


def test_following_the_advice_narrows_the_shot_about_as_much_as_it_said():
    project = make_project(trials=(exact_trial("010", 50, 16, 50), exact_trial("010", 50, 64, 50)))
    one = advise(fit(fit_input(project)), project, {"010"})[0]
    seconds = exact_seconds(one.settings)
    assert one.seconds == pytest.approx(seconds, rel=0.6)
    trial = Trial(shot="010", frame=one.frame, seconds=seconds, **one.settings.frame_fields())
    after = add_trials(project, [trial])

    def spread(known):
        hours = shot_hours(fit(fit_input(known)), draw_film(fit(fit_input(known)), known), known, known.shot("010"))
        return np.std(np.log(hours))

    assert spread(after) < spread(project)
    said = one.hours_sd_after / one.hours_sd
    assert spread(after) / spread(project) == pytest.approx(said, abs=0.3)


def test_nothing_dearer_than_what_is_left_and_nothing_twice():
    project = make_project(trials=well_timed())
    known = fit(fit_input(project))
    for left in (0.05, 0.3, 1.0):
        for one in advise(known, project, {"010"}, {"010": left}):
            assert exact_seconds(one.settings) <= 1.6 * left * exact_seconds(FrameSettings(samples=256))
            done = {(t.frame, t.samples, t.resolution_percent) for t in project.trials}
            assert (one.frame, one.settings.samples, one.settings.resolution_percent) not in done
    assert advise(known, project, {"010"}, {"010": 0.0}) == ()


def test_before_anything_is_timed_there_is_a_first_trial():
    project = make_project()
    found = advise(fit(fit_input(project)), project)
    assert len(found) == 2
    assert all(1 <= one.frame <= 100 for one in found)


def test_an_adaptive_denoised_shot_of_one_frame():
    shot = make_shot("010", 1, samples=512, min_samples=16, noise_threshold=0.01, denoise="frame")
    project = make_project(shots=(shot,))
    assert advise(fit(fit_input(project)), project)[0].frame == 1
    assert advise(fit(fit_input(make_project(shots=()))), make_project(shots=())) == ()


def brute_force(able, most):
    """Best set of up to three candidates."""
    from itertools import combinations

    count = len(able.seconds)
    best = 0.0
    for size in (1, 2, 3):
        for chosen in combinations(range(count), size):
            if able.price[list(chosen)].sum() > most:
                continue
            rows = [1 + number for number in chosen]
            joint = able.joint[np.ix_(rows, rows)] + able.repeat_variance * np.eye(size)
            told = able.joint[0, rows]
            best = max(best, float(told @ np.linalg.solve(joint, told)))
    return best


@pytest.mark.parametrize("seed", range(8))
def test_the_set_is_nearly_as_good_as_the_best_of_all(seed):
    random = np.random.default_rng(seed)
    settings, frames = 4, 5
    factor = random.standard_normal((settings * frames + 1, 6))
    price = np.tile(random.uniform(0.1, 0.9, settings)[:, None], (1, frames)).ravel()
    able = Candidates(
        [FrameSettings(samples=n + 1) for n in range(settings)], list(range(frames)), price, price, price, price, 1.0,
        0.0, factor @ factor.T, 0.05,
    )  # fmt: skip
    chosen = best_set(able, 1.0)
    assert able.price[chosen].sum() <= 1.0 + 1e-9
    rows = [1 + number for number in chosen]
    joint = able.joint[np.ix_(rows, rows)] + able.repeat_variance * np.eye(len(rows))
    removed = able.joint[0, rows] @ np.linalg.solve(joint, able.joint[0, rows])
    assert removed >= 0.6 * brute_force(able, 1.0)


def test_a_cap_on_what_is_planned_is_heeded_in_what_a_trial_takes():
    shot = make_shot("010", samples=2048)
    project = make_project(shots=(shot,), trials=well_timed())
    known = fit(fit_input(project))
    held = shot.replace(plan=shot.asked.replace(most_seconds=5.0))
    capped = project.replace(shots=(held,))
    free_sd, held_sd = (advise(known, one, {"010"})[0].hours_sd for one in (project, capped))
    assert held_sd < 0.9 * free_sd, "what is held to some seconds is surer"
