"""One option a shot within a budget: against SciPy's mixed-integer solver (HiGHS) on the plain problem."""

import json
import subprocess
import sys

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy.optimize import Bounds, LinearConstraint, milp

from by_day import cases
from pemlo.core.trade import least_squares
from pemlo.core.trade.least_squares import least_sum

SAMPLES = np.array([16, 24, 32, 48, 64, 96, 128, 192, 256, 384, 512, 768, 1024], float)[::-1]


def film(shots, seed=1):
    """Shots whose hours rise with samples, and whose errors fall with their root."""
    dice = np.random.default_rng(seed)
    costs, hours = [], []
    for _ in range(shots):
        n = np.sort(dice.choice(SAMPLES, 8, replace=False))[::-1]
        hours.append(dice.uniform(0.1, 0.6) + dice.uniform(0.002, 0.03) * n)
        costs.append((dice.uniform(5, 30) / np.sqrt(n)) ** 2)
    return costs, hours, [np.arange(8)] * shots


def budget_of(hours, share):
    low, high = sum(h.min() for h in hours), sum(h.max() for h in hours)
    return low + share * (high - low)


def of(rows, chosen):
    return sum(row[k] for row, k in zip(rows, chosen, strict=True))


def by_solver(costs, hours, budget):
    """The least sum as SciPy finds it on the whole problem, with nothing left out before."""
    count = [len(c) for c in costs]
    owner = np.repeat(np.arange(len(costs)), count)
    one_each = (owner[None] == np.arange(len(costs))[:, None]).astype(float)
    found = milp(
        np.concatenate(costs),
        integrality=np.ones(sum(count), int),
        bounds=Bounds(0, 1),
        constraints=[LinearConstraint(one_each, 1, 1), LinearConstraint(np.concatenate(hours)[None], -np.inf, budget)],
        options={"mip_rel_gap": 0.0},
    )
    return found.fun


amounts = st.floats(0.5, 20).map(lambda x: round(x, 2))
small = st.lists(st.lists(st.tuples(amounts, amounts), min_size=1, max_size=4), min_size=1, max_size=4)


@settings(max_examples=cases(150), deadline=None)
@given(small, st.floats(0.05, 1.0))
def test_a_small_film_gets_what_trying_everything_finds(rows, share):
    costs, hours = ([np.array([pair[k] for pair in shot]) for shot in rows] for k in (0, 1))
    budget = budget_of(hours, share) + 1e-6
    found = least_sum(costs, hours, [np.arange(len(c)) for c in costs], budget)
    assert found is not None
    assert found.gap == 0
    assert of(hours, found.chosen) <= budget
    assert of(costs, found.chosen) == pytest.approx(by_solver(costs, hours, budget), rel=1e-6)


@pytest.mark.parametrize("share", [0.05, 0.3, 0.7])
@pytest.mark.parametrize("shots", [6, 40])
def test_the_gap_that_is_said_holds_where_nothing_is_searched_further(monkeypatch, shots, share):
    monkeypatch.setattr(least_squares, "MOST_EXACT", 0)
    costs, hours, among = film(shots)
    budget = budget_of(hours, share)
    found = least_sum(costs, hours, among, budget)
    least = by_solver(costs, hours, budget)
    assert least * (1 - 1e-9) <= of(costs, found.chosen) <= least / (1 - found.gap) * (1 + 1e-9)
    assert 0 <= found.gap < 0.1
    assert of(hours, found.chosen) <= budget


@pytest.mark.parametrize("share", [0.1, 0.3, 0.6])
def test_a_thousand_shots_are_within_a_ten_thousandth_of_the_best(share):
    costs, hours, among = film(1000)
    budget = budget_of(hours, share)
    found = least_sum(costs, hours, among, budget)
    assert found.gap < 1e-4
    assert of(hours, found.chosen) <= budget
    # No shot alone can spend what is left on a lower cost.
    left = budget - of(hours, found.chosen)
    for c, h, k in zip(costs, hours, found.chosen, strict=True):
        assert not ((h - h[k] <= left) & (c < c[k])).any()


def test_a_budget_that_nothing_keeps_has_no_choice():
    costs, hours, among = film(3)
    assert least_sum(costs, hours, among, 0.9 * sum(h.min() for h in hours)) is None


def test_what_a_library_prints_does_not_stand_in_the_answer():
    code = (
        "import ctypes, json\n"
        "from pemlo.core.output import kept_from_standard_output\n"
        "with kept_from_standard_output():\n"
        "    ctypes.CDLL(None).printf(b'tmpSolver\\n')\n"
        "print(json.dumps({'proved': True}))\n"
    )
    said = subprocess.run([sys.executable, "-c", code], capture_output=True, text=True, check=True)
    assert json.loads(said.stdout) == {"proved": True}
    assert "tmpSolver" in said.stderr
