"""Figures that the trade reports, each as a question to the public core.

Common practice, no source, for all of them: durations as people report them.
"""

from datetime import timedelta

import numpy as np
import pytest

from film import make_project, make_shot
from pemlo.core.cost.draws import draw_film
from pemlo.core.cost.fit import fit
from pemlo.core.cost.fit_input import fit_input
from pemlo.core.cost.frame_model import stage_seconds
from pemlo.core.farm.capacity import capacity
from pemlo.core.forecast.verdict import forecast
from pemlo.core.project.edits import set_asked, set_delivery
from pemlo.core.project.machines import Machine
from pemlo.core.project.shots import Shot
from pemlo.core.project.trials import Trial
from pemlo.core.units import format_duration, parse_duration


def timed(shot, seconds, frames=(1, 34, 67, 100), **fields):
    """Trials at the plan's own settings, timed so often that the level is known."""
    settings = shot.asked.frame_fields()
    return tuple(
        Trial(shot=shot.name, frame=f, seconds=seconds, repeat=repeat, **{**settings, **fields})
        for repeat in range(3)
        for f in frames
    )


def film_hours(frames, seconds, **delivery):
    shot = make_shot("010", frames)
    spots = tuple(int(f) for f in np.linspace(1, frames, 6))
    project = make_project(shots=(shot,), trials=timed(shot, seconds, spots), **delivery)
    known = fit(fit_input(project))
    return project, forecast(project, known, draw_film(known, project))


def test_a_shorter_frame_saves_its_share():
    before, after = parse_duration("32 min 08 s"), parse_duration("4 min 02 s")
    assert 100 * (1 - after / before) == pytest.approx(87.4, abs=0.06)
    (_, slow), (_, quick) = film_hours(75, before), film_hours(75, after)
    assert slow.hours.middle - quick.hours.middle == pytest.approx(35.1, rel=0.01)


@pytest.mark.parametrize(("seconds", "minutes"), [(10, 20), (30, 60)])
def test_seconds_a_frame_over_120_frames(seconds, minutes):
    _, found = film_hours(120, seconds)
    assert 60 * found.hours.middle == pytest.approx(minutes, rel=0.01)


def test_an_overrun_of_five_percent_is_ordinary():
    # One frame timed: 63 measured minutes lie well within the interval around 60 estimated ones.
    shot = make_shot("010", 120)
    project = make_project(shots=(shot,), trials=timed(shot, 30.0, (60,))[:1])
    known = fit(fit_input(project))
    found = forecast(project, known, draw_film(known, project)).hours
    assert found.low < 63 / 60 < found.high


def test_seventeen_seconds_over_429_frames():
    project, found = film_hours(429, 17, fps=30)
    assert 429 * 17 == 7293
    assert found.hours.middle == pytest.approx(2.03, rel=0.01)
    assert project.screen_seconds(project.shots[0]) == pytest.approx(14.3)
    _, less = film_hours(429, 15, fps=30)
    assert 60 * (found.hours.middle - less.hours.middle) == pytest.approx(14.3, rel=0.02)


def test_the_spread_of_sixteen_to_twenty_seconds_is_in_the_interval():
    shot = make_shot("010", 429)
    times = (16.0, 16.5, 17.0, 17.0, 18.0, 20.0)
    trials = tuple(
        Trial(shot="010", frame=int(f), seconds=s, **shot.asked.frame_fields())
        for f, s in zip(np.linspace(1, 429, 6), times, strict=True)
    )
    project = make_project(shots=(shot,), trials=trials)
    known = fit(fit_input(project))
    seconds = forecast(project, known, draw_film(known, project)).shots[0].seconds
    assert 16 < seconds.low < seconds.middle < seconds.high < 20


def test_fourteen_minutes_over_250_frames():
    project, found = film_hours(250, 14 * 60)
    assert found.hours.middle == pytest.approx(58.3, rel=0.01)
    assert format_duration(250 * 14 * 60) == "58 h 20 m"

    def probability(count):
        quick = set_delivery(project, deadline=project.start + timedelta(minutes=30))
        known = fit(fit_input(quick))
        many = quick.replace(machines=(Machine(name="m", count=count),))
        return forecast(many, known, draw_film(known, many)).probability

    # At least 117 machines within half an hour: 116 are not enough work even without an overrun.
    assert capacity((Machine(name="m", count=116),), "UTC", project.start, 1).work_by(0.5) < 250 * 14 / 60
    assert capacity((Machine(name="m", count=117),), "UTC", project.start, 1).work_by(0.5) >= 250 * 14 / 60
    assert probability(105) < 0.1
    assert probability(130) > 0.9


