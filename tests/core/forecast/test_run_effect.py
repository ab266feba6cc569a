"""The verdict from runs of every frame: what it says of whole frames, the preview beside the exact run, work without end."""

from datetime import timedelta

import numpy as np
import pytest

from film import make_project, make_shot, well_timed
from pemlo.core.cost.draws import draw_film
from pemlo.core.cost.fit import fit
from pemlo.core.cost.fit_input import fit_input
from pemlo.core.forecast.finish import finish_of
from pemlo.core.forecast.jobs import jobs_of
from pemlo.core.forecast.run_effect import RunEffect, exact_finish, run_count, spread_draws
from pemlo.core.forecast.verdict import forecast, project_capacity, verdict_of
from pemlo.core.project.edits import set_running
from pemlo.core.project.machines import Machine
from pemlo.core.project.trials import Trial
from pemlo.core.trade.planning import hours_available_of
from pemlo.words.verdicts import headline, verdict

NIGHTS = Machine(name="desk", count=4, hours="Mon-Sun 20:00-08:00", speed=0.3, loss_percent=3)


def known_film(project):
    known = fit(fit_input(project))
    return project, known, draw_film(known, project)


def film(machines=(NIGHTS,), frames=100, **more):
    return known_film(make_project((make_shot("010", frames),), well_timed("010", (1, frames)), machines, **more))


def test_four_frames_on_three_machines_take_two_frames_of_time():
    """By hand: of a stopwatch's 600 s a frame, four on three machines take 20 minutes, not 13."""
    trial = Trial(shot="010", frame=1, seconds=600.0, samples=64)
    shots = (make_shot("010", 4, samples=64),)
    project, known, draws = known_film(make_project(shots, (trial,), (Machine(name="desk", count=3),)))
    poured = forecast(project, known, draws, most_frames=0)
    whole = forecast(project, known, draws, finish=finish_of(project, known, draws))
    middle = [float(np.median(one.finish_h)) for one in (poured, whole)]
    assert middle[1] / middle[0] == pytest.approx(2 * 3 / 4, rel=0.08)
    assert whole.hours_available == poured.hours_available == pytest.approx(3 * 80)
    assert whole.hours_usable == pytest.approx(3 * 80 * 4 / (2 * 3), rel=0.08)


@pytest.mark.parametrize("count", [1, 4, 20])
def test_a_preview_is_within_one_percent_of_the_exact_run(count):
    project, known, draws = film((NIGHTS.replace(count=count),), 400)
    quick = forecast(project, known, draws)
    exact = forecast(project, known, draws, finish=exact_finish(project, known, draws))
    for share in (0.5, 0.9):
        assert np.quantile(quick.finish_h, share) == pytest.approx(np.quantile(exact.finish_h, share), rel=0.01)
    assert quick.kind == exact.kind
    assert abs(quick.probability - exact.probability) < 0.05


def test_the_exact_verdict_is_the_finish_to_the_draw():
    project, known, draws = film(assembly_minutes=45, deadline="2031-04-22T07:00Z")
    found = finish_of(project, known, draws)
    said = forecast(project, known, draws, finish=found)
    assert (said.finish_h == np.sort(found.hours)).all()
    assert said.probability == found.probability
    assert (said.spare_h >= 0) == (said.kind == "makes it")
    everything = forecast(project, known, draws, most_frames=10**9)
    assert (everything.finish_h == said.finish_h).all()


def test_to_spare_and_the_chance_say_the_same_whatever_the_deadline():
    project, known, draws = film()
    ends = finish_of(project, known, draws).hours
    for share in np.linspace(0.02, 0.995, 12):
        deadline = project.start.timestamp() + 3600 * float(np.quantile(ends, share))
        due = type(project.start).fromtimestamp(deadline, project.start.tzinfo)
        moved = project.replace(delivery=project.delivery.replace(deadline=due))
        said = forecast(moved, known, draws, finish=finish_of(moved, known, draws))
        assert (said.spare_h >= -1e-9) == (said.probability >= 0.9), share


