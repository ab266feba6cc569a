"""What the frames that are in teach, against closed forms and against what is really so."""

import numpy as np
import pytest

from film import make_project, make_shot, well_timed
from pemlo.core.cost.draws import draw_film
from pemlo.core.cost.fit import fit
from pemlo.core.cost.fit_input import fit_input
from pemlo.core.forecast.completed_frames import UNKNOWN_MACHINE, CompletedFrames, machine_records, nothing_in
from pemlo.core.forecast.pace_change import clearest_change
from pemlo.core.forecast.progress import mean_seconds
from pemlo.core.forecast.updated_posterior import expected_of, learn
from pemlo.core.project.machines import Machine

MACHINES = (Machine(name="desk"), Machine(name="blade", speed=2.0))


@pytest.fixture(scope="module")
def known():
    project = make_project((make_shot("010", 100), make_shot("020", 80)), well_timed("010"), MACHINES)
    made = fit(fit_input(project))
    return project, made, draw_film(made, project)


def completed_frames(project, shot, frames, seconds, machine, start=0.0):
    count = len(frames)
    seconds = np.asarray(seconds, float)
    return CompletedFrames(
        np.full(count, shot), np.asarray(frames), seconds, np.full(count, machine), start + np.cumsum(seconds),
        np.zeros(count, int), (project.shots[shot].asked,),
    )  # fmt: skip


def updated(known, frames):
    project, made, draws = known
    return learn(project, made, draws, frames, machine_records(project, frames, 0.0))


def test_nothing_in_leaves_all_as_it_was(known):
    found = updated(known, nothing_in())
    assert all(found.draws[name] is one for name, one in known[2].items())
    assert np.median(found.pace, axis=0) == pytest.approx([1, 1], abs=0.03)


def test_frames_twice_as_fast_as_typed_are_the_machines_doing_and_not_the_shots(known):
    project, made, draws = known
    frames = np.arange(1, 101)
    at = completed_frames(project, 0, frames, np.ones(100), 1)
    truth = expected_of(project, made, draws, at) / 2.0
    found = updated(known, completed_frames(project, 0, frames, truth / 1.3, 1))
    low, middle, high = np.quantile(found.pace[:, 1], [0.05, 0.5, 0.95])
    assert low < 1.3 < high
    assert high / low < 1.2  # a shot that is well timed pins the machine down
    # The other machine shares what all have in common, and no more.
    assert 1.0 < np.median(found.pace[:, 0]) < 1.2


def test_a_shot_that_was_never_timed_is_known_from_its_first_frames(known):
    project, made, draws = known
    seconds = np.full(10, 900.0) * np.exp(0.03 * np.random.default_rng(0).standard_normal(10))
    found = updated(known, completed_frames(project, 1, np.arange(1, 11), seconds, 0))
    at = completed_frames(project, 1, [5, 70], [1.0, 1.0], 0)
    before, after = (expected_of(project, made, one, at) for one in (draws, found.draws))
    assert abs(np.log(after[0] / 900)) < 0.1 < abs(np.log(before[0] / 900))
    wide, narrow = (mean_seconds(project, made, one["020"], project.shots[1]) for one in (draws, found.draws))
    assert np.log(narrow.high / narrow.low) < 0.6 * np.log(wide.high / wide.low)


def test_a_thousand_frames_say_no_more_of_a_place_than_they_are_and_take_no_longer(known):
    project = known[0]
    stretch = np.repeat(np.arange(1, 9), 200)
    few = updated(known, completed_frames(project, 0, np.arange(1, 9), np.full(8, 90.0), 0))
    many = updated(known, completed_frames(project, 0, stretch, np.full(1600, 90.0), 0))
    at = completed_frames(project, 0, [4], [1.0], 0)
    one, other = (expected_of(project, known[1], found.draws, at)[0] for found in (few, many))
    assert one == pytest.approx(other, rel=0.05)


