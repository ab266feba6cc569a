"""Noise over samples: the law of the mean's error, and what is not read into it."""

import numpy as np
import pytest

from pemlo.core.cost.noise_level import FRAMES_DIFFER, noise_level
from pemlo.core.project.trials import Trial


def trial(samples, noise, **fields):
    return Trial(shot="010", frame=1, seconds=1.0, samples=samples, noise=noise, **fields)


def test_four_times_the_samples_leave_half_the_noise():
    # Common practice, and any Monte Carlo textbook: samples doubled, noise divided by the root of two.
    level = noise_level([trial(4, 0.5), trial(64, 0.125)])
    curve = level.curve(np.array([4.0, 16.0, 64.0, 256.0]))
    assert curve.middle == pytest.approx([0.5, 0.25, 0.125, 0.0625])
    assert (curve.low < curve.middle).all()
    assert (curve.middle < curve.high).all()


def test_one_trial_is_less_sure_than_many_and_scatter_widens():
    one, many = noise_level([trial(16, 0.2)]), noise_level([trial(16, 0.2)] * 12)
    scattered = noise_level([trial(16, 0.2 * factor) for factor in (0.5, 1, 2, 0.6, 1.7)])

    def width(level):
        curve = level.curve(np.array([16.0]))
        return float(np.log(curve.high / curve.low)[0])

    assert width(many) < width(one) < width(scattered)
    assert one.log_sd == pytest.approx(FRAMES_DIFFER)


def test_adaptive_trials_and_trials_without_noise_tell_nothing():
    assert noise_level([]) is None
    assert noise_level([trial(64, None), trial(64, 0.1, noise_threshold=0.05)]) is None
