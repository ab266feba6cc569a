"""What is worth running next: three plain cases with answers by hand, and what ends a session."""

import math
from pathlib import Path

import pytest

from film import exact_seconds, exact_trial, make_project, make_shot, well_timed
from pemlo.core.cost.next_trial import Limits, advise
from pemlo.core.film.film import Film
from pemlo.core.project.edits import add_trials
from pemlo.core.project.machines import Machine
from pemlo.core.project.render_ways import RenderWay
from pemlo.core.project.settings import FrameSettings
from pemlo.core.project.trials import Trial
from pemlo.core.trialrun.spending import Choice, Ended, Situation, Spent, choices, next_choice, task_of, way_named

WAY = RenderWay(name="main", command="draw -f {frame} -s {samples} -p {percent} {out}")
TIGHT = {"deadline": "2031-04-21T20:00Z"}  # ten hours on one machine


def film(project):
    return Film(project, Path("/nowhere"))


def run_session(project, minutes, way=WAY, seconds_of=exact_seconds, order="telling"):
    """Spend minutes with a renderer that takes what a formula says; return the film and what was run."""
    state, spent, left, run = film(project), Spent(), 60.0 * minutes, []
    while True:
        choice = next_choice(Situation(state, way, spent, left, order))
        if isinstance(choice, Ended):
            return state, run, choice
        seconds = seconds_of(choice.settings)
        spent = spent.begun(choice)
        run.append(choice)
        left -= seconds
        if left <= 0:
            return state, run, Ended("time")
        trial = Trial(
            shot=choice.shot,
            frame=choice.frame,
            seconds=seconds,
            repeat=choice.repeat,
            **choice.settings.frame_fields(),
        )
        spent = spent.with_landed(trial, seconds)
        state = state.with_project(add_trials(state.project, [trial]))


def test_an_empty_project_begins_with_something_cheap():
    """By hand: 256 samples at full size were asked; a sixteenth of the samples at a quarter of each side costs least."""
    first = next_choice(Situation(film(make_project()), WAY, Spent(), 600.0))
    assert (first.shot, first.why) == ("010", "first")
    assert (first.settings.samples, first.settings.resolution_percent) == (16, 25.0)


def test_a_film_with_days_to_spare_is_settled_after_a_few_frames():
    """By hand: 150 frames of 74 s on one machine are 3.1 hours, and there are 80: nothing can change that."""
    state, run, ended = run_session(make_project(), 40)
    assert ended.why == "settled"
    assert ended.chance > 0.99
    assert len(run) <= 4
    assert state.forecast.hours.low < 150 * exact_seconds(FrameSettings(samples=256)) / 3600 < state.forecast.hours.high


def test_forty_minutes_settle_a_verdict_that_is_near_the_limit():
    """By hand: 400 frames of 74.3 s are 8.25 h, and 10 h are there. No time is typed; the truth is in the interval."""
    project = make_project(shots=(make_shot("010", 400),), **TIGHT)
    state, run, ended = run_session(project, 40)
    truth = 400 * exact_seconds(FrameSettings(samples=256)) / 3600
    assert state.forecast.hours.low <= truth <= state.forecast.hours.high
    assert sum(exact_seconds(one.settings) for one in run) <= 40 * 60
    assert state.forecast.probability > 0.85
    assert any(one.why == "repeat" for one in run), "nobody had said how times repeat"


def test_what_tells_most_of_the_film_comes_first_and_shots_in_order_where_that_is_wanted():
    shots = (make_shot("010", 10), make_shot("020", 1000))
    trials = (exact_trial("010", 5, 16, 25), exact_trial("020", 5, 16, 25))
    project = make_project(shots=shots, trials=trials, **TIGHT)
    assert choices(Situation(film(project), WAY, Spent(), 600))[0].shot == "020"
    assert choices(Situation(film(project), WAY, Spent(), 600, "shots"))[0].shot == "010"


def test_nothing_is_run_twice_and_what_is_skipped_is_not_run():
    project = make_project(trials=(exact_trial("010", 5, 16, 25),), **TIGHT)
    spent = Spent()
    seen = set()
    for _ in range(6):
        choice = choices(Situation(film(project), WAY, spent, math.inf))[0]
        assert choice.key not in seen
        seen.add(choice.key)
        spent = spent.skipping(choice.key)


