"""Samples that adaptive sampling spends, against quadrature."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from scipy import integrate, stats

from pemlo.core.cost.sampling import mean_samples

noise = st.floats(-8, 3)
spread = st.floats(-2.5, 1.2)
threshold = st.floats(-7, 2)


def one(m, s, t, low, high):
    return [float(v) for v in mean_samples(*(np.array(float(x)) for x in (m, s, np.exp(t), low, high)))]


def by_quadrature(m, s, t, low, high):
    """Mean of the clamped log-normal by scipy.stats and scipy.integrate."""
    samples = stats.lognorm(s=2 * np.exp(s), scale=np.exp(2 * (m - t)))
    inner, _ = integrate.quad(
        lambda u: np.exp(u) * samples.pdf(np.exp(u)) * np.exp(u), np.log(low), np.log(high), limit=200
    )
    return low * samples.cdf(low) + high * samples.sf(high) + inner


@given(noise, spread, threshold, st.integers(1, 64), st.integers(65, 4096))
def test_equals_quadrature(m, s, t, low, high):
    assert one(m, s, t, low, high)[0] == pytest.approx(by_quadrature(m, s, t, low, high), rel=1e-6)


@given(noise, spread, threshold, st.integers(1, 64), st.integers(65, 4096))
def test_stays_between_least_and_most_and_slopes_are_right(m, s, t, low, high):
    value, by_noise, by_spread = one(m, s, t, low, high)
    assert low <= value <= high
    step = 1e-5
    up = (one(m + step, s, t, low, high)[0] - one(m - step, s, t, low, high)[0]) / (2 * step)
    wide = (one(m, s + step, t, low, high)[0] - one(m, s - step, t, low, high)[0]) / (2 * step)
    assert by_noise == pytest.approx(up, rel=1e-4, abs=1e-4 * high)
    assert by_spread == pytest.approx(wide, rel=1e-4, abs=1e-4 * high)


@given(noise, spread, threshold)
def test_a_lower_threshold_never_spends_less(m, s, t):
    assert one(m, s, t - 0.3, 8, 512)[0] >= one(m, s, t, 8, 512)[0] - 1e-9


@pytest.mark.parametrize("m", [-700.0, -50.0, 50.0, 700.0])
def test_extremes_are_finite(m):
    value, by_noise, by_spread = one(m, 1.0, 0.0, 4, 256)
    assert value == pytest.approx(4 if m < 0 else 256)
    assert by_noise == pytest.approx(0, abs=1e-6)
    assert by_spread == pytest.approx(0, abs=1e-6)


def test_equals_a_simulated_frame():
    random = np.random.default_rng(3)
    places = np.exp(-3.0 + 0.8 * random.standard_normal(400_000))
    spent = np.clip((places / 0.01) ** 2, 8, 256).mean()
    assert one(-3.0, np.log(0.8), np.log(0.01), 8, 256)[0] == pytest.approx(spent, rel=0.005)
