"""What a plan weighs are some of what a shot could be: all that it may choose, with the same numbers, in the same order."""

import numpy as np
import pytest

from film import exact_trial, make_project, make_shot, well_timed
from pemlo.core.film.choices import OPTIONS, PLAN_OPTIONS
from pemlo.core.film.film import Film
from pemlo.core.project.edits import set_shot
from pemlo.core.trade.best_plan import GOALS, Plan
from pemlo.core.trade.lever_edits import allow, pin
from pemlo.core.trade.planning import plan_film
from pemlo.demo import DEMO_FILE, demo_project
from pemlo.words.ways_out import ways_out


def both(film, shot):
    given = film.held_inputs[shot]
    return film.get(OPTIONS, given), film.get(PLAN_OPTIONS, given)


def films():
    demo = demo_project()
    names = [shot.name for shot in demo.shots]
    allowed = allow(demo, ["070"], "resolution_percent", on=True)
    pinned = pin(demo, demo.shot("040"), demo.shot("040").settings, ("samples", "denoise"))
    return {
        "demo": demo,
        "smaller allowed": allowed,
        "pinned": pinned,
        "steps": allow(demo, names[:3], "frame_step", on=True),
    }


@pytest.mark.parametrize("name", ["demo", "smaller allowed", "pinned", "steps"])
def test_all_that_a_plan_may_choose_is_there_with_the_same_numbers(name):
    film = Film(films()[name], DEMO_FILE.parent)
    for shot in ("010", "040", "070"):
        every, some = both(film, shot)
        rows = list(some.settings)
        at = np.array([every.place(settings) for settings in rows])
        assert (np.diff(at) > 0).all(), "in the same order: ties are broken by it"
        assert len(some.settings) <= len(every.settings)
        assert set(np.flatnonzero(every.usable)) <= set(at)
        for field in ("error", "low", "high", "spent", "usable", "plannable", "middle_hours"):
            assert np.array_equal(getattr(every, field)[at], getattr(some, field), equal_nan=True), field
        assert (every.ceiling, every.ceiling_from, every.flicker_limit) == pytest.approx(
            (some.ceiling, some.ceiling_from, some.flicker_limit), nan_ok=True
        )


def test_a_film_without_marks_or_pictures_weighs_a_tenth_of_it():
    film = Film(make_project((make_shot("010"),), well_timed("010")))
    every, some = both(film, "010")
    assert len(some.settings) < len(every.settings) / 5


@pytest.mark.parametrize("goal", GOALS)
def test_plans_are_those_of_all_options(goal):
    film = Film(demo_project(), DEMO_FILE.parent)
    project = film.project
    every = tuple(film.get(OPTIONS, film.held_inputs[shot.name]) for shot in project.shots)
    of_all = plan_film(project, every, goal, film.known)
    of_some = film.plan(goal)
    assert of_some.settings() == of_all.settings()
    assert (of_some.plan.needed, of_some.plan.probability) == (of_all.plan.needed, of_all.plan.probability)


def test_ways_out_of_a_late_film_are_those_of_all_options():
    """A step that no plan may take, such as every second frame, is still named where nothing else helps."""
    late = make_project((make_shot("010"),), (exact_trial("010", 1, 256, factor=40.0),))
    film = Film(late)
    every, some = both(film, "010")
    plan = film.plan("hours")
    assert plan.plan.missing_hours > 0
    words = [
        ways_out(film.project, (options,), _planned(options, plan.plan), plan.available_h).words
        for options in (every, some)
    ]
    assert words[0] == words[1]
    assert any("every second frame" in line for line in words[0])


def _planned(options, plan):
    chosen = (options.place(options.settings[0]),)
    return Plan(
        plan.goal, False, chosen, plan.hours, plan.needed, plan.probability, plan.worst_ratio, plan.missing_hours
    )


def test_what_a_shot_is_planned_with_stays_an_option():
    film = Film(make_project((make_shot("010"),), well_timed("010")))
    shot = film.project.shots[0]
    planned = shot.settings.replace(samples=33, resolution_percent=50.0)
    film = film.with_project(set_shot(film.project, "010", plan=planned))
    assert film.get(PLAN_OPTIONS, film.held_inputs["010"]).has(planned)
