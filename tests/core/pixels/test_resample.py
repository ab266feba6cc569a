import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from PIL import Image
from skimage.measure import block_reduce

from pemlo.core.pixels.resample import noise_gain, resampled, taps
from pemlo.core.pixels.rescale import kept_of_noise, there_and_back
from pemlo.core.pixels.source import ArraySource, Resized, read_whole


def random_picture(height, width, seed=0):
    return np.random.default_rng(seed).random((height, width, 3)).astype(np.float32)


def test_smaller_by_whole_numbers_are_the_means_of_blocks():
    picture = random_picture(36, 60)
    ours = read_whole(Resized(ArraySource(picture), (20, 12))).colour
    assert np.allclose(ours, block_reduce(picture, (3, 3, 1), np.mean), atol=1e-6)


def test_larger_is_the_cubic_of_another_library():
    picture = random_picture(9, 13)
    ours = read_whole(Resized(ArraySource(picture), (26, 18))).colour
    theirs = np.asarray(Image.fromarray(picture[..., 0], "F").resize((26, 18), Image.Resampling.BICUBIC))
    inner = (slice(6, -6), slice(6, -6))  # at the edges they leave weights out, we repeat pixels
    assert np.allclose(ours[..., 0][inner], theirs[inner], atol=1e-5)


@given(st.integers(1, 60), st.integers(1, 60))
def test_even_light_stays_even(before, after):
    lines = taps(before, after)
    assert np.allclose(lines.weight.sum(axis=1), 1, atol=1e-5)
    assert lines.index.min() >= 0
    assert lines.index.max() < before


@pytest.mark.parametrize("size", [(20, 12), (100, 60), (57, 33)])
def test_strips_are_parts_of_the_whole(size):
    source = Resized(ArraySource(random_picture(36, 60), random_picture(36, 60, 1)), size)
    whole = read_whole(source)
    for first, end in ((0, 5), (5, 6), (7, size[1])):
        strip = source.rows(first, end)
        assert np.allclose(strip.colour, whole.colour[first:end], atol=1e-6)
        assert np.allclose(strip.variance, whole.variance[first:end], atol=1e-6)


@pytest.mark.parametrize("after", [(100, 50), (320, 160), (470, 270)])
def test_what_becomes_of_noise(after):
    noise = np.random.default_rng(3).standard_normal((200, 400, 3)).astype(np.float32)
    rows, columns = taps(200, after[1]), taps(400, after[0])
    assert resampled(noise, rows, columns).var() == pytest.approx(noise_gain((400, 200), after), rel=0.05)


@pytest.mark.parametrize("smaller", [(200, 100), (300, 150), (360, 180)])
def test_noise_in_the_difference_of_going_there_and_back(smaller):
    noise = np.random.default_rng(4).standard_normal((200, 400, 3)).astype(np.float32)
    back = read_whole(there_and_back(ArraySource(noise), smaller, (400, 200))).colour
    assert (back - noise).var() == pytest.approx(kept_of_noise(smaller, (400, 200)), rel=0.03)


def test_a_pixel_that_is_no_number_spoils_only_what_is_made_of_it():
    picture = random_picture(40, 40)
    picture[20, 20, 1] = np.nan
    found = read_whole(Resized(ArraySource(picture), (20, 20)))
    assert np.isfinite(found.colour).all()
    assert found.bad.sum() == 1
    assert found.bad[10, 10]
