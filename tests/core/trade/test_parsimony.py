"""What a plan changes for next to nothing is taken back, and shots are put into groups; the plan keeps its promises."""

import itertools

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from by_day import cases
from film import make_project, make_shot
from pemlo.core.cost.draws import draw_film
from pemlo.core.cost.fit import fit
from pemlo.core.cost.fit_input import fit_input
from pemlo.core.project.settings import ALLOWABLE, ShotSettings
from pemlo.core.trade.best_plan import PlanRequest, best_plan
from pemlo.core.trade.few_settings import with_few_settings
from pemlo.core.trade.film_options import evaluate_film_options
from pemlo.core.trade.lever_edits import allow
from pemlo.core.trade.levers import changed_levers
from pemlo.core.trade.options import Options
from pemlo.core.trade.parsimony import simplified
from pemlo.core.trade.planning import hours_available_of, plan_film
from pemlo.core.trade.settings_table import SettingsTable
from pemlo.demo import demo_project

SAMPLES, PERCENTS, DENOISERS = (256, 128, 64), (100.0, 50.0), ("none", "frame")
ALL = tuple(
    ShotSettings(samples=samples, resolution_percent=percent, denoise=denoise)
    for samples, percent, denoise in itertools.product(SAMPLES, PERCENTS, DENOISERS)
)


def changed_count(project, settings):
    """How many levers a plan changes: of every shot, and saves once for all that have them changed alike."""
    levers = [changed_levers(shot.asked, one) for shot, one in zip(project.shots, settings, strict=True)]
    saves = {one.saves for names, one in zip(levers, settings, strict=True) if "saves" in names}
    return sum(len([lever for lever in names if lever != "saves"]) for names in levers) + len(saves)


def film_of(dice, shots, ceiling=4.0):
    """Made-up options: hours and errors that go with the settings, and a little of their own."""
    options = []
    for number in range(shots):
        size = dice.lognormal(0, 1)
        base = np.array([one.samples / 256 * (one.resolution_percent / 100) ** 2 + 0.02 * (one.denoise != "none")
                         for one in ALL])  # fmt: skip
        hours = size * base * dice.uniform(0.9, 1.1, len(ALL))
        error = np.array([(256 / one.samples) ** 0.5 + (one.resolution_percent < 100) + 0.1 for one in ALL])
        draws = hours[:, None] * np.exp(0.05 * dice.standard_normal(40))
        options.append(Options(f"{number + 1:03d}", SettingsTable.of(ALL), draws, np.ones(len(ALL)), error, 0.9 * error, 1.1 * error,
                               np.ones(len(ALL), bool), ceiling, "marks"))  # fmt: skip
    project = make_project(shots=tuple(make_shot(shot_options.shot) for shot_options in options))
    return project, tuple(options)


@pytest.mark.parametrize("goal", ["picture", "hours"])
@given(st.integers(0, 10_000), st.integers(1, 12), st.floats(0.1, 1.2))
@settings(max_examples=cases(40))
def test_simpler_and_grouped_plans_stay_in_time_and_under_their_ceilings(goal, seed, shots, share):
    project, options = film_of(np.random.default_rng(seed), shots)
    available_h = share * sum(float(shot_options.middle_hours[0]) for shot_options in options)
    request = PlanRequest(goal, available_h, 0.9)
    plan = best_plan(options, request)

    def in_time(hours):
        return float(np.quantile(hours, 0.9)) <= available_h

    def said(where, chosen):
        hours = np.sum([one.hours[k] for one, k in zip(where, chosen, strict=True)], axis=0)
        return hours, max(one.error[k] / one.ceiling for one, k in zip(where, chosen, strict=True))

    simple = simplified(project, options, plan.chosen, in_time, plan.worst_ratio, goal, None)
    grouped, groups = with_few_settings(project, options, plan.chosen, goal, in_time, plan.worst_ratio)
    for where, chosen in (simple, (options, grouped)):
        hours, ratio = said(where, chosen)
        assert in_time(hours) or not in_time(plan.hours)
        assert ratio <= max(plan.worst_ratio, 1.0) * (1 + 1e-9)
    before = [one.settings[k] for one, k in zip(options, plan.chosen, strict=True)]
    after = [one.settings[k] for one, k in zip(*simple, strict=True)]
    assert changed_count(project, after) <= changed_count(project, before)
    # What is still changed matters: taken back alone, it gives half a percent of the hours, or breaks the plan.
    film = sum(float(shot_options.middle_hours[0]) for shot_options in options)
    errors = [float(one.error[k]) for one, k in zip(options, plan.chosen, strict=True)]
    for shot, planned, one, k in zip(project.shots, errors, *simple, strict=True):
        for lever in changed_levers(shot.asked, one.settings[k]):
            back = one.settings[k].model_copy(update={lever: getattr(shot.asked, lever)})
            there_now = one.place(back)
            hours = said(*simple)[0] - one.hours[k] + one.hours[there_now]
            gives = float(np.median(one.hours[there_now]) - np.median(one.hours[k]))
            limit = max(plan.worst_ratio, 1.0) if one.error[k] > one.ceiling else 1.0
            fails = one.error[there_now] / one.ceiling > limit * (1 + 1e-9)
            if goal == "picture" and one.error[k] <= one.ceiling:
                fails |= one.error[there_now] > planned + max(0.1, 0.05 * planned)
            assert gives >= 0.005 * film or fails or not in_time(hours)
    used = {one.settings[k] for one, k in zip(options, grouped, strict=True)}
    assert (len(used), groups.before) == (groups.after, len(set(before)))
    assert groups.after <= groups.before


