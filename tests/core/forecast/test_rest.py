"""The run of what is left, against the plain run from the start and against hand counting."""

import itertools

import numpy as np
import pytest

from film import exact_seconds, make_project, make_shot, well_timed
from pemlo.core.cost.draws import draw_film
from pemlo.core.cost.fit import fit
from pemlo.core.cost.fit_input import fit_input
from pemlo.core.errors import InputError
from pemlo.core.forecast.completed_frames import CompletedFrames, machine_records, nothing_in
from pemlo.core.forecast.finish import finish_of
from pemlo.core.forecast.needs import shot_hours
from pemlo.core.forecast.remaining_film import rest_film
from pemlo.core.forecast.remaining_work import jobs_left, rest_of
from pemlo.core.forecast.updated_posterior import learn
from pemlo.core.project.machines import Machine
from pemlo.core.project.settings import LEVERS

SECONDS = exact_seconds(make_shot().asked)


@pytest.fixture(scope="module")
def known():
    project = make_project((make_shot("010", 40), make_shot("020", 20)),
                           (*well_timed("010", (1, 14, 27, 40)), *well_timed("020", (1, 7, 14, 20))),
                           (Machine(name="desk"), Machine(name="blade")), retake_share=0.0)  # fmt: skip
    made = fit(fit_input(project))
    return project, made, draw_film(made, project)


def completed_frames(project, count, seconds=SECONDS):
    """The first frames of the film, rendered in turns by its two machines."""
    number = np.arange(count)
    shot = (number >= 40).astype(int)
    frame = np.where(shot, number - 39, number + 1)
    return CompletedFrames(shot, frame, np.full(count, seconds), number % 2, (number // 2 + 1) * seconds,
                    shot, tuple(one.asked for one in project.shots))  # fmt: skip


def rest(known, frames, now, **more):
    project, made, draws = known
    records = machine_records(project, frames, 0.0)
    done = {shot.name: frames.frame[frames.shot == k] for k, shot in enumerate(project.shots)}
    jobs = jobs_left(project, done, {})
    found = learn(project, made, draws, frames, records)
    return rest_of(project, made, found, jobs, frames, records, now, 0.0, which=np.arange(0, 1000, 5), **more)


def test_with_nothing_in_it_is_the_run_of_the_film_with_the_doubt_of_speeds_beside_it(known):
    project, made, draws = known
    whole = finish_of(project, made, draws)
    found = rest(known, nothing_in(), 0.0)
    assert np.median(found.hours) == pytest.approx(whole.film.middle, rel=0.03)
    assert np.std(found.hours) > np.std(whole.hours)


def test_the_end_comes_nearer_and_narrower_with_every_frame(known):
    true = 30 * SECONDS / 3600
    widths = []
    for count in (0, 10, 30, 50, 58):
        found = rest(known, completed_frames(known[0], count), count / 2 * SECONDS)
        low, high = np.quantile(found.hours, [0.05, 0.95])
        assert low - 0.02 <= true <= high + 0.02
        assert found.frames == 60 - count
        widths.append(high - low)
    assert all(one > other for one, other in itertools.pairwise(widths))


def test_machines_go_on_from_their_last_frames(known):
    frames = completed_frames(known[0], 58)
    # In the middle of the last frame of each: half of it is left.
    found = rest(known, frames, frames.ended[-1] + SECONDS / 2)
    assert np.median(found.hours) == pytest.approx(30 * SECONDS / 3600, rel=0.02)


def test_when_all_is_in_it_ended_when_the_last_frame_came(known):
    frames = completed_frames(known[0], 60)
    found = rest(known, frames, frames.ended[-1] + 7200)
    assert found.frames == 0
    assert set(found.hours.tolist()) == {frames.ended[-1] / 3600}
    assert found.silent == ()


def test_a_machine_that_brings_nothing_is_left_out(known):
    frames = completed_frames(known[0], 50)
    mine = frames.those((frames.machine == 0) | (frames.ended < 5 * SECONDS))
    found = rest(known, mine, float(mine.ended.max()))
    assert found.silent == ("blade",)
    assert np.median(found.hours) > 1.1 * 30 * SECONDS / 3600


def test_hours_left_are_those_of_the_frames_that_are_left(known):
    project, made, draws = known
    found = rest(known, completed_frames(project, 20), 10 * SECONDS)
    assert np.median(found.shot_hours["010"]) == pytest.approx(20 * SECONDS / 3600, rel=0.05)
    assert np.median(found.shot_hours["020"]) == pytest.approx(20 * SECONDS / 3600, rel=0.05)


def test_frames_to_be_rendered_again_are_fewer_the_more_are_good(known):
    project = known[0].replace(delivery=known[0].delivery.replace(retake_share=0.1))
    counts = []
    for count in (0, 20, 40):
        done = {"010": np.arange(1, count + 1)}
        jobs = jobs_left(project, done, {})
        counts.append(sum(len(job.frames) for job in jobs if job.part == "again" and job.shot.name == "010"))
    assert counts == [4, 2, 0]


# What is left, as a film of its own


def made_rest(known, count, **more):
    project, made, draws = known
    frames = completed_frames(project, count)
    found = rest(known, frames, count / 2 * SECONDS)
    knows = learn(project, made, draws, frames, machine_records(project, frames, 0.0))
    done = {shot.name: frames.frame[frames.shot == k] for k, shot in enumerate(project.shots)}
    return found, rest_film(project, knows, found.jobs, done, found.silent, count / 2 * SECONDS,
                            **{"midway": False, **more})  # fmt: skip


def test_what_is_left_needs_the_hours_that_are_left(known):
    found, film = made_rest(known, 30)
    assert [(shot.name, shot.first, shot.last) for shot in film.project.shots] == [("010", 31, 40), ("020", 1, 20)]
    for name, hours in found.shot_hours.items():
        needs = shot_hours(known[1], film.draws, film.project, film.project.shot(name))
        assert np.median(needs) == pytest.approx(np.median(hours), rel=0.02)


def test_a_shot_that_has_begun_is_held_unless_it_may_change_midway(known):
    assert made_rest(known, 30)[1].project.shot("010").pins == LEVERS
    assert made_rest(known, 30)[1].project.shot("020").pins == ()
    assert made_rest(known, 30, midway=True)[1].project.shot("010").pins == ()
    assert made_rest(known, 30)[1].begun == {"010": 30}


def test_a_shot_that_is_in_is_no_part_of_what_is_left(known):
    film = made_rest(known, 44)[1]
    assert [shot.name for shot in film.project.shots] == ["020"]
    assert {trial.shot for trial in film.project.trials} == {"020"}


def test_past_the_deadline_and_with_nothing_left_there_is_no_plan(known):
    project = known[0]
    found, _ = made_rest(known, 30)
    knows = learn(*known, nothing_in(), machine_records(project, nothing_in(), 0.0))
    with pytest.raises(InputError, match="deadline has passed"):
        rest_film(project, knows, found.jobs, {}, (), 1e6, midway=False)
    with pytest.raises(InputError, match="Nothing is left"):
        rest_film(project, knows, (), {}, (), 100.0, midway=False)
