"""Trade without pictures: every lever has hours, marks by eye decide what passes, guesses stay guesses."""

import numpy as np
import pytest

from film import exact_seconds, make_project, make_shot
from pemlo.core.cost.draws import draw_film
from pemlo.core.cost.fit import fit
from pemlo.core.cost.fit_input import fit_input
from pemlo.core.project.settings import FrameSettings, ShotSettings
from pemlo.core.project.shots import SettingsMark
from pemlo.core.project.trials import BAD, GOOD, Trial
from pemlo.core.trade.film_options import evaluate_film_options
from pemlo.core.trade.options import levers_of, options_of
from pemlo.core.trade.planning import plan_film
from pemlo.words.unknowns import unknowns


def typed(shot, samples, mark="", **fields):
    """A stopwatch time of a renderer that follows the model, and what somebody said of the frame."""
    settings = FrameSettings(samples=samples, **{k: v for k, v in fields.items() if k in FrameSettings.model_fields})
    return Trial(shot=shot, frame=50, seconds=round(exact_seconds(settings), 1), mark=mark, samples=samples, **fields)


def two_shots(*marks_of_020):
    """Four typed trials of two shots of 100 frames that were asked for with 256 samples."""
    return make_project(
        shots=(make_shot("010"), make_shot("020")),
        trials=(typed("010", 256), typed("010", 64, GOOD), typed("020", 128, *marks_of_020), typed("020", 32, BAD)),
    )


def plan_of(project, goal="hours"):
    known = fit(fit_input(project))
    draws = draw_film(known, project)
    return plan_film(project, evaluate_film_options(project, (known, draws), {}), goal, (known, draws))


def test_the_cheapest_plan_that_passes_by_eye_is_the_one_worked_out_by_hand():
    found = plan_of(two_shots(GOOD))
    settings = found.settings()
    # 64 samples passed in 010: nothing below them was seen. In 020 128 passed, and 32 did not.
    assert settings["010"].samples == 64
    assert settings["020"].samples == 128
    assert {one.denoise for one in settings.values()} == {"none"}
    by_hand = (100 * exact_seconds(FrameSettings(samples=64)) + 100 * exact_seconds(FrameSettings(samples=128))) / 3600
    # Two times a shot leave a tenth or so open.
    assert np.median(found.plan.hours) == pytest.approx(by_hand, rel=0.1)
    ends = np.quantile(found.plan.hours, [0.05, 0.95])
    assert ends[0] < by_hand < ends[1]


def test_a_shot_that_nobody_marked_stays_as_it_was_asked():
    project = make_project(trials=(typed("010", 256), typed("010", 64)))
    assert {one.samples for one in plan_of(project).settings().values()} == {256}


def test_what_was_refused_is_in_no_plan_even_where_hours_are_short():
    refused = two_shots(BAD)
    for goal in ("hours", "picture", "missing"):
        assert plan_of(refused, goal).settings()["020"].samples == 256


def test_the_best_picture_in_time_stays_as_asked_where_hours_do_and_takes_what_passes_where_not():
    calm = plan_of(two_shots(GOOD), "picture").settings()
    assert {one.samples for one in calm.values()} == {256}
    hours = float(np.median(plan_of(two_shots(GOOD)).plan.hours))
    short = two_shots(GOOD)
    end = short.start.timestamp() + 3600 * 1.15 * hours
    short = short.replace(
        delivery=short.delivery.replace(deadline=type(short.start).fromtimestamp(end, tz=short.start.tzinfo))
    )
    assert {name: one.samples for name, one in plan_of(short, "picture").settings().items()} == {"010": 64, "020": 128}


def test_every_lever_has_hours_without_a_picture_and_no_error():
    project = make_project(trials=(typed("010", 256), typed("010", 64), typed("010", 256, denoise="frame")))
    known = fit(fit_input(project))
    shot = project.shot("010")
    levers = levers_of(project, known, shot, None)
    assert levers.denoisers == ("none", "frame")
    assert levers.frame_steps == (1, 2)
    options = options_of(project, known, draw_film(known, project), shot, None)
    assert np.isnan(options.error).all()
    assert np.isfinite(options.hours).all()
    place = options.place(shot.asked.replace(frame_step=2))
    assert options.middle_hours[place] == pytest.approx(options.middle_hours[0] / 2, rel=0.02)
    assert options.eye is None


def test_a_frame_step_is_marked_for_the_shot_as_a_whole():
    twos = ShotSettings(samples=256, frame_step=2)
    project = two_shots(GOOD)
    shots = (project.shot("010").replace(marks=(SettingsMark(settings=twos, mark=GOOD),)), project.shot("020"))
    chosen = plan_of(project.replace(shots=shots)).settings()["010"]
    # Twos at 256 samples take more than half of every frame at 64: the cheaper of what passes is taken.
    assert (chosen.frame_step, chosen.samples) == (1, 64)
    only = project.replace(shots=shots, trials=tuple(t.replace(mark="") for t in project.trials))
    assert plan_of(only).settings()["010"] == twos


def test_a_guess_is_loose_and_named_as_one():
    guess = Trial(shot="010", frame=50, samples=256, denoise="frame", seconds=160, assumed=True)
    timed = typed("010", 256)
    known, loose = (
        make_project(shots=(make_shot("010", denoise="frame"),), trials=(timed, one))
        for one in (guess.replace(assumed=False), guess)
    )
    widths = []
    for project in (known, loose):
        found = fit(fit_input(project))
        hours = plan_of(project).plan.hours
        widths.append(np.ptp(np.log(np.quantile(hours, [0.05, 0.95]))))
        assert not found.disagreements
    assert widths[1] > 1.1 * widths[0]
    assert any("is a guess" in words for words in unknowns(loose, loose.shot("010")))
    assert not any("is a guess" in words for words in unknowns(known, known.shot("010")))


def test_a_guess_that_turns_out_wrong_contradicts_nothing_and_hardly_counts():
    guess = Trial(shot="010", frame=50, samples=64, seconds=5, assumed=True)
    times = tuple(typed("010", samples) for samples in (32, 64, 128, 256))
    without, wrong = (plan_of(make_project(shots=(make_shot("010"),), trials=trials)).plan.hours
                      for trials in (times, (*times, guess)))  # fmt: skip
    assert not fit(fit_input(make_project(shots=(make_shot("010"),), trials=(*times, guess)))).disagreements
    assert np.median(wrong) == pytest.approx(np.median(without), rel=0.05)
