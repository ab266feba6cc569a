"""Cost along a shot: the process, its places and knots."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from scipy.special import gamma, kv

from pemlo.core.cost.along import knots, matern32, places


@given(st.floats(0.001, 1), st.floats(0.05, 2), st.floats(0.05, 1))
def test_is_the_matern_covariance_of_order_three_halves(distance, length, sd):
    # Rasmussen and Williams 2006, eq. 4.14 with nu = 3/2, through scipy's Bessel function.
    scaled = np.sqrt(3) * distance / length
    general = sd**2 * 2 ** (1 - 1.5) / gamma(1.5) * scaled**1.5 * kv(1.5, scaled)
    assert matern32(np.array([0.0]), np.array([distance]), sd, length)[0, 0] == pytest.approx(general, rel=1e-9)


@given(st.lists(st.floats(0, 1), min_size=1, max_size=30, unique=True))
def test_is_a_covariance(at):
    matrix = matern32(np.array(at), np.array(at), 0.2, 0.35)
    assert np.allclose(matrix, matrix.T)
    assert np.linalg.eigvalsh(matrix).min() > -1e-9


@given(st.integers(1, 100_000))
def test_knots_stand_for_all_frames(count):
    at, share = knots(count)
    assert share.sum() == pytest.approx(1)
    assert (np.diff(at) > 0).all()
    assert 0 <= at[0] <= at[-1] <= 1


def test_knots_give_the_variance_of_the_sum_that_all_frames_give():
    every = np.linspace(0, 1, 600)
    exact = matern32(every, every, 0.2, 0.35).mean()
    at, share = knots(600)
    assert share @ matern32(at, at, 0.2, 0.35) @ share == pytest.approx(exact, rel=0.01)


def test_places_run_from_first_to_last():
    assert places(np.array([5.0, 10.0, 15.0]), 5, 15).tolist() == [0, 0.5, 1]
    assert places(np.array([5.0]), 5, 5).tolist() == [0.5]
