import numpy as np
import pytest
from skimage.measure import block_reduce

from pemlo.core.pixels.display import Srgb
from pemlo.core.pixels.screen import difference, reduced, shown, shown_data
from photographs import codes_of, photograph

PHOTO = photograph("astronaut", (90, 300))


def channels(pixels):
    return np.stack([(pixels >> shift) & 0xFF for shift in (16, 8, 0)], axis=-1).astype(int)


def test_colour_is_shown_as_its_codes():
    pixels = shown(PHOTO, Srgb())
    assert np.abs(channels(pixels) - codes_of(PHOTO)).max() <= 0.51
    assert (pixels >> 24 == 0xFF).all()


@pytest.mark.parametrize(("part", "channel"), [("red", 0), ("green", 1), ("blue", 2)])
def test_one_channel_is_grey(part, channel):
    found = channels(shown(PHOTO, Srgb(), part))
    assert np.abs(found - codes_of(PHOTO)[..., channel : channel + 1]).max() <= 0.51


def test_brightness_is_luma_of_bt_709():
    found = channels(shown(PHOTO, Srgb(), "brightness"))
    luma = codes_of((PHOTO @ np.array([0.2126, 0.7152, 0.0722]))[..., None])
    assert np.abs(found - luma).max() <= 0.55


def test_difference_is_amplified():
    other = PHOTO.copy()
    other[:50] *= 0.97
    step = codes_of(PHOTO) - codes_of(other)
    signed = channels(difference(PHOTO, other, Srgb(), 8, signed=True))
    assert np.abs(signed - np.clip(127.5 + 8 * step, 0, 255)).max() <= 0.7
    absolute = channels(difference(PHOTO, other, Srgb(), 8, signed=False))
    assert np.abs(absolute - np.clip(8 * np.abs(step), 0, 255)).max() <= 0.7
    assert (absolute[50:] == 0).all()


def test_depth_is_over_its_own_range_and_normals_keep_their_signs():
    depth = np.repeat(np.linspace(0, 40, 300, dtype=np.float32).reshape(30, 10, 1), 3, axis=2)
    depth[0, 0] = 1e6
    found = channels(shown_data(depth))[..., 0]
    assert found[29, 9] >= 250
    assert found[15, 0] == pytest.approx(128, abs=6)
    normals = np.zeros((4, 4, 3), np.float32)
    normals[..., 2] = -1.0
    assert channels(shown_data(normals))[0, 0].tolist() == [128, 128, 0]


@pytest.mark.parametrize("shape", [(90, 300), (91, 301), (1, 1), (1, 8)])
def test_half_the_size_is_means(shape):
    pixels = shown(PHOTO[: shape[0], : shape[1]], Srgb())
    found = channels(reduced(pixels))
    even = channels(pixels)[: 2 * found.shape[0], : 2 * found.shape[1]]
    if min(shape) > 1:
        assert np.abs(found - block_reduce(even, (2, 2, 1), np.mean)).max() <= 0.51
