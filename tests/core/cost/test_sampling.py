"""Samples that adaptive sampling spends, against quadrature."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from scipy import integrate, stats

from pemlo.core.cost.sampling import mean_samples, mean_samples_of_shape

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


def of_shape(m, c, shape, t, low, high):
    found = mean_samples_of_shape(
        *(np.array(float(x)) for x in (m, c)), shape, *(np.array(float(x)) for x in (np.exp(t), low, high))
    )
    return [float(value) for value in found]


def by_walking(m, c, shape, t, low, high):
    """Take samples in small steps, as a renderer does, until what was seen of the noise is below the threshold."""
    spent = []
    for log_noise, few in shape.T:
        true = np.exp(m + log_noise + np.exp(c) * few)
        n = np.geomspace(low, high, 20_000)
        enough = true * np.exp(-np.exp(c) / n) / np.sqrt(n) <= np.exp(t)
        spent.append(n[enough.argmax()] if enough.any() else high)
    return float(np.mean(spent))


@given(noise, st.floats(-2, 2.5), threshold, st.integers(1, 64), st.integers(65, 4096), st.integers(0, 99))
def test_a_shape_spends_what_walking_up_the_samples_spends(m, c, t, low, high, seed):
    random = np.random.default_rng(seed)
    shape = np.stack([np.sort(random.normal(0, 0.8, 12)), random.uniform(-0.05, 0.05, 12)])
    assert of_shape(m, c, shape, t, low, high)[0] == pytest.approx(by_walking(m, c, shape, t, low, high), rel=2e-3)


def test_without_specks_a_log_normal_shape_spends_what_the_closed_form_does():
    at = stats.norm.ppf((np.arange(4000) + 0.5) / 4000)
    shape = np.stack([0.8 * at, np.zeros(4000)])
    for t in (-4.0, -3.0, -2.0):
        assert of_shape(-2.0, -30.0, shape, t, 8, 512)[0] == pytest.approx(
            one(-2.0, np.log(0.8), t, 8, 512)[0], rel=2e-3
        )


def test_few_samples_that_miss_specks_stop_a_renderer_early():
    shape = np.zeros((2, 4))
    # Noise 1 and threshold 0.25 want 16 samples; of 4, a renderer with c = 8 sees exp(-2) of the noise and stops.
    assert of_shape(0.0, -30.0, shape, np.log(0.25), 4, 64)[0] == pytest.approx(16)
    assert of_shape(0.0, np.log(8.0), shape, np.log(0.25), 4, 64)[0] == 4
