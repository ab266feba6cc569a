"""Scores in strips against the libraries on the whole picture."""

import math

import flip_evaluator
import numpy as np
import pytest
from skimage.metrics import peak_signal_noise_ratio, structural_similarity

from pemlo.core.measure import scores
from pemlo.core.pixels.display import Srgb
from pemlo.core.pixels.source import ArraySource
from pemlo.core.progress import Cancelled
from pemlo.core.project.viewing import VIEWING_CONDITIONS, ViewingCondition, seen_size
from photographs import codes_of, gaussian, photograph


@pytest.fixture(params=[1.0, 12.0], ids=["clean", "noisy"])
def pair(request, monkeypatch):
    monkeypatch.setattr(scores, "_STRIP_PIXELS", 3000)  # many strips
    clean = photograph("chelsea", (150, 100))
    return gaussian(clean, request.param, 1)[0], clean


def test_ssim_and_psnr_equal_scikit_image(pair):
    noisy, clean = (codes_of(one) for one in pair)
    ssim, psnr = scores.ssim_and_psnr(*(ArraySource(one) for one in pair), Srgb())
    theirs = structural_similarity(
        noisy, clean, channel_axis=-1, data_range=255, gaussian_weights=True, sigma=1.5, use_sample_covariance=False
    )
    assert ssim == pytest.approx(theirs, abs=2e-5)
    assert psnr == pytest.approx(peak_signal_noise_ratio(clean, noisy, data_range=255), abs=1e-3)


@pytest.mark.parametrize("ppd", [30.0, 67.02])
def test_flip_equals_its_authors_library(pair, ppd):
    ours = scores.flip(*(ArraySource(one) for one in pair), Srgb(), ppd)
    shown = [(codes_of(one) / 255).astype(np.float32) for one in pair]
    theirs = flip_evaluator.evaluate(shown[1], shown[0], "LDR", applyMagma=False, parameters={"ppd": ppd})[1]
    assert ours == pytest.approx(theirs, rel=2e-3)


def test_equal_pictures():
    clean = ArraySource(photograph("chelsea", (60, 40)))
    ssim, psnr = scores.ssim_and_psnr(clean, clean, Srgb())
    assert ssim == pytest.approx(1)
    assert psnr == math.inf
    assert scores.flip(clean, clean, Srgb(), 67) == 0


@pytest.mark.parametrize("size", [(1, 1), (5, 3), (10, 40)])
def test_pictures_too_small_for_a_score_say_so(size):
    a, b = (ArraySource(np.full((size[1], size[0], 3), value, np.float32)) for value in (0.2, 0.3))
    ssim, psnr = scores.ssim_and_psnr(a, b, Srgb())
    assert math.isnan(ssim)
    assert 0 < psnr < 60
    assert 0 < scores.flip(a, b, Srgb(), 67) < 1


def test_a_score_can_be_stopped():
    class Stop:
        def step(self, fraction, text):
            raise Cancelled

    clean = ArraySource(photograph("chelsea", (60, 40)))
    with pytest.raises(Cancelled):
        scores.flip(clean, clean, Srgb(), 67, Stop())


def test_seats():
    """ꟻLIP's authors: 0.7 m before a screen of 0.7 m and 3840 px are 67 pixels a degree."""
    assert ViewingCondition("", 1.0).pixels_per_degree(3840) == pytest.approx(67.02, abs=0.01)
    seen = [seen_size((3840, 2160), seat.pixels_per_degree(3840))[0] for seat in VIEWING_CONDITIONS]
    assert all(width <= 3840 for width in seen)
    assert seen_size((480, 270), VIEWING_CONDITIONS[1].pixels_per_degree(480)) == (480, 270)