def test_only_what_the_command_can_set_is_tried():
    plain = RenderWay(name="plain", command="draw -f {frame} {out}")
    for choice in choices(Situation(film(make_project(trials=well_timed(), **TIGHT)), plain, Spent(), math.inf)):
        assert choice.settings == FrameSettings(samples=256), "samples and size stand as the scene has them"


def test_a_trial_that_does_not_fit_into_the_time_is_not_begun():
    project = make_project(trials=well_timed(), **TIGHT)
    for left in (5.0, 30.0):
        assert all(one.seconds <= left for one in choices(Situation(film(project), WAY, Spent(), left)))
    assert next_choice(Situation(film(project), WAY, Spent(), 0.5)).why in ("time", "little", "settled")


def test_a_shot_that_fails_twice_is_left_alone_and_said():
    project = make_project(shots=(make_shot("010"),), **TIGHT)
    spent = Spent().with_failed("010", "exit status 3").with_failed("010", "exit status 4")
    ended = next_choice(Situation(film(project), WAY, spent, math.inf))
    assert (ended.why, dict(ended.failed)) == ("failed", {"010": "exit status 4"})


def test_a_way_that_needs_a_scene_renders_shots_that_have_one():
    small = way_named(make_project(), "")
    assert small.name == "small renderer"
    assert next_choice(Situation(film(make_project()), small, Spent(), math.inf)).why == "nothing"


def test_several_machines_and_their_speeds_are_one_film():
    machines = (Machine(name="desk"), Machine(name="blade", speed=1.0))
    trials = [exact_trial("010", frame, samples, percent) for frame, samples, percent in
              ((1, 64, 50), (34, 64, 50), (67, 256, 50), (100, 16, 25))]  # fmt: skip
    fast = [one.model_copy(update={"machine": "blade", "seconds": one.seconds / 2}) for one in trials]
    project = make_project(shots=(make_shot("010"),), machines=machines, trials=tuple(trials + fast))
    fit = film(project).fit
    assert fit.known


def test_a_choice_becomes_a_frame_of_its_shot():
    made = task_of(make_project(), Choice("010", 7, FrameSettings(samples=4), 1.0, repeat=2), seed=9)
    assert (made.shot, made.frame, made.size, made.seed, made.repeat) == ("010", 7, (1920, 1080), 9, 2)


def test_what_a_trial_takes_beside_its_own_time_counts():
    """By hand: of a renderer that takes ten minutes to start, a frame of a few seconds is worth a hundredth."""
    assert Spent(beside_s=(10.0, 10.0, 11.0)).overhead_s == 10.0
    project = make_project(trials=(exact_trial("010", 5, 16, 25), exact_trial("020", 5, 16, 25)), **TIGHT)
    known = film(project).fit
    quick, slow = (
        {one.shot: one for one in advise(known, project, ("010",), {"010": 50.0}, Limits(overhead_s=beside))}["010"]
        for beside in (0.0, 600.0)
    )
    assert slow.variance_per_minute < 0.2 * quick.variance_per_minute
    assert slow.variance_per_minute == pytest.approx(
        (slow.hours_sd**2 - slow.hours_sd_after**2) / ((slow.seconds + 600.0) / 60), rel=1e-6
    )


def test_a_chance_that_rests_on_one_cheap_frame_is_not_settled():
    """By hand: 8 s of preparing whatever is rendered, 300 frames in 45 minutes: a quarter-size frame says nothing of it."""

    def preparing(settings):
        return exact_seconds(settings, prepare=8.0, pixel=0.05, sample=0.002)

    shots = tuple(make_shot(name, 100, samples=64) for name in ("010", "020", "030"))
    project = make_project(shots, deadline="2031-04-21T10:45Z")
    state, run, _ = run_session(project, 20, seconds_of=preparing)
    assert len(run) >= 3
    truth = 300 * preparing(FrameSettings(samples=64)) / 3600
    assert state.forecast.hours.low < truth < state.forecast.hours.high
