"""The shape of noise of a picture, against pictures whose noise is known."""

import numpy as np
import pytest

from pemlo.core.cost.noise_shape import DARK, QUANTILES, noise_shape, noise_shape_of, shot_shapes


def picture(brightness, deviation, samples, seed=0):
    """Return colour, variance of the mean and samples of a grey picture, estimated from samples really drawn."""
    random = np.random.default_rng(seed)
    drawn = brightness[..., None] + deviation[..., None] * random.standard_normal((*brightness.shape, samples))
    mean, variance = drawn.mean(axis=-1), drawn.var(axis=-1, ddof=1) / samples
    return (np.repeat(a[..., None], 3, axis=-1) for a in (mean, variance)), np.full(brightness.shape, samples)


def test_the_quantiles_are_those_of_the_true_noise():
    across = np.linspace(-1.0, 1.0, 256)
    deviation = np.tile(np.exp(across), (64, 1))
    brightness = np.full_like(deviation, 4.0)
    (colour, variance), samples = picture(brightness, deviation, 64)
    found = np.array(noise_shape(colour, variance, samples))
    shares = (np.arange(QUANTILES) + 0.5) / QUANTILES
    assert found == pytest.approx(-1 + 2 * shares - 0.5 * np.log(4.0 + DARK), abs=0.05)


def test_few_samples_show_the_same_noise_as_many():
    deviation = np.full((128, 128), 0.5)
    middles = []
    for count in (4, 64):
        (colour, variance), samples = picture(np.full_like(deviation, 2.0), deviation, count)
        middles.append(np.median(noise_shape(colour, variance, samples)))
    assert middles[0] == pytest.approx(middles[1], abs=0.03)


def test_edges_that_no_tile_fits_count_like_the_rest():
    (colour, variance), samples = picture(np.full((13, 9), 1.0), np.full((13, 9), 0.3), 256)
    found = np.array(noise_shape(colour, variance, samples))
    assert found == pytest.approx(np.log(0.3 / np.sqrt(1 + DARK)), abs=0.1)


def test_a_picture_without_noise_has_no_shape():
    assert noise_shape(np.ones((8, 8, 3)), np.zeros((8, 8, 3)), np.ones((8, 8))) == ()


def test_noisy_places_of_an_adaptive_picture_had_more_samples():
    logs = tuple(np.linspace(np.log(0.05), np.log(0.8), QUANTILES))
    fixed, adaptive = noise_shape_of(logs, None, 1, 64), noise_shape_of(logs, 0.1, 4, 64)
    assert set(fixed.samples) == {64}
    # By hand: 0.05 / 0.1 wants a quarter of a sample and gets 4; 0.4 / 0.1 wants 16; 0.8 / 0.1 wants 64.
    assert adaptive.samples[0] == pytest.approx(4)
    assert np.interp(np.log(0.4), logs, adaptive.samples) == pytest.approx(16, rel=0.02)
    assert adaptive.samples[-1] == pytest.approx(64)


def test_the_shape_of_a_near_frame_counts_most():
    narrow, wide = tuple(np.linspace(-1, 1, QUANTILES)), tuple(np.linspace(-3, 3, 7))
    shapes = shot_shapes([noise_shape_of(narrow, None, 1, 64), noise_shape_of(wide, None, 1, 64)], np.array([0.0, 1.0]))
    spread = [float(np.ptp(shapes.at(place)[0])) for place in (0.0, 0.5, 1.0, None)]
    assert spread[0] == pytest.approx(2, abs=0.1)
    assert spread[2] == pytest.approx(6, abs=0.1)
    assert spread[1] == pytest.approx(spread[3])
    assert shot_shapes([], np.zeros(0)) is None


@pytest.mark.parametrize("place", [-1e5, -300.0, 300.0, 1e7])
def test_a_stray_frame_far_outside_the_shot_takes_the_nearest_shape(place):
    narrow, wide = (tuple(np.linspace(-spread, spread, QUANTILES)) for spread in (0.5, 2.0))
    shapes = shot_shapes([noise_shape_of(narrow, None, 1, 64), noise_shape_of(wide, None, 1, 64)], np.array([0.0, 1.0]))
    nearest = 0.0 if place < 0 else 1.0
    assert shapes.at(place)[0] == pytest.approx(shapes.at(nearest)[0], abs=0.5)
    assert np.isfinite(shapes.at(place)).all()