def test_equal_shots_with_ceilings_that_allow_it_share_one_set_of_settings():
    project, options = film_of(np.random.default_rng(3), 8)
    available_h = 0.6 * sum(float(shot_options.middle_hours[0]) for shot_options in options)
    plan = best_plan(options, PlanRequest("hours", available_h, 0.9))
    _, groups = with_few_settings(
        project,
        options,
        plan.chosen,
        "hours",
        lambda hours: float(np.quantile(hours, 0.9)) <= available_h,
        plan.worst_ratio,
    )
    assert groups.after == 1
    # What it takes more, by trying every setting for all of them.
    all_of_one = [
        sum(float(shot_options.middle_hours[k]) for shot_options in options)
        for k in range(len(ALL))
        if options[0].error[k] <= options[0].ceiling
    ]
    assert groups.more_hours == pytest.approx(min(all_of_one) - float(np.median(plan.hours)), rel=0.02, abs=0.01)


@pytest.fixture(scope="module")
def demo():
    from pathlib import Path

    from pemlo.core.appraisal.shot_appearance import appearances_of
    from pemlo.core.pixels.display import Srgb
    from pemlo.demo import DEMO_FILE

    project = demo_project()
    for lever in ALLOWABLE:
        project = allow(project, [shot.name for shot in project.shots], lever, on=True)
    known = fit(fit_input(project))
    draws = draw_film(known, project)
    appearances, _ = appearances_of(project, Path(DEMO_FILE).parent, Srgb())
    return project, (known, draws), evaluate_film_options(project, (known, draws), appearances)


def test_the_demos_plan_changes_a_third_fewer_levers_and_holds(demo):
    project, known, options = demo
    exact = best_plan(options, PlanRequest("picture", hours_available_of(project), project.delivery.confidence))
    asked = [shot.asked for shot in project.shots]

    def count(planned):
        return sum(len(changed_levers(*pair)) for pair in zip(asked, planned, strict=True))

    before = count([one.settings[k] for one, k in zip(options, exact.chosen, strict=True)])
    found = plan_film(project, options, "picture", known)
    after = count(found.settings().values())
    assert found.plan.feasible
    assert found.plan.probability >= project.delivery.confidence
    assert found.plan.worst_ratio <= max(exact.worst_ratio, 1.0) * 1.001
    assert after <= 2 / 3 * before
    # Saves are one decision for the film.
    saves = {one.saves - shot.asked.saves for shot, one in zip(project.shots, found.settings().values(), strict=True)}
    assert len(saves - {0}) <= 1


def test_what_each_of_many_shots_saves_is_not_next_to_nothing():
    """By hand: of 150 shots each is 0.67 % of the film; a quarter of the samples saves three quarters of each."""
    project, options = film_of(np.random.default_rng(3), 150)
    cheaper = ALL.index(ShotSettings(samples=64))
    _, chosen = simplified(project, options, [cheaper] * 150, lambda _: True, 1.0, "hours", None)
    hours = [one.middle_hours[place] for one, place in zip(options, chosen, strict=True)]
    asked = [one.middle_hours[0] for one in options]
    assert sum(hours) < 0.3 * sum(asked)
    assert chosen.count(0) < 15  # a few small shots are left as they are