def test_what_is_just_short_is_said_no_finer_than_it_is_known():
    project, known, draws = film()
    ends = finish_of(project, known, draws).hours
    words = {}
    for share in (0.89, 0.6):
        deadline = project.start + timedelta(hours=float(np.quantile(ends, share)))
        moved = project.replace(delivery=project.delivery.replace(deadline=deadline))
        words[share] = verdict(moved, forecast(moved, known, draws, finish=finish_of(moved, known, draws)))
    assert "are available: 0.1 short." in words[0.89]
    assert " short." in words[0.6]


def test_work_that_never_ends_is_said_in_place_of_a_date():
    trials = tuple(one.replace(memory_gib=96.0) for one in well_timed())
    machines = (Machine(name="desk", memory_gib=64.0),)
    project, known, draws = known_film(make_project((make_shot("010"),), trials, machines))
    said = forecast(project, known, draws)
    assert (said.kind, said.probability) == ("misses", 0.0)
    words = verdict(project, said)
    assert words.startswith("Cannot finish with these machines")
    assert "96 GiB, and no machine has that" in words


def test_a_frame_that_goes_on_is_late_and_one_that_starts_again_never_ends():
    machine = Machine(name="desk", hours="Mon-Sun 20:00-20:10", speed=0.02)
    project, known, draws = film((machine,), 20)
    late = forecast(project, known, draws, finish=finish_of(project, known, draws))
    assert late.never == ""
    assert " late. " in verdict(project, late)
    again = set_running(project, starts_again=True)
    said = forecast(again, known, draws, finish=finish_of(again, known, draws))
    assert "starts again each time" in said.never
    assert np.isinf(said.finish_h).all()


def test_how_many_draws_are_run_follows_the_frames():
    project, *_ = film(frames=1000)
    assert run_count(jobs_of(project), 80_000, 1000) == 80
    assert run_count(jobs_of(project), 2_000_000, 1000) == 1000
    assert run_count(jobs_of(project), 2_000, 1000) == 0
    needed = np.random.default_rng(1).normal(size=1000)
    chosen = needed[spread_draws(needed, 9)]
    assert (np.diff(chosen) > 0).all()
    assert np.median(chosen) == pytest.approx(np.median(needed), abs=0.01)


def test_a_plan_has_the_hours_that_the_film_can_use():
    project, known, draws = film((Machine(name="desk", count=30, speed=0.1),), 70, deadline="2031-04-21T12:00Z")
    assert hours_available_of(project) == pytest.approx(30 * 0.1 * 2)
    assert hours_available_of(project, (known, draws)) < 0.9 * hours_available_of(
        project
    )  # three frames each, and the last wait


def test_a_few_runs_that_wait_for_monday_take_no_hours_from_before_the_deadline():
    """One machine that is always free, 80 h to the deadline: one run in seven ends 60 h later than its hours say."""
    project = make_project()
    curve, needed = project_capacity(project), np.linspace(90.0, 110.0, 1000)
    late = np.arange(1000) % 7 == 0
    ends = needed + np.where(late, 60.0, 0.0)
    said = verdict_of(project, curve, (), needed, RunEffect(needed, ends / needed, "", ends))
    assert said.hours_usable == pytest.approx(80.0)
    assert said.spare_h == pytest.approx(80.0 - 108.0)  # nine in ten need 108
    assert said.probability == 0.0


def test_a_chance_that_is_just_the_wanted_one_is_said_to_be_just_that():
    """Nine in ten of the runs end in time; the others wait for another night, and hours would be left."""
    project = make_project((make_shot("010"),))
    curve, needed = project_capacity(project), np.linspace(50.0, 60.0, 1000)
    words = []
    for share in (0.9, 0.95):
        ends = np.where(np.arange(1000) < 1000 * share, needed, 90.0)
        words.append(
            headline(project, verdict_of(project, curve, (), needed, RunEffect(needed, ends / needed, "", ends)))
        )
    assert words == ["Makes Thursday 18:00, just: 9 in 10.", "Makes Thursday 18:00 with 21 machine-hours to spare."]
