"""The predicted look: as far from the reference as is predicted, with noise that hangs together as the trial's does."""

import itertools

import numpy as np
import pytest
from scipy.ndimage import gaussian_filter

from exr import write_exr
from pemlo.core.appraisal.preview import make_preview
from pemlo.core.appraisal.shot_appearance import appearance_of
from pemlo.core.measure.frame import MeasureRequest, measure
from pemlo.core.pixels.display import Srgb
from pemlo.core.pixels.source import ArraySource
from pemlo.core.project.settings import FrameSettings
from pemlo.core.project.trials import Trial
from photographs import gaussian, photograph

SIZE = (200, 136)
CLEAN = photograph("astronaut", SIZE)
WHOLE = (0, 0, *SIZE)


@pytest.fixture(scope="module")
def shot(tmp_path_factory):
    """How a shot looks of which there are a noisy picture, a denoised one of two seeds, and a reference."""
    folder = tmp_path_factory.mktemp("shot")
    trials = []
    for samples in (16, 4096):
        write_exr(folder / f"n{samples}.exr", *gaussian(CLEAN, 32 / samples**0.5, samples))
        trials.append(Trial(shot="010", frame=3, samples=samples, seconds=samples, picture=f"n{samples}.exr"))
    for seed in (1, 2):
        blotchy = gaussian_filter(gaussian(CLEAN, 8, seed)[0] - CLEAN, (1.5, 1.5, 0))
        write_exr(folder / f"d{seed}.exr", gaussian_filter(CLEAN, (0.8, 0.8, 0)) + blotchy)
        trials.append(
            Trial(shot="010", frame=3, samples=16, seconds=20, denoise="frame", seed=seed, picture=f"d{seed}.exr")
        )
    return appearance_of(trials, folder, Srgb())


def made(shot, samples, denoise="none", percent=100.0, box=WHOLE):
    settings = FrameSettings(samples=samples, denoise=denoise, resolution_percent=percent)
    return make_preview(shot.error_model, shot.pictures, settings, float(samples), box)


def error(picture, reference):
    return measure(
        MeasureRequest(ArraySource(picture), reference=ArraySource(reference), denoised=True)
    ).error.total.middle


@pytest.mark.parametrize(("samples", "denoise"), [(8, "none"), (64, "none"), (256, "none"), (64, "frame")])
def test_it_errs_by_as_much_as_is_predicted(shot, samples, denoise):
    found = made(shot, samples, denoise)
    wanted = shot.error_model.predict(FrameSettings(samples=samples, denoise=denoise)).total.middle
    assert error(found.predicted, found.reference) == pytest.approx(wanted, rel=0.1)


def test_noise_of_other_samples_is_as_that_of_a_picture_of_theirs(shot):
    """Against a picture that was really made with 64 samples: the same noise in every band of frequencies."""
    found = made(shot, 64)
    real = gaussian(CLEAN, 32 / 64**0.5, 64)[0]
    display = Srgb()

    def bands(picture):
        step = (display.codes(picture.astype(np.float32)) - display.codes(found.reference)).mean(axis=-1)
        power = np.abs(np.fft.fft2(step)) ** 2
        radius = np.hypot(*np.meshgrid(np.fft.fftfreq(step.shape[1]), np.fft.fftfreq(step.shape[0])))
        edges = (0, 0.1, 0.2, 0.35, 0.5)
        return np.array([power[(radius >= a) & (radius < b)].mean() ** 0.5 for a, b in itertools.pairwise(edges)])

    assert bands(found.predicted) == pytest.approx(bands(real), rel=0.12)


def test_smaller_pictures_are_softer(shot):
    sharp, soft = made(shot, 256), made(shot, 256, percent=50)
    assert error(soft.predicted, soft.reference) > 2 * error(sharp.predicted, sharp.reference)


def test_a_part_is_the_part_of_the_whole(shot):
    box = (40, 30, 120, 90)
    part, whole = made(shot, 8, box=box), made(shot, 8)
    assert part.predicted == pytest.approx(whole.predicted[30:90, 40:120], rel=1e-5)


def test_a_denoiser_of_which_there_is_no_picture(shot):
    assert made(shot, 8, "neighbours") is None


def test_the_worst_spot_is_where_the_noisiest_errs_most(shot):
    left, top, right, bottom = shot.pictures.worst
    assert 0 <= left < right <= SIZE[0]
    assert 0 <= top < bottom <= SIZE[1]
    assert len(shot.pictures.samples) == 3
