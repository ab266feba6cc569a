import numpy as np
import pytest

from pemlo.core.measure.motion import stepping, still_noise
from pemlo.core.pixels.display import Srgb
from pemlo.core.pixels.source import ArraySource
from photographs import codes_of, gaussian, photograph

STILL = photograph("astronaut", (320, 320))


def noisy_codes(picture, level, seed):
    return codes_of(gaussian(picture, level, seed)[0])


@pytest.mark.parametrize("level", [0.5, 2.0, 8.0])
def test_noise_of_a_still_picture_is_its_grain(level):
    found = still_noise(noisy_codes(STILL, level, 1), noisy_codes(STILL, level, 2))
    truth = np.std(noisy_codes(STILL, level, 1) - noisy_codes(STILL, level, 2)) / np.sqrt(2)
    assert found.still_share > 0.8
    assert found.value == pytest.approx(truth, rel=0.1)


def test_what_moves_does_not_count_as_noise():
    moved = STILL.copy()
    moved[:, 160:] = np.roll(STILL[:, 160:], 12, axis=1)
    found = still_noise(noisy_codes(STILL, 2.0, 1), noisy_codes(moved, 2.0, 2))
    still = np.std((noisy_codes(STILL, 2.0, 1) - noisy_codes(STILL, 2.0, 2))[:, :160]) / np.sqrt(2)
    assert 0.3 < found.still_share < 0.75
    assert found.value == pytest.approx(still, rel=0.15)


def test_nothing_still_is_said():
    # Light that rises everywhere: a cut or a pan.
    found = still_noise(codes_of(STILL), codes_of(np.clip(STILL * 1.5 + 0.05, 0, 1)))
    assert found.still_share < 0.1


def test_equal_frames_have_no_noise():
    assert still_noise(codes_of(STILL), codes_of(STILL)).value == 0


def rising(count):
    """Frames whose codes rise by two from one to the next."""
    return [np.full((40, 60, 3), 100 + 2 * number, float) for number in range(count)]


def as_sources(codes):
    from pemlo.core.pixels.curve import to_linear

    return [ArraySource(to_linear(one / 255).astype(np.float32)) for one in codes]


def test_holding_every_second_frame_is_wrong_by_one_step_in_half_of_them():
    assert stepping(as_sources(rising(5)), 2, Srgb(), blend=False) == pytest.approx(np.sqrt(4 / 2), rel=1e-3)
    assert stepping(as_sources(rising(7)), 3, Srgb(), blend=False) == pytest.approx(np.sqrt((4 + 16) / 3), rel=1e-3)


def test_mixing_frames_of_an_even_rise_is_right():
    assert stepping(as_sources(rising(5)), 2, Srgb(), blend=True) == pytest.approx(0, abs=0.02)


def test_noise_is_no_stepping():
    frames = [ArraySource(gaussian(STILL, 3.0, seed)[0]) for seed in range(3)]
    noise = np.std(noisy_codes(STILL, 3.0, 0) - noisy_codes(STILL, 3.0, 1)) / np.sqrt(2)
    assert stepping(frames, 2, Srgb(), blend=False, noise=noise) < 0.3
    assert stepping(frames, 2, Srgb(), blend=False) == pytest.approx(noise, rel=0.05)
