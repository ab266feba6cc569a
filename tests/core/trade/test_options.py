"""What can be chosen for a shot, and what each choice costs and gives."""

import numpy as np
import pytest

from film import make_project, make_shot, well_timed
from looks import look
from pemlo.core.cost.draws import draw_film
from pemlo.core.cost.fit import fit
from pemlo.core.cost.fit_input import fit_input
from pemlo.core.errors import InputError
from pemlo.core.forecast.verdict import forecast
from pemlo.core.project.edits import adopt, set_shot
from pemlo.core.project.keeping import stages_kept
from pemlo.core.project.settings import ShotSettings
from pemlo.core.trade.film_options import evaluate_film_options
from pemlo.core.trade.held_levers import hold
from pemlo.core.trade.levers import (
    Levers,
    changed_levers,
    combinations,
    moved,
    value_of,
    values_of,
    why_not,
)
from pemlo.core.trade.options import numbers_of, options_of, predict_error
from pemlo.core.trade.planning import hours_available_of, plan_film


@pytest.fixture(scope="module")
def film():
    """Two shots, one timed well; its fit and draws."""
    project = make_project(trials=(*well_timed("010"), *denoised_trials()), retake_share=0.1)
    known = fit(fit_input(project))
    return project, known, draw_film(known, project)


def denoised_trials():
    return tuple(
        one.replace(denoise="frame", seconds=one.seconds + 4.0, seed=7) for one in well_timed("010", frames=(50,))[:2]
    )


def test_there_are_at_least_500_combinations_and_the_first_is_as_asked():
    shot = make_shot()
    found = combinations(shot, Levers(("none", "frame")))
    assert len(found) >= 500
    assert len(set(found)) == len(found)
    assert found[0] == shot.asked


def test_larger_pictures_are_offered_where_one_was_seen():
    assert max(one.resolution_percent for one in combinations(make_shot(), Levers())) == 100
    assert max(one.resolution_percent for one in combinations(make_shot(), Levers(most_percent=150))) == 150


def test_pins_leave_levers_where_they_are():
    shot = make_shot(denoise="frame").replace(pins=("denoise", "resolution_percent"))
    rest = combinations(shot, Levers(("none", "frame")))
    assert {one.denoise for one in rest} == {"frame"}
    assert {one.resolution_percent for one in rest} == {100.0}
    assert len({one.samples for one in rest}) > 20


def test_all_that_is_pinned_leaves_one():
    shot = make_shot().replace(
        pins=("samples", "noise_threshold", "denoise", "resolution_percent", "frame_step", "keep")
    )
    assert combinations(shot, Levers(("none", "frame"), frame_steps=(1, 2))) == (shot.asked,)


def test_thresholds_are_offered_where_what_they_spend_is_known():
    shot = make_shot(noise_threshold=0.02, min_samples=8)
    with_them = {one.noise_threshold for one in combinations(shot, Levers(thresholds=True))}
    assert {None, 0.02, 0.04, 0.01} <= with_them
    assert {one.noise_threshold for one in combinations(shot, Levers())} == {0.02, None}


@pytest.mark.parametrize(
    ("moves", "stages"),
    [
        ((), ((), ("prepare",), ("prepare", "light"))),
        (("camera",), ((), ("prepare",), ("prepare", "light"))),
        (("lights",), ((), ("prepare",))),
        (("camera", "objects"), ((), ("prepare",))),
        (("simulation",), ((),)),
    ],
)
def test_what_moves_says_what_may_be_kept(moves, stages):
    assert stages_kept(make_shot().replace(moves=moves)) == stages


def test_what_may_not_go_together_is_said_in_words():
    shot = make_shot().replace(moves=("camera", "lights"))
    assert "what moves (lights)" in why_not(shot, shot.asked.replace(keep=("prepare", "light")))
    assert why_not(shot, shot.asked) == ""
    assert "a single one" in why_not(make_shot(frames=3), ShotSettings(samples=4, frame_step=3))


