import numpy as np
import pytest

from pemlo.core.errors import InputError
from pemlo.core.measure.frame import MeasureRequest, measure
from pemlo.core.pixels.display import Srgb
from pemlo.core.pixels.source import ArraySource, Resized, read_whole
from pemlo.core.predict.denoisers import MeasuredDenoising, denoiser_law
from pemlo.core.predict.error_model import MeasuredTrial, make_error_model
from pemlo.core.predict.grain_curve import noise_of
from pemlo.core.predict.scaling import scaling_curve
from pemlo.core.project.settings import FrameSettings
from photographs import gaussian, photograph

SIZE = (240, 160)
CLEAN = photograph("astronaut", SIZE)


def with_grain(samples, seed=1, clean=CLEAN):
    return gaussian(clean, 24 / samples**0.5, seed)


def model(known=(), seen=None):
    colour, variance = with_grain(16)
    noise = noise_of(CLEAN, variance, 16.0)
    return make_error_model(SIZE, noise, scaling_curve(ArraySource(CLEAN), Srgb()), seen, known)


def error_of(colour):
    return measure(MeasureRequest(ArraySource(colour), reference=ArraySource(CLEAN), size=SIZE)).error.total.middle


def test_grain_of_settings_never_rendered_is_as_measured():
    for samples in (8, 64):
        told = model().predict(FrameSettings(samples=samples))
        assert told.total.middle == pytest.approx(error_of(with_grain(samples, 3)[0]), rel=0.04)
        assert told.softening is None
        assert told.scaling == 0


def test_a_smaller_picture_loses_detail_and_its_noise_is_smoothed():
    smaller = (120, 80)
    small = read_whole(Resized(ArraySource(CLEAN), smaller)).colour
    noisy = with_grain(32, 5, small)[0]
    told = model().predict(FrameSettings(samples=32, resolution_percent=50))
    assert told.total.middle == pytest.approx(error_of(noisy), rel=0.08)
    assert told.scaling > 5
    assert told.total.middle > model().predict(FrameSettings(samples=32, resolution_percent=75)).total.middle


def test_larger_pictures_lose_nothing_and_are_cleaner():
    twice = model().predict(FrameSettings(samples=32, resolution_percent=200))
    assert twice.scaling == 0
    assert twice.total.middle < model().predict(FrameSettings(samples=32)).total.middle


def test_what_denoisers_leave_adds_up_from_its_parts():
    known = [MeasuredDenoising(16, "frame", 5.0, residual=3.0, bias=4.0)]
    told = model(known).predict(FrameSettings(samples=16, denoise="frame"))
    assert told.total.middle == pytest.approx(5.0, rel=0.01)
    assert (told.grain.middle, told.softening.middle) == pytest.approx((3.0, 4.0), rel=0.01)
    more = model(known).predict(FrameSettings(samples=64, denoise="frame"))
    # Grain that stays falls faster than what is softened.
    assert more.grain.middle / 3.0 < more.softening.middle / 4.0 < 1
    assert more.total.middle == pytest.approx(np.hypot(more.grain.middle, more.softening.middle))


def test_without_a_twin_there_is_one_law_of_the_whole():
    told = model([MeasuredDenoising(16, "frame", 5.0)]).predict(FrameSettings(samples=64, denoise="frame"))
    assert told.grain is None
    assert told.softening is None
    assert told.total.low < told.total.middle < 5.0


def test_parts_follow_laws_that_more_trials_show():
    known = [
        MeasuredDenoising(n, "frame", np.hypot(8 * n**-0.5, 5 * n**-0.1), 8 * n**-0.5, 5 * n**-0.1)
        for n in (4, 16, 64, 256)
    ]
    law = denoiser_law(known)
    left = law.at(1024)
    assert left.residual.middle == pytest.approx(8 * 1024**-0.5, rel=0.08)
    assert left.bias.middle == pytest.approx(5 * 1024**-0.1, rel=0.08)
    # Of fewer pixels, as noise of four times the variance.
    assert law.at(16, gain=4.0).total.middle == pytest.approx(2 * law.at(16).total.middle)


def test_bias_of_nothing_is_no_law():
    assert denoiser_law([MeasuredDenoising(16, "frame", 2.0, residual=2.0, bias=0.0)]).bias is None
    assert denoiser_law([MeasuredDenoising(16, "frame", 0.0)]) is None


def test_a_threshold_gives_denoisers_what_fewer_samples_everywhere_would():
    settings = FrameSettings(samples=256, min_samples=4, noise_threshold=0.05, denoise="frame")
    known = [MeasuredDenoising(16, "frame", 5.0, residual=3.0, bias=4.0)]
    made = model(known)
    plain = made.predict(settings.replace(denoise="none"), 16.0).total.middle
    equal = made.curve.samples_for(plain)
    assert made.predict(settings, 16.0).total.middle == pytest.approx(
        made.predict(FrameSettings(samples=round(equal), denoise="frame")).total.middle, rel=0.02
    )


def test_the_curve_goes_through_what_was_measured():
    seen = MeasuredTrial(FrameSettings(samples=16), 16.0, 9.0)
    assert model(seen=seen).predict(FrameSettings(samples=16)).total.middle == pytest.approx(9.0)


@pytest.mark.parametrize(
    ("settings", "words"),
    [
        (FrameSettings(samples=16, denoise="frame"), "Render one such trial first"),
        (FrameSettings(samples=16, noise_threshold=0.1), "Time one such trial first"),
    ],
)
def test_what_is_not_known_says_so(settings, words):
    with pytest.raises(InputError) as error:
        model().predict(settings)
    assert words in str(error.value)
