"""Files of several machines in one folder, with nothing but their times: a superposition, D. Cox and W. Smith 1954."""

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from film import make_project, make_shot, well_timed
from pemlo.core.arrivals.file_gaps import are_machines, chains
from pemlo.core.cost.draws import draw_film, seconds_along
from pemlo.core.cost.fit import fit
from pemlo.core.cost.fit_input import fit_input
from pemlo.core.cost.frame_arrays import frames_of
from pemlo.core.forecast.completed_frames import UNKNOWN_MACHINE, CompletedFrames, machine_records
from pemlo.core.forecast.pool_times import with_pool_times
from pemlo.core.forecast.updated_posterior import expected_of, learn
from pemlo.core.project.machines import Machine
from pemlo.core.project.settings import FrameSettings

SECONDS = 77.23136  # what `well_timed` has of a frame as asked: 20 + 2.0736 (2 + 0.1 256), by hand


def film(count=3, speed=1.0, **fields):
    machines = (Machine(name="pool", count=count, speed=speed, **fields),)
    project = make_project(
        shots=(make_shot("010", 400),), trials=well_timed("010", (1, 134, 267, 400)), machines=machines
    )
    known = fit(fit_input(project))
    return project, known, draw_film(known, project)


def files(seconds, count, frames, seed=0):
    """When files of so many machines come, each of which takes the next frame when it is free."""
    random = np.random.default_rng(seed)
    free = random.uniform(0, seconds, count)  # they began some time ago
    ended = np.empty(frames)
    for frame in range(frames):
        machine = int(free.argmin())
        free[machine] += seconds * np.exp(0.05 * random.standard_normal())
        ended[frame] = free[machine]
    order = np.argsort(ended)
    kind = FrameSettings(samples=256)
    nobody = np.full(frames, UNKNOWN_MACHINE, np.int64)
    return CompletedFrames(
        np.zeros(frames, np.int64), np.arange(1, frames + 1)[order], np.full(frames, np.nan), nobody, ended[order],
        np.zeros(frames, np.int64), (kind,),
    )  # fmt: skip


@pytest.mark.parametrize("count", [2, 3, 12, 40])
def test_what_all_machines_had_time_for_is_what_their_frames_took(count):
    project, known, draws = film(count)
    took = with_pool_times(project, known, draws, files(SECONDS, count, 200))
    assert np.isfinite(took.seconds).all()
    assert np.median(took.seconds) == pytest.approx(SECONDS, rel=0.04)


def test_machines_that_run_as_they_were_given_are_not_learned_to_be_half_as_fast_again():
    """The gaps of three machines' files made paces of 1.5."""
    project, known, draws = film(3)
    frames = with_pool_times(project, known, draws, files(SECONDS, 3, 150))
    updated = learn(project, known, draws, frames, machine_records(project, frames, 0.0))
    assert np.median(updated.pace) == pytest.approx(1.0, abs=0.12)
    assert expected_of(project, known, updated.draws, frames).mean() == pytest.approx(SECONDS, rel=0.06)


def test_a_pool_that_is_slower_than_was_given_makes_what_is_left_longer():
    project, known, draws = film(3)
    frames = with_pool_times(project, known, draws, files(1.3 * SECONDS, 3, 150))
    updated = learn(project, known, draws, frames, machine_records(project, frames, 0.0))
    left = expected_of(project, known, updated.draws, frames).mean() / np.median(updated.pace)
    assert left == pytest.approx(1.3 * SECONDS, rel=0.08)


@given(st.integers(1, 40), st.floats(0.2, 5), st.integers(0, 5))
@settings(max_examples=15, deadline=None)
def test_the_sum_of_what_frames_took_is_what_machines_had(count, pace, seed):
    project, known, draws = film(count)
    frames = with_pool_times(project, known, draws, files(pace * SECONDS, count, 120, seed))
    had = count * (frames.ended[-1] - frames.ended[0])
    assert np.nansum(frames.seconds[1:]) == pytest.approx(had, rel=1e-6)


def test_nights_do_not_count_and_faster_machines_had_more():
    project, known, draws = film(3, speed=2.0, hours="Mon 00:00-11:00")
    frames = files(SECONDS / 2, 3, 40)
    night = CompletedFrames(frames.shot, frames.frame, frames.seconds, frames.machine,
                     np.where(np.arange(40) < 20, frames.ended, frames.ended + 7 * 86_400), frames.settings,
                     frames.rendered_with)  # fmt: skip
    took = with_pool_times(project, known, draws, night)
    assert np.median(took.seconds) == pytest.approx(SECONDS / 2, rel=0.15)


def test_few_files_copies_and_known_times_are_left_as_they_are():
    project, known, draws = film(3)
    few = files(SECONDS, 3, 3)
    assert with_pool_times(project, known, draws, few) is few
    copied = files(SECONDS / 100, 3, 50)
    assert not np.isfinite(with_pool_times(project, known, draws, copied).seconds).any()
    said = files(SECONDS, 3, 50)
    said.seconds[:10] = 5.0
    assert with_pool_times(project, known, draws, said).seconds[:10].tolist() == [5.0] * 10


def test_ranges_of_their_own_are_told_from_frames_that_go_to_whoever_is_free():
    random = np.random.default_rng(1)
    ranges = np.concatenate([np.arange(1, 31) + 100 * k for k in range(3)])
    ended = np.concatenate([np.cumsum(100 * np.exp(0.1 * random.standard_normal(30))) + 7 * k for k in range(3)])
    assert are_machines(chains(ranges, ended), ended, 3)
    free = files(100.0, 3, 90)
    assert not are_machines(chains(free.frame, free.ended), free.ended, 3)
    assert are_machines(chains(free.frame, free.ended), free.ended, 1), "of one machine every gap is a frame's time"


@pytest.mark.parametrize("count", [3, 12])
def test_what_is_under_way_when_a_window_ends_is_no_unrest_of_the_shot(count):
    """Windows of a pool differ by chance; that was taken for the course of the shot, and made what is left uncertain.

    What is left follows from the last windows to a few hundredths: a variance of 1/12 of a frame for each slot at both
    ends of four frames a slot.
    """
    machines = tuple(Machine(name=f"m{k}") for k in range(count))
    project, known, draws = film()
    project = project.replace(machines=machines)
    frames = with_pool_times(project, known, draws, files(1.2 * SECONDS, count, 200))
    updated = learn(project, known, draws, frames, machine_records(project, frames, 0.0))
    shot = project.shots[0]
    wanted = frames_of([shot.settings], [project.size_of(shot)], known.cost_factors, known.shots["010"].shape())
    left = seconds_along(updated.draws["010"], wanted).mean(axis=1) / updated.pace.mean(axis=1)
    assert np.median(left) == pytest.approx(1.2 * SECONDS, rel=0.04)
    assert np.log(left).std() < 0.03


def test_a_pool_teaches_how_fast_its_machines_are_as_far_as_they_did_the_work():
    """Of two machines the one with nine tenths of the work is the slow one: the other's pace is hardly learned."""
    machines = (Machine(name="large", count=9), Machine(name="small"))
    project, known, draws = film()
    project = project.replace(machines=machines)
    frames = with_pool_times(project, known, draws, files(1.3 * SECONDS, 10, 200))
    assert frames.pool.share.tolist() == pytest.approx([0.9, 0.1])
    pace = np.median(learn(project, known, draws, frames, machine_records(project, frames, 0.0)).pace, axis=0)
    assert pace[0] < pace[1] < 1.0
