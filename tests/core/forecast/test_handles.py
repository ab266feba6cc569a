"""Handles are rendered, so that hours, runs, plans and what is missing count them. Held against counting by hand."""

import numpy as np
import pytest

from film import exact_trial, make_project, make_shot, well_timed
from pemlo.core.arrivals.place import FrameName
from pemlo.core.arrivals.scan import Arrival
from pemlo.core.arrivals.shot_matcher import ShotMatcher
from pemlo.core.arrivals.what_is_missing import missing_frames
from pemlo.core.cost.along import knots, shares_with_handles
from pemlo.core.cost.draws import draw_film
from pemlo.core.cost.fit import fit
from pemlo.core.cost.fit_input import fit_input
from pemlo.core.forecast.finish import finish_of
from pemlo.core.forecast.jobs import jobs_of
from pemlo.core.forecast.verdict import forecast
from pemlo.core.frames import format_frames
from pemlo.core.persistence.csv_shots import read_shots, write_shots
from pemlo.core.project.edits import set_handles, set_shot
from pemlo.core.project.machines import Machine
from pemlo.core.project.notices import notices
from pemlo.core.project.settings import ShotSettings
from pemlo.core.trade.options import mean_hours
from pemlo_simulators.farm.schedule import deliveries
from pemlo_simulators.farm.truth import truth_of

DESK = Machine(name="desk")


def film(handles=0, trials=None, count=100, **fields):
    shot = make_shot("010", count).replace(handles=handles, **fields)
    return make_project((shot,), well_timed() if trials is None else trials, (DESK,))


def hours(project):
    known = fit(fit_input(project))
    draws = draw_film(known, project)
    return forecast(project, known, draws), finish_of(project, known, draws)


@pytest.mark.parametrize(
    ("fields", "step", "frames"),
    [
        ({"handles": 4}, 1, "-3-14"),
        ({"handles": 4}, 3, "-5,-2,1,4,7,10,13"),  # those of the film are met
        ({"handles": 4, "step": 2, "last": 9}, 1, "-3,-1,1,3,5,7,9,11,13"),
        ({"handles": 4, "still": True, "moves": ()}, 1, "1"),
        ({}, 1, "1-10"),
    ],
)
def test_the_frames_that_are_rendered(fields, step, frames):
    shot = make_shot("010", 10).replace(**fields)
    settings = ShotSettings(samples=16, frame_step=step)
    found = tuple(shot.rendered_frames(settings))
    assert ",".join(map(str, found)) == frames or format_frames(found) == frames
    assert shot.rendered_count(settings) == len(found)
    (job,) = jobs_of(make_project((shot.replace(asked=settings),)))
    assert tuple(job.frames) == found
    assert job.place.min() >= 0
    assert job.place.max() <= 1


def test_where_frames_cost_alike_hours_grow_as_frames_do():
    (plain, run), (more, longer) = hours(film()), hours(film(handles=10))
    assert more.shots[0].frames == 120
    assert more.hours.middle / plain.hours.middle == pytest.approx(1.2, rel=0.01)
    assert longer.run.busy.sum() / run.run.busy.sum() == pytest.approx(1.2, rel=0.01)


def test_handles_cost_what_the_end_costs_that_they_hang_on():
    """A shot that costs four times as much at its end: the mean frame by adding up all that are rendered."""
    trials = tuple(
        exact_trial("010", frame, samples, factor=4.0 ** ((frame - 1) / 99))
        for frame in range(1, 101, 9)
        for samples in (256, 64)
    )
    ratios = 4.0 ** (np.arange(100) / 99)
    by_hand = (ratios.sum() + 20 * ratios[0] + 20 * ratios[-1]) / ratios.sum()
    (plain, run), (more, longer) = hours(film(0, trials)), hours(film(20, trials))
    assert more.hours.middle / plain.hours.middle == pytest.approx(by_hand, rel=0.02)
    assert longer.run.busy.sum() / run.run.busy.sum() == pytest.approx(by_hand, rel=0.02)
    assert by_hand > 1.42  # and not as frames do, which are 1.4 times as many


def test_shares_stay_shares():
    at, share = knots(1000)
    found = shares_with_handles(share, 1000, 50)
    assert found.sum() == pytest.approx(1)
    assert found[0] / found[1] == pytest.approx(1 + 50 * len(at) / 1000)
    assert shares_with_handles(np.array([1.0]), 1, 3).tolist() == [1.0]


def test_a_plan_weighs_them():
    found = []
    for project in (film(), film(handles=10)):
        known, shot = fit(fit_input(project)), project.shots[0]
        found.append(mean_hours(project, known, draw_film(known, project), shot, [shot.settings])[0].mean())
    assert found[1] / found[0] == pytest.approx(1.2, rel=0.01)


def test_a_watch_waits_for_them_and_knows_them():
    project = film(handles=2, count=10)
    (shot,) = project.shots
    snapshot = [Arrival(FrameName("", frame), f"{frame}.exr", 5, 0.0) for frame in range(-1, 9)]
    assert format_frames(missing_frames(shot, snapshot)) == "9-12"
    whose = ShotMatcher(project)
    assert all(whose.shot(one) is shot for one in snapshot)
    assert whose.shot(Arrival(FrameName("", 13), "13.exr", 5, 0.0)) is None


@pytest.mark.parametrize("step", [1, 3])
def test_the_small_farm_renders_them(step):
    project = film(handles=4, count=20, plan=ShotSettings(samples=256, frame_step=step))
    found = deliveries(project, truth_of(project, 0))
    assert sorted(one.frame for one in found) == list(project.shots[0].rendered_frames(project.shots[0].settings))


def test_a_table_has_them():
    project = set_handles(make_project((make_shot("010", 10), make_shot("020", 5))), 8)
    project = set_shot(project, "020", handles=0)
    assert [shot.handles for shot in read_shots(write_shots(project))] == [8, 0]


def test_a_trial_of_a_handle_is_one_of_the_shot():
    trials = (*well_timed(), exact_trial("010", -3, 256), exact_trial("010", 110, 256))
    assert [str(one) for one in notices(film(0, trials))] == ["Shot 010: trials at frame -3, 110 lie outside 1-100."]
    assert notices(film(10, trials)) == ()
    (more, _) = hours(film(10, trials))
    assert more.shots[0].seconds.middle == pytest.approx(exact_trial("010", 1, 256).seconds, rel=0.02)
