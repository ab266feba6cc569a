"""Flicker: what changes between neighbouring frames that should not, of blocks of 8 x 8 px."""

import numpy as np
import pytest
from scipy.ndimage import gaussian_filter

from pemlo.core.measure.flicker import BLOCK, between_seeds, of_three


def grey(shape=(160, 240)):
    return np.full((*shape, 3), 128.0)


def noise(seed, level, shape=(160, 240)):
    return level * np.random.default_rng(seed).standard_normal((*shape, 3))


@pytest.mark.parametrize("level", [0.5, 4.0, 12.0])
def test_plain_grain_flickers_an_eighth_of_itself(level):
    """By hand: the mean of 64 independent pixels varies by 1 / 8; grain of 4 levels flickers by 0.5."""
    frames = [grey() + noise(seed, level) for seed in range(3)]
    found = of_three(*frames)
    assert found.value == pytest.approx(level / BLOCK, rel=0.06)
    assert found.still_share > 0.99
    assert between_seeds(*frames[:2]) == pytest.approx(level / BLOCK, rel=0.06)


def test_coarse_grain_flickers_more_than_fine_grain_of_the_same_level():
    fine = [noise(seed, 3.0) for seed in range(3)]
    coarse = [gaussian_filter(noise(seed, 1.0), (6, 6, 0)) for seed in range(3)]
    coarse = [3.0 * one / one.std() for one in coarse]
    assert of_three(*(grey() + one for one in coarse)).value > 4 * of_three(*(grey() + one for one in fine)).value


def test_light_that_rises_evenly_is_no_flicker():
    """The second difference of a straight line is nought (Gasser, Sroka, Jennen-Steinmetz 1986)."""
    frames = [grey() + 10.0 * number + noise(number, 2.0) for number in range(3)]
    assert of_three(*frames).value == pytest.approx(2.0 / BLOCK, rel=0.06)


def test_light_that_jumps_up_and_down_is_flicker():
    """By hand: d = 2 everywhere, d² / 6 is 4 / 6."""
    assert of_three(grey(), grey() - 1.0, grey()).value == pytest.approx((4 / 6) ** 0.5)


def test_what_moves_does_not_count_and_most_of_it_moving_is_not_known():
    moving = np.random.default_rng(5).uniform(0, 255, (160, 240, 3))
    quarter = slice(0, 60)
    frames = [grey() + noise(seed, 2.0) for seed in range(3)]
    for number, frame in enumerate(frames):
        frame[:, quarter] = np.roll(gaussian_filter(moving, (8, 8, 0)) * 8, 9 * number * number, axis=1)[:, quarter]
    found = of_three(*frames)
    assert 0.6 < found.still_share < 0.85
    assert found.value == pytest.approx(2.0 / BLOCK, rel=0.15)
    for number, frame in enumerate(frames):
        frame[:, :160] = np.roll(gaussian_filter(moving, (8, 8, 0)) * 8, 9 * number * number, axis=1)[:, :160]
    assert of_three(*frames).value is None


def test_a_picture_smaller_than_a_block_is_one_block():
    assert of_three(grey((3, 5)), grey((3, 5)) + 6, grey((3, 5))).value == pytest.approx((144 / 6) ** 0.5)
