"""The exact plan against trying everything."""

import itertools

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from by_day import cases
from pemlo.core.project.settings import ShotSettings
from pemlo.core.trade.best_plan import PlanRequest, best_plan
from pemlo.core.trade.film_frontier import film_frontier
from pemlo.core.trade.frontier import frontier
from pemlo.core.trade.options import Options
from pemlo.core.trade.settings_table import SettingsTable

MIDDLE = 1.0


def options_of(hours, error, ceiling=2.0, name="010", usable=None, made=None):
    """Options of a shot; `hours` (K,) or (K, N)."""
    hours = np.array(hours, float)
    hours = hours[:, None] if hours.ndim == 1 else hours
    error = np.array(error, float)
    made = made or tuple(ShotSettings(samples=k + 1) for k in range(len(error)))
    usable = np.ones(len(error), bool) if usable is None else np.array(usable)
    return Options(
        name,
        SettingsTable.of(made),
        hours,
        np.ones(len(error)),
        error,
        0.9 * error,
        1.1 * error,
        usable,
        ceiling,
        "marks",
    )


def wish(goal="picture", available_h=10.0, confidence=0.9, **more):
    return PlanRequest(goal, available_h, confidence, **more)


# Hours there are lie between the sums that hours of two decimals can come to: no case hangs on rounding.
budgets = st.integers(100, 6000).map(lambda n: n / 100 + 0.005)
amounts = st.floats(0.5, 20).map(lambda x: round(x, 2))
shots = st.lists(st.tuples(amounts, amounts), min_size=1, max_size=5)
films = st.lists(st.tuples(shots, st.floats(0.5, 8).map(lambda x: round(x, 2))), min_size=1, max_size=4)


def made(film):
    return [
        options_of([h for h, _ in shot], [e for _, e in shot], ceiling, str(number))
        for number, (shot, ceiling) in enumerate(film)
    ]


def every(options):
    """Every plan: worst ratio, squares, hours."""
    for chosen in itertools.product(*(range(len(shot_options.error)) for shot_options in options)):
        pairs = list(zip(options, chosen, strict=True))
        yield (
            max(one.error[k] / one.ceiling for one, k in pairs),
            sum(one.error[k] ** 2 for one, k in pairs),
            sum(one.hours[k, 0] for one, k in pairs),
        )


def reached(options, plan):
    pairs = list(zip(options, plan.chosen, strict=True))
    return (
        max(one.error[k] / one.ceiling for one, k in pairs),
        sum(one.error[k] ** 2 for one, k in pairs),
        sum(one.hours[k, 0] for one, k in pairs),
    )


@settings(max_examples=cases(700), deadline=None)
@given(films, budgets)
def test_the_best_picture_in_time_is_that_of_trying_everything(film, available_h):
    options = made(film)
    plan = best_plan(options, wish("picture", available_h))
    in_time = [one for one in every(options) if one[2] <= available_h]
    assert plan.feasible == bool(in_time)
    if in_time:
        # The least worst ratio, and with it the least squares.
        ratio = min(one[0] for one in in_time)
        squares = min(one[1] for one in in_time if one[0] <= ratio + 1e-9)
        assert reached(options, plan)[:2] == pytest.approx((ratio, squares), rel=1e-9)
        assert reached(options, plan)[2] <= available_h
    else:
        assert plan.missing_hours == pytest.approx(min(one[2] for one in every(options)) - available_h)


@settings(max_examples=cases(400), deadline=None)
@given(films)
def test_the_cheapest_plan_that_passes_is_that_of_trying_everything(film):
    options = made(film)
    plan = best_plan(options, wish("hours", 1.0))
    passing = [one for one in every(options) if one[0] <= 1 + 1e-9]
    assert plan.feasible == bool(passing)
    if passing:
        assert reached(options, plan)[2] == pytest.approx(min(one[2] for one in passing))
    else:
        # Each shot that can be brought under its ceiling is; the others come as near as they can.
        for one, k in zip(options, plan.chosen, strict=True):
            assert one.error[k] <= max(one.ceiling, one.error.min()) + 1e-9