def test_the_order_of_frames_and_a_gross_one_decide_nothing(known):
    project = known[0]
    random = np.random.default_rng(1)
    seconds = 80.0 * np.exp(0.03 * random.standard_normal(60))
    frames = completed_frames(project, 0, np.arange(1, 61), seconds, 0)
    mixed = random.permutation(60)
    one, other = updated(known, frames), updated(known, frames.those(mixed))
    assert np.allclose(one.draws["010"].cost_profile, other.draws["010"].cost_profile)
    seconds[30] *= 20
    gross = updated(known, completed_frames(project, 0, np.arange(1, 61), seconds, 0))
    assert np.median(gross.draws["010"].cost_profile) == pytest.approx(
        np.median(one.draws["010"].cost_profile), rel=0.03
    )


def test_scatter_and_losses_are_learned(known):
    project = known[0]
    random = np.random.default_rng(2)
    seconds = 80.0 * np.exp(0.15 * random.standard_normal(100))
    frames = completed_frames(project, 0, np.arange(1, 101), seconds, 0)
    assert updated(known, frames).scatter == pytest.approx(0.15, rel=0.25)
    ended = frames.ended + np.cumsum(np.where(np.arange(100) % 10 == 5, 60.0, 0.0))
    late = CompletedFrames(frames.shot, frames.frame, frames.seconds, frames.machine, ended, frames.settings,
                    frames.rendered_with)  # fmt: skip
    record = machine_records(project, late, 0.0)[0]
    assert (record.delivered, record.losses) == (100, 10)
    assert record.lost_hours == pytest.approx(600 / 3600)
    found = learn(*known, late, machine_records(project, late, 0.0))
    assert np.median(found.loss[:, 0]) == pytest.approx(10.1 / 150, rel=0.3)


def test_frames_of_nobody_move_the_shot(known):
    project = known[0]
    found = updated(known, completed_frames(project, 1, np.arange(1, 30), np.full(29, 700.0), UNKNOWN_MACHINE))
    at = completed_frames(project, 1, [15], [1.0], 0)
    assert 400 < expected_of(project, known[1], found.draws, at)[0] < 1200


@pytest.mark.parametrize(("factor", "seen"), [(1.0, False), (1.1, False), (2.0, True), (0.5, True)])
def test_a_machine_that_changes_its_pace_is_found_where_it_does(known, factor, seen):
    project = known[0]
    random = np.random.default_rng(5)
    residual = 0.04 * random.standard_normal(80)
    residual[50:] += np.log(factor)
    frames = completed_frames(project, 0, np.arange(80), np.full(80, 100.0), 0)
    found = clearest_change(project, frames, residual, 0.04)
    if not seen:
        assert found is None
    else:
        assert found == (0, pytest.approx(5000.0, abs=200))


def test_of_a_machine_that_changed_each_frame_has_the_pace_of_its_time(known):
    """Two machines take turns; from the middle on one of them takes three times as long."""
    project, made, draws = known
    frames = completed_frames(project, 0, np.arange(1, 101), np.ones(100), 0)
    number = np.arange(100)
    slow = (number % 2 == 1) & (number >= 50)
    random = np.random.default_rng(4)
    seconds = expected_of(project, made, draws, frames) / (1.0 + number % 2) * np.where(slow, 3.0, 1.0)
    seconds *= np.exp(0.03 * random.standard_normal(100))
    both = CompletedFrames(frames.shot, frames.frame, seconds, number % 2, 100.0 * number + seconds, frames.settings,
                    frames.rendered_with)  # fmt: skip
    found = updated(known, both)
    assert set(found.changed) == {1}
    pace = found.pace_of(both)
    assert pace[slow][2:] == pytest.approx(1 / 3, rel=0.15)
    assert pace[~slow] == pytest.approx(1.0, rel=0.15)


def test_chance_alone_is_no_change(known):
    random = np.random.default_rng(9)
    frames = completed_frames(known[0], 0, np.arange(200), np.full(200, 100.0), 0)
    for _ in range(200):
        assert clearest_change(known[0], frames, 0.04 * random.standard_normal(200), 0.04) is None
