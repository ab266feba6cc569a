"""The fall from as asked to the plan, and the price of each lever."""

import numpy as np
import pytest

from film import make_project, well_timed
from looks import look
from pemlo.core.cost.draws import draw_film
from pemlo.core.cost.fit import fit
from pemlo.core.cost.fit_input import fit_input
from pemlo.core.forecast.verdict import forecast
from pemlo.core.project.edits import adopt
from pemlo.core.trade.film_options import evaluate_film_options
from pemlo.core.trade.options import options_of
from pemlo.core.trade.planning import hours_available_of, plan_film
from pemlo.core.trade.prices import most_for_an_hour, steps_from
from pemlo.core.trade.waterfall import ShotWaterfall, film_waterfall, shot_waterfall
from pemlo.words.plans import changes, what_binds


@pytest.fixture(scope="module")
def film():
    project = make_project(trials=(*well_timed("010"), *well_timed("020", frames=(1, 25, 50))), retake_share=0.1)
    known = fit(fit_input(project))
    return project, known, draw_film(known, project)


def fall(project, known, draws):
    return film_waterfall([shot_waterfall(project, known, draws, shot) for shot in project.shots])


def test_the_steps_of_the_fall_add_up_to_it(film):
    project, known, draws = film
    asked = project.shot("010").asked
    planned = adopt(project, {"010": asked.replace(samples=64, resolution_percent=80, frame_step=2)})
    found = fall(planned, known, draws)
    assert [step.lever for step in found.steps] == ["samples", "resolution_percent", "frame_step"]
    total = sum(step.saved for step in found.steps)
    assert found.asked.middle - found.plan.middle == pytest.approx(total, abs=1e-9)
    assert all(set(step.by_shot) == {"010"} for step in found.steps)


def test_they_add_up_where_shots_spread_apart(film):
    """A middle of a sum is no sum of middles: 128 − 36 − 1.3 + 0.33 was said to be 89.1."""
    project, known, draws = film
    changed = {name: project.shot(name).asked.replace(samples=32, resolution_percent=50) for name in ("010", "020")}
    found = fall(adopt(project, changed), known, draws)
    assert [sorted(step.by_shot) for step in found.steps] == [["010", "020"]] * 2
    for step in found.steps:
        assert sum(step.by_shot.values()) == pytest.approx(step.saved, abs=1e-9)
    skewed = tuple(
        ShotWaterfall(name, ("samples",), np.stack([np.array(one), np.zeros(3)]))
        for name, one in (("010", [1.0, 2.0, 30.0]), ("020", [30.0, 2.0, 1.0]))
    )
    (step,) = film_waterfall(skewed).steps
    assert step.saved == 31.0  # each alone saves 2 in the middle
    assert step.by_shot == {"010": 15.5, "020": 15.5}


def test_the_ends_of_the_fall_are_what_the_forecast_says(film):
    project, known, draws = film
    planned = adopt(project, {"020": project.shot("020").asked.replace(samples=64)})
    found = fall(planned, known, draws)
    for film_now, points in ((project, found.asked), (planned, found.plan)):
        told = forecast(film_now, known, draws).hours
        assert tuple(points) == pytest.approx(tuple(told), rel=0.06)


def test_a_lever_that_costs_is_a_step_up(film):
    project, known, draws = film
    planned = adopt(project, {"010": project.shot("010").asked.replace(samples=512)})
    assert fall(planned, known, draws).steps[0].saved < 0
    assert fall(project, known, draws).steps == ()


def test_a_step_is_to_the_next_value_and_back(film):
    project, known, draws = film
    options = options_of(project, known, draws, project.shot("010"), look(0.1))
    down = next(step for step in steps_from(options, 0) if (step.lever, step.way) == ("samples", "down"))
    assert down.settings.samples == round(256 / 2**0.25)
    assert down.hours < 0 < down.error
    back = next(
        step
        for step in steps_from(options, options.place(down.settings))
        if (step.lever, step.way) == ("samples", "up")
    )
    assert back.settings == options.settings[0]
    assert (back.hours, back.error) == pytest.approx((-down.hours, -down.error))


def test_where_hours_that_are_left_buy_most(film):
    project, known, draws = film
    options = evaluate_film_options(project, (known, draws), {"010": look(0.1), "020": look(0.3)})
    half = [shot_options.place(shot_options.settings[0].replace(samples=128)) for shot_options in options]
    steps = [step for one, place in zip(options, half, strict=True) for step in steps_from(one, place)]
    found = most_for_an_hour(steps, 5)
    assert all(step.error < 0 for step in found)
    worth = [step.worth for step in found]
    assert worth == sorted(worth, reverse=True)
    expensive = next(step for step in found if step.hours > 0)
    assert expensive.worth == pytest.approx(-expensive.error / expensive.hours)


def test_steps_are_there_from_settings_with_other_saves_than_pay(film):
    project, known, draws = film
    broken = project.replace(machines=(project.machines[0].replace(loss_percent=40),))
    options = options_of(broken, known, draws, broken.shot("010"), look())
    assert options.settings[-1].saves > 0
    found = {(step.lever, step.way): step for step in steps_from(options, 0)}
    assert found["samples", "down"].settings.saves == 0
    assert found["samples", "down"].hours < 0
    assert found["saves", "up"].hours < 0
    assert found["saves", "up"].error == 0


def test_a_plan_explains_itself(film):
    project, known, draws = film
    options = evaluate_film_options(project, (known, draws), {"010": look(0.1)})
    speed = 0.7 * sum(shot_options.middle_hours[0] for shot_options in options) / hours_available_of(project)
    short = project.replace(machines=(project.machines[0].replace(speed=speed),))
    found = plan_film(short, options, "picture")
    before = [shot.asked for shot in short.shots]
    first, second = changes(found.options, found.plan, before)
    assert first.words.startswith("010: ")
    assert "machine-hours; the error goes from" in first.words
    assert second.words == "020 stays as asked."
    saved = options[0].middle_hours[0] - options[0].middle_hours[found.plan.chosen[0]]
    assert first.saved_hours == pytest.approx(saved)
    assert "shot 0" in what_binds(found.options, found.plan, found.available_h).lower()
    wide = project.replace(machines=(project.machines[0].replace(speed=50 * speed),))
    roomy = plan_film(wide, options, "picture")
    assert what_binds(options, roomy.plan, roomy.available_h).startswith("Nothing holds it")
    assert what_binds(options, plan_film(wide, options, "hours").plan, 1e9).startswith("The error limits hold it")
    assert "To be as sure as asked it needs" in what_binds(
        options, plan_film(short, options, "missing").plan, found.available_h
    )


def test_what_the_eye_loses_is_not_known_of_a_shot_without_pictures(film):
    project, known, draws = film
    planned = adopt(project, {"010": project.shot("010").asked.replace(samples=64)})
    options = [options_of(planned, known, draws, planned.shot("010"), None)]
    chosen = type("P", (), {"chosen": (1,)})
    (change,) = changes(options, chosen, [project.shot("010").asked])
    assert change.words.endswith("what it costs to the eye was not measured.")
    assert np.isnan(change.error_after)