def test_hours_are_those_of_the_forecast(film):
    project, known, draws = film
    shot = project.shot("010")
    found = options_of(project, known, draws, shot, look())
    wanted = next(one for one in found.settings if one.samples == 64 and one.denoise == "none")
    told = forecast(adopt(project, {"010": wanted}), known, draws)
    hours = told.shots[0].hours.middle * (1 + project.delivery.retake_share)
    assert found.middle_hours[found.place(wanted)] == pytest.approx(hours, rel=0.02)


def test_errors_are_those_predicted_and_combine_levers(film):
    project, known, draws = film
    found = options_of(project, known, draws, project.shot("010"), look(0.1))

    def error(**fields):
        return found.error[found.place(project.shot("010").asked.replace(**fields))]

    assert error(samples=64) == pytest.approx(2 * error(samples=256), rel=0.05)
    assert error(samples=64, resolution_percent=50) > error(samples=64)
    assert error(samples=16, denoise="frame") == pytest.approx(5.0, rel=0.01)
    # More is never worse: along samples alone, errors fall.
    row = [
        found.error[k]
        for k, one in enumerate(found.settings)
        if one.denoise == "none" and one.resolution_percent == 100
    ]
    assert len(row) > 20


def test_a_frame_step_adds_what_it_costs_to_the_eye(film):
    project, known, draws = film
    seen = look(stepping={"hold": 3.0, "blend": 2.0})
    one = predict_error(seen, ShotSettings(samples=64), 64.0).total.middle
    two = predict_error(seen, ShotSettings(samples=64, frame_step=2), 64.0).total.middle
    assert two == pytest.approx(np.hypot(one, 3.0))
    assert predict_error(seen, ShotSettings(samples=64, frame_step=2, between="blend"), 64.0).total.middle < two
    assert predict_error(look(), ShotSettings(samples=64, frame_step=2), 64.0) is None
    found = options_of(project, known, draws, project.shot("010"), seen)
    assert {setting.frame_step for setting in found.settings} == {1, 2}


def test_a_shot_without_pictures_has_hours_and_no_errors_and_is_planned_as_asked(film):
    project, known, draws = film
    found = options_of(project, known, draws, project.shot("010"), None)
    assert found.settings[0] == project.shot("010").asked
    assert np.flatnonzero(found.plannable).tolist() == [0]
    assert not found.known
    assert np.isfinite(found.hours).all()


def test_what_lies_too_far_from_the_trials_is_not_proposed(film):
    """Shot 020 was never timed: its hours are borrowed, and some of its options are too doubtful."""
    project, known, draws = film
    found = options_of(project, known, draws, project.shot("020"), look())
    assert found.usable[0]
    ends = np.quantile(found.hours, [0.05, 0.95], axis=1)
    assert not found.usable[(ends[1] > 4 * ends[0]) & (np.arange(len(found.settings)) > 0)].any()


def test_where_the_ceiling_comes_from(film):
    project, known, draws = film
    shot = project.shot("010")

    def ceiling(film_now):
        found = options_of(film_now, known, draws, film_now.shot("010"), look())
        return found.ceiling, found.ceiling_from

    found = options_of(project, known, draws, shot, look())
    assert ceiling(project) == (found.error[0], "as asked")
    marked = project.replace(trials=(project.trials[0].replace(mark="good enough", error=3.5), *project.trials[1:]))
    assert ceiling(marked) == (3.5, "marks")
    assert ceiling(set_shot(marked, "010", ceiling=2.5)) == (2.5, "by hand")