@settings(max_examples=cases(300), deadline=None)
@given(films, budgets)
def test_what_is_missing_is_what_the_cheapest_passing_plan_lacks(film, available_h):
    options = made(film)
    plan = best_plan(options, wish("missing", available_h))
    passing = [one[2] for one in every(options) if one[0] <= 1 + 1e-9]
    in_time = [one[0] for one in every(options) if one[2] <= available_h]
    if not plan.feasible and in_time:
        # Instead of more hours all ceilings may be stretched.
        assert plan.stretch == pytest.approx(min(in_time))
    if passing:
        assert plan.missing_hours == pytest.approx(max(min(passing) - available_h, 0.0))
        assert plan.feasible == (min(passing) <= available_h)
    else:
        assert not plan.feasible


@settings(max_examples=cases(100), deadline=None)
@given(films, budgets)
def test_a_plan_is_never_worse_than_where_it_starts_and_is_found_again(film, available_h):
    options = made(film)
    plan = best_plan(options, wish("picture", available_h))
    start = reached(options, type("P", (), {"chosen": (0,) * len(options)}))
    if start[2] <= available_h:
        assert reached(options, plan)[:2] <= (start[0] + 1e-9, np.inf)
    assert best_plan(options, wish("picture", available_h)).chosen == plan.chosen


def test_odds_hold_with_errors_that_go_together():
    """Twenty shots that are all dear in the same draws: the film's hours vary as each shot's do."""
    dice = np.random.default_rng(1)
    common = np.exp(0.2 * dice.standard_normal(400))
    film = [
        options_of(np.outer(8.0 / 1.2 ** np.arange(12), common), 0.5 * 1.1 ** np.arange(12), 2.0, str(number))
        for number in range(20)
    ]
    plan = best_plan(film, wish("picture", 60.0, 0.9))
    assert plan.feasible
    assert plan.probability >= 0.9
    assert plan.needed <= 60.0
    # Within what one step of the cheapest shot costs, nothing is left lying.
    assert plan.needed > 57.0
    more = best_plan(film, wish("picture", 60.0, 0.5))
    assert more.worst_ratio < plan.worst_ratio
    assert more.probability >= 0.5


def test_weights_move_hours_to_what_counts():
    film = [options_of([4, 2, 1], [1, 2, 4], 8.0, name) for name in ("a", "b")]
    assert best_plan(film, wish(available_h=6.1, weights=(10.0, 1.0))).chosen == (0, 1)
    assert best_plan(film, wish(available_h=6.1, weights=(1.0, 10.0))).chosen == (1, 0)


def test_options_that_may_not_be_proposed_are_not():
    film = [options_of([4, 2, 1], [1, 2, 4], 8.0, usable=[True, False, True])]
    assert best_plan(film, wish(available_h=3.0)).chosen == (2,)


def test_a_shot_of_which_no_error_is_known_stays_as_asked():
    film = [options_of([4, 2], [np.nan, np.nan], np.nan), options_of([4, 2], [1, 3], 2.0)]
    plan = best_plan(film, wish(available_h=6.5))
    assert plan.chosen == (0, 1)
    assert plan.worst_ratio == pytest.approx(1.5)
    assert not best_plan(film, wish(available_h=5.5)).feasible


def test_a_shot_held_where_nothing_is_known_of_it_does_not_count():
    held = options_of([9.0, 4.0], [1.0, np.nan], usable=[False, True])
    other = options_of([6.0, 2.0], [1.0, 5.0], ceiling=4.0)
    for goal in ("picture", "hours", "missing"):
        found = best_plan([held, other], wish(goal, available_h=20.0))
        assert found.chosen[0] == 1
        assert found.worst_ratio == other.error[found.chosen[1]] / 4.0
    assert [point.chosen[0] for point in film_frontier([held, other])] == [1, 1]
    assert film_frontier([held]) == ()
    no_ceiling = options_of([9.0, 4.0], [np.nan, 2.0], ceiling=np.nan)
    assert best_plan([no_ceiling, other], wish("picture", available_h=20.0)).chosen == (0, 0)


