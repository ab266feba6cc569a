"""The formula of a frame's cost, its derivatives, and what the trade says of such costs."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from pemlo.core.cost.frame_model import frame_seconds, frames_of, log_seconds, rendered_pixels, stage_seconds
from pemlo.core.cost.priors import LIGHT, PIXEL_POWER, PREPARE, SAMPLE, prior_table
from pemlo.core.plan.settings import FrameSettings

HD = (1920, 1080)
TABLE = prior_table(2, noise_centre=-3.0)

settings = st.builds(
    lambda most, least, threshold, percent, denoise: FrameSettings(
        samples=most,
        min_samples=min(least, most) if threshold else None,
        noise_threshold=threshold,
        resolution_percent=percent,
        denoise=denoise,
    ),
    st.integers(1, 2048),
    st.integers(1, 64),
    st.one_of(st.none(), st.floats(1e-3, 1.0)),
    st.floats(10, 200),
    st.sampled_from(["none", "first", "second"]),
)


def frames(*found):
    return frames_of(list(found), [HD] * len(found), ("first", "second"))


@given(settings, st.integers(0, 10_000))
def test_derivatives_equal_differences(one, seed):
    theta = TABLE.mean + np.random.default_rng(seed).normal(0, 0.5, TABLE.size)
    stages = (np.random.default_rng(seed + 1).random((1, 5)) < 0.6).astype(float)
    stages[0, 2] = 1.0
    _, jacobian = log_seconds(theta[None], frames(one), stages)
    step = 1e-5
    for number in range(TABLE.size):
        up, down = theta.copy(), theta.copy()
        up[number] += step
        down[number] -= step
        slope = (log_seconds(up[None], frames(one), stages)[0] - log_seconds(down[None], frames(one), stages)[0]) / (
            2 * step
        )
        assert jacobian[0, number] == pytest.approx(slope[0], abs=2e-4)


@given(settings)
def test_stages_add_up_and_are_not_negative(one):
    stages = stage_seconds(TABLE.mean[None], frames(one))
    assert (stages >= 0).all()
    assert frame_seconds(TABLE.mean[None], frames(one)) == pytest.approx(stages.sum(axis=-1))


def test_half_the_size_is_a_quarter_of_the_pixels():
    # Common practice, no source: 50 % resolution, a quarter of the pixels.
    assert rendered_pixels(HD, 50) * 4 == rendered_pixels(HD, 100)
    assert rendered_pixels(HD, 0.01) == 1


def test_samples_doubled_take_about_twice_the_time():
    # Common practice, no source; the fixed part makes it a little less than twice.
    theta = TABLE.mean.copy()
    theta[PREPARE] -= 3
    few, many = frame_seconds(theta[None], frames(FrameSettings(samples=256), FrameSettings(samples=512)))
    assert 1.85 < many / few < 2.0


def test_four_times_the_pixels_in_two_renderers():
    # Common practice, no source: 960x540 against 1920x1080, 1 s to 3 s in one renderer and 7 s to 32 s in another.
    # Between them lies the fixed part in the one, and a power a little above 1 in the other.
    theta = TABLE.mean.copy()
    ratios = []
    for prepare, power in ((np.log(np.exp(theta[SAMPLE]) * 35), 0.0), (theta[PREPARE] - 6, 0.09)):
        theta[PREPARE], theta[PIXEL_POWER] = prepare, power
        theta[LIGHT] = theta[PREPARE] - 3
        small, large = frame_seconds(
            theta[None], frames(FrameSettings(samples=128, resolution_percent=50), FrameSettings(samples=128))
        )
        ratios.append(large / small)
    assert ratios[0] == pytest.approx(3, rel=0.1)
    assert ratios[1] == pytest.approx(32 / 7, rel=0.05)


def test_adaptive_sampling_costs_between_its_least_and_most():
    low, between, high = frame_seconds(
        TABLE.mean[None],
        frames(
            FrameSettings(samples=16),
            FrameSettings(samples=512, min_samples=16, noise_threshold=0.01),
            FrameSettings(samples=512),
        ),
    )
    assert low < between < high
