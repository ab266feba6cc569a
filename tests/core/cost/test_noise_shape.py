"""The shape of noise of a picture, against pictures whose noise is known."""

import numpy as np
import pytest

from pemlo.core.cost.noise_shape import DARK, QUANTILES, noise_shape


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