def test_a_plan_of_a_film_is_in_time_and_adopting_it_makes_it_so(film):
    project = film[0].replace(trials=(*film[0].trials, *well_timed("020", frames=(1, 25, 50))))
    known = fit(fit_input(project))
    draws = draw_film(known, project)
    options = evaluate_film_options(project, (known, draws), {"010": look(0.4), "020": look(0.8)})
    needed = sum(shot_options.middle_hours[0] for shot_options in options)
    short = project.replace(machines=(project.machines[0].replace(speed=0.7 * needed / hours_available_of(project)),))
    assert forecast(short, known, draws).probability < 0.5
    found = plan_film(short, options, "picture")
    assert found.plan.feasible
    adopted = adopt(short, found.settings())
    assert forecast(adopted, known, draws).probability >= 0.85
    # As asked again, there is no plan of its own.
    assert adopt(adopted, {shot.name: shot.asked for shot in short.shots}) == short


def test_pins_hold_in_the_plan(film):
    project, known, draws = film
    looks = {"010": look(0.4), "020": look(0.8)}
    held = hold(hold(project, "010.samples=200"), "020.denoise=none")
    assert held.shot("010").pins == ("samples",)
    options = evaluate_film_options(held, (known, draws), looks)
    for goal in ("picture", "hours", "missing"):
        settings = plan_film(held, options, goal).settings()
        assert settings["010"].samples == 200
        assert settings["020"].denoise == "none"


@pytest.mark.parametrize(
    ("words", "said"),
    [
        ("010", "is not a lever"),
        ("010.colour=3", "there is no lever colour"),
        ("099.samples=3", "there is no shot 099"),
        ("010.samples=many", "samples"),
        ("010.samples=0", "samples"),
        ("010.keep=dust", "keep"),
    ],
)
def test_a_lever_that_cannot_be_held_says_why(film, words, said):
    with pytest.raises(InputError) as error:
        hold(film[0], words)
    assert said in str(error.value)


def test_values_of_levers_are_written_as_people_say_them(film):
    project = film[0]
    assert hold(project, "010.noise_threshold=none").shot("010").plan.noise_threshold is None
    assert hold(project, "010.keep=prepare+light").shot("010").plan.keep == ("prepare", "light")
    assert hold(project, "010.keep=none").shot("010").plan.keep == ()


def test_which_levers_a_plan_moves():
    asked = ShotSettings(samples=64)
    assert changed_levers(asked, asked) == ()
    assert changed_levers(asked, asked.replace(denoise="frame", samples=8)) == ("samples", "denoise")


def test_levers_stand_among_their_values_and_move_to_others():
    levers = Levers(("none", "frame"), thresholds=True, frame_steps=(1, 2), keeps=((), ("prepare",)))
    shot = make_shot(noise_threshold=0.02, min_samples=16).replace(plan=make_shot(samples=77).asked)
    for lever, values in values_of(shot, levers).items():
        assert value_of(shot.settings, lever) in values
        assert len(set(values)) == len(values)
        for value in values:
            after = moved(shot.settings, shot.asked, lever, value)
            assert value_of(after, lever) == value
            assert set(changed_levers(shot.settings, after)) <= {lever}
    assert moved(shot.settings, shot.asked, "noise_threshold", 0.05).min_samples == 16
    assert moved(shot.asked, shot.asked, "noise_threshold", None).min_samples is None
    assert moved(shot.asked, shot.asked, "samples", 8).min_samples == 8


def test_numbers_of_the_present_settings_are_those_of_their_option(film):
    project, known, draws = film
    shot = project.shot("010")
    options = options_of(project, known, draws, shot, look(0.1))
    k = 7
    planned = adopt(project, {"010": options.settings[k]})
    found = numbers_of(planned, known, draws, planned.shot("010"), look(0.1))
    assert found.middle_hours == pytest.approx(options.middle_hours[k])
    assert found.found.total.middle == pytest.approx(options.error[k])
    assert numbers_of(planned, known, draws, planned.shot("010"), None).found is None


def test_nothing_timed_is_no_plan():
    project = make_project()
    known = fit(fit_input(project))
    with pytest.raises(InputError, match="Nothing was timed"):
        evaluate_film_options(project, (known, draw_film(known, project)), {})