def test_stages_that_were_timed_are_told_apart():
    # 7.7 s a frame; 3.4 s without the geometry; 0.8 s without geometry and light.
    shot = make_shot("010", 100)
    trials = timed(shot, 7.7, prepare_seconds=4.3, light_seconds=2.6)
    project = make_project(shots=(shot,), trials=trials)
    known = fit(fit_input(project))
    frames = known.shots["010"].readings.seen.frames[:1]
    prepare, light, *rest = stage_seconds(known.shots["010"].best[None], frames)[0]
    whole = prepare + light + sum(rest)
    assert whole == pytest.approx(7.7, rel=0.02)
    assert whole - prepare == pytest.approx(3.4, rel=0.03)
    assert whole - prepare - light == pytest.approx(0.8, rel=0.06)


def test_writing_less_saves_what_it_took():
    # 320 s with picture and resume file, 296 s with the picture alone, 282 s with neither.
    shot = make_shot("010", 100)
    project = make_project(shots=(shot,), trials=timed(shot, 320.0, write_seconds=38.0))
    known = fit(fit_input(project))
    stages = stage_seconds(known.shots["010"].best[None], known.shots["010"].readings.seen.frames[:1])[0]
    assert stages.sum() - stages[4] == pytest.approx(282, rel=0.02)


def test_a_benchmark_score_times_seconds_stays_the_same():
    # So a machine's speed is its score against the reference's, and trials of both agree within 0.5 %.
    shot = make_shot("010", 100)
    machines = (Machine(name="reference", speed=1.0), Machine(name="other", speed=1.7))
    on_both = timed(shot, 340.0) + timed(shot, 200.0, machine="other")
    project = make_project(shots=(shot,), trials=on_both, machines=machines)
    known = fit(fit_input(project))
    seconds = forecast(project, known, draw_film(known, project)).shots[0].seconds.middle
    assert seconds == pytest.approx(340.0, rel=0.005)


def test_frames_and_hours_go_with_the_rate():
    hours = []
    for fps in (24, 30, 60):
        shot = Shot(name="010", first=1, last=10 * fps, asked=make_shot().asked)
        project = make_project(shots=(shot,), trials=timed(shot, 60.0, (1, 5 * fps, 10 * fps)), fps=fps)
        known = fit(fit_input(project))
        hours.append(forecast(project, known, draw_film(known, project)).hours.middle)
    assert np.array(hours) / hours[0] == pytest.approx([1, 30 / 24, 60 / 24], rel=0.01)


def test_a_neighbour_denoiser_can_cost_more_than_the_render():
    # 20 min a frame beside an 8 min render: slower than the render that it cleans.
    shot = make_shot("010", 100, denoise="neighbours")
    trials = timed(shot, 28 * 60.0, denoise_seconds=20 * 60.0) + timed(shot, 8 * 60.0, denoise="none")
    project = make_project(shots=(shot,), trials=trials)
    known = fit(fit_input(project))
    draws = draw_film(known, project)
    with_it = forecast(project, known, draws).hours.middle
    without = forecast(set_asked(project, ["010"], denoise="none"), known, draws).hours.middle
    assert with_it / without == pytest.approx(28 / 8, rel=0.05)


def test_every_second_frame_is_half_the_work():
    shot = make_shot("010", 300)
    project = make_project(shots=(shot,), trials=timed(shot, 60.0, (1, 150, 300)))
    known = fit(fit_input(project))
    draws = draw_film(known, project)
    half = set_asked(project, ["010"], frame_step=2)
    assert forecast(half, known, draws).hours.middle == pytest.approx(
        forecast(project, known, draws).hours.middle / 2, rel=1e-3
    )
    assert forecast(half, known, draws).shots[0].frames == 150