def test_levers_that_must_be_alike_are():
    soft = [ShotSettings(samples=n, denoise=d) for n, d in ((8, "none"), (4, "none"), (4, "frame"), (2, "frame"))]
    film = [
        options_of([8, 4, 5, 3], [1, 4, 2, 3], 4.0, "a", made=tuple(soft)),
        options_of([8, 4, 5, 3], [1, 2, 4, 5], 4.0, "b", made=tuple(soft)),
    ]
    free = best_plan(film, wish(available_h=9.0))
    assert free.chosen == (2, 1)
    alike = best_plan(film, wish(available_h=9.0, alike=("denoise",)))
    names = {film[s].settings[k].denoise for s, k in enumerate(alike.chosen)}
    assert len(names) == 1
    # Without denoising two shots take 8 hours at 4 and 2 codes, with it 8 at 3 and 4: the worst ratio is 1 in both.
    assert alike.chosen == (1, 1)


def test_a_film_of_no_shots_needs_nothing():
    plan = best_plan([], wish())
    assert plan.chosen == ()
    assert plan.needed == 0.0


@given(st.lists(st.tuples(amounts, amounts), min_size=1, max_size=40))
def test_the_frontier_is_what_nothing_beats(points):
    hours, error = (np.array(axis) for axis in zip(*points, strict=True))
    kept = set(frontier(hours, error).tolist())
    for k in range(len(points)):
        better = (hours <= hours[k]) & (error <= error[k]) & ((hours < hours[k]) | (error < error[k]))
        twin = np.flatnonzero((hours == hours[k]) & (error == error[k]))[0]
        assert (k in kept) == (not better.any() and k == twin)


uncertain = st.lists(st.tuples(amounts, amounts, st.floats(0.02, 0.6)), min_size=1, max_size=5)


@settings(max_examples=cases(80), deadline=None)
@given(st.lists(uncertain, min_size=1, max_size=4), st.integers(0, 1000), budgets)
def test_no_change_of_one_shot_betters_a_plan_at_its_odds(film, seed, available_h):
    random = np.random.default_rng(seed)
    options = [
        options_of(
            [h * np.exp(sd * random.standard_normal(100)) for h, _, sd in shot], [e for _, e, _ in shot], 3.0, str(n)
        )
        for n, shot in enumerate(film)
    ]
    plan = best_plan(options, wish(available_h=available_h))
    if not plan.feasible:
        return
    for number, one in enumerate(options):
        for k, error in enumerate(one.error):
            hours = plan.hours - one.hours[plan.chosen[number]] + one.hours[k]
            cleaner = error < one.error[plan.chosen[number]] - 1e-9
            beaten = (one.error <= error) & (one.middle_hours <= one.middle_hours[k])
            beaten[k] = False
            assert not (cleaner and not beaten.any() and np.quantile(hours, 0.9) <= available_h)


@settings(max_examples=cases(150), deadline=None)
@given(films)
def test_the_frontier_of_the_film_is_what_no_plan_beats(film):
    options = made(film)
    found = film_frontier(options, most=1000)
    every_plan = [(ratio, hours) for ratio, _, hours in every(options)]
    for point in found:
        ratio = max(one.error[k] / one.ceiling for one, k in zip(options, point.chosen, strict=True))
        assert point.ratio == pytest.approx(ratio)
        assert point.hours == pytest.approx(sum(one.hours[k, 0] for one, k in zip(options, point.chosen, strict=True)))
        assert min(hours for worst, hours in every_plan if worst <= point.ratio + 1e-9) == pytest.approx(point.hours)
    assert found[0].ratio == pytest.approx(min(worst for worst, _ in every_plan))
    assert found[-1].hours == pytest.approx(min(hours for _, hours in every_plan))
    assert all(a.ratio < b.ratio and a.hours > b.hours for a, b in itertools.pairwise(found))


def test_a_long_frontier_keeps_its_ends_and_one_of_nothing_known_is_empty():
    one = options_of(np.geomspace(100, 1, 300), np.geomspace(0.5, 20, 300))
    found = film_frontier([one], most=20)
    assert len(found) == 20
    assert (found[0].hours, found[-1].hours) == (100.0, 1.0)
    unknown = options_of([5.0], [np.nan])
    assert film_frontier([unknown]) == ()
    assert film_frontier([one, unknown], most=20)[-1].hours == 6.0
