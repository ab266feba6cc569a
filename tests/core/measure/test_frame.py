"""Grain and error against injected noise, on photographs that scikit-image ships."""

import numpy as np
import pytest
from scipy.ndimage import gaussian_filter
from skimage.restoration import estimate_sigma

from pemlo.core.errors import InputError
from pemlo.core.measure.frame import MeasureRequest, measure
from pemlo.core.pixels.source import ArraySource
from pemlo.core.progress import Cancelled
from photographs import codes_of, gaussian, photograph, poisson, true_grain


def found(picture, variance=None, **others):
    sources = {
        name: value if not isinstance(value, np.ndarray) else ArraySource(value) for name, value in others.items()
    }
    return measure(MeasureRequest(ArraySource(picture, variance), **sources))


@pytest.mark.parametrize("make", [gaussian, poisson])
@pytest.mark.parametrize("level", [0.2, 1.0, 5.0, 20.0])
@pytest.mark.parametrize("name", ["astronaut", "chelsea", "rocket"])
def test_grain_equals_injected_noise(name, level, make):
    clean = photograph(name, (256, 256))
    truth = true_grain(clean, make, level)
    noisy, variance = make(clean, level, 1)
    two = found(noisy, second=make(clean, level, 2)[0]).grain
    assert two.how == "two seeds"
    assert two.mean == pytest.approx(truth, rel=0.03)
    # Where a pixel counts less than three photons its noise is not normal, and the variance alone does not tell all.
    few = make is poisson and level == 20.0
    for grain in (found(noisy, variance, reference=clean).grain, found(noisy, variance).grain):
        assert grain.how == "variance channel"
        assert grain.mean == pytest.approx(truth, rel=0.08 if few else 0.03)
        assert grain.linear == pytest.approx(np.sqrt(variance.mean()), rel=0.01)


def test_grain_of_one_picture_is_an_upper_bound_and_says_so():
    clean = photograph("astronaut", (320, 320))
    biases = []
    for level in (2.0, 5.0, 20.0):
        noisy, _ = gaussian(clean, level, 1)
        grain = found(noisy).grain
        assert grain.upper_bound
        biases.append(grain.mean / true_grain(clean, gaussian, level) - 1)
    assert biases[0] > 0.05  # texture counts as noise
    assert all(bias > -0.08 for bias in biases)
    assert abs(biases[-1]) < abs(biases[0])  # and counts for less where there is more noise


def test_one_picture_agrees_with_scikit_image_on_even_ground():
    ground = np.full((512, 512, 3), 0.2, np.float32)
    noisy, _ = gaussian(ground, 4.0, 5)
    theirs = np.sqrt(np.mean(np.square(estimate_sigma(codes_of(noisy), channel_axis=-1))))
    assert found(noisy).grain.mean == pytest.approx(theirs, rel=0.03)


def test_the_worst_spot_is_where_the_noise_is():
    clean = np.full((240, 480, 3), 0.2, np.float32)
    noisy, variance = gaussian(clean, 1.0, 1)
    patch = (slice(96, 120), slice(304, 320))
    noisy[patch] += 0.1 * np.random.default_rng(0).standard_normal((24, 16, 3)).astype(np.float32)
    variance[patch] += 0.01
    grain = found(noisy, variance).grain
    left, top, right, bottom = grain.worst_region
    assert 304 <= left < right <= 320
    assert 96 <= top < bottom <= 120
    boxes = grain.map.spots(4)
    assert len(set(boxes)) == 4
    assert boxes[0] == grain.worst_region


def test_parts_of_the_error_add_up_and_softening_is_found_only_where_it_is():
    clean = photograph("astronaut", (320, 320))
    noisy, variance = gaussian(clean, 4.0, 1)
    reference, its_variance = gaussian(clean, 1.0, 2)
    sharp = measure(MeasureRequest(ArraySource(noisy, variance), reference=ArraySource(reference, its_variance))).error
    assert sharp.total.middle == pytest.approx(true_grain(clean, gaussian, 4.0), rel=0.03)
    assert sharp.reference_noise == pytest.approx(true_grain(clean, gaussian, 1.0), rel=0.03)
    assert sharp.softening.low == 0
    assert sharp.softening.middle < 0.5
    blurred = [gaussian_filter(clean, (1.5, 1.5, 0)) + 0.1 * (gaussian(clean, 4.0, seed)[0] - clean) for seed in (3, 4)]
    truth = np.sqrt(np.mean((codes_of(gaussian_filter(clean, (1.5, 1.5, 0))) - codes_of(clean)) ** 2))
    soft = measure(
        MeasureRequest(
            ArraySource(blurred[0]),
            second=ArraySource(blurred[1]),
            reference=ArraySource(reference, its_variance),
            denoised=True,
        )
    ).error
    assert soft.softening.middle == pytest.approx(truth, rel=0.03)
    assert soft.softening.low < truth < soft.softening.high
    assert soft.total.middle**2 == pytest.approx(soft.grain**2 + soft.softening.middle**2, rel=0.02)


def test_all_error_of_a_picture_that_was_not_denoised_is_noise():
    clean = photograph("astronaut", (160, 160))
    dice = np.random.default_rng(3)
    # Light with a long tail: one pixel in forty is far too bright, and the variance says so of all.
    tail = (dice.random((160, 160, 1)) < 0.025).astype(np.float32) * 0.8
    noisy = clean + tail
    variance = np.full_like(clean, 0.8**2 * 0.025 * 0.975)
    told = measure(MeasureRequest(ArraySource(noisy, variance), reference=ArraySource(clean), denoised=False))
    direct = np.sqrt(np.mean((codes_of(noisy) - codes_of(clean)) ** 2))
    assert told.error.total.middle == pytest.approx(direct, rel=0.01)
    assert told.grain.mean == pytest.approx(direct, rel=0.01)
    assert told.error.softening.high == 0
    normal = measure(MeasureRequest(ArraySource(noisy, variance), reference=ArraySource(clean))).grain.mean
    assert normal != pytest.approx(direct, rel=0.2)


def test_scaling_is_measured_on_the_reference():
    clean = photograph("astronaut", (480, 480))
    reference, its_variance = gaussian(clean, 2.0, 2)
    small = clean.reshape(240, 2, 240, 2, 3).mean(axis=(1, 3))
    noisy, variance = gaussian(small, 3.0, 1)
    error = measure(MeasureRequest(ArraySource(noisy, variance), reference=ArraySource(reference, its_variance))).error
    direct = measure(MeasureRequest(ArraySource(small), reference=ArraySource(clean))).error
    assert error.scaling == pytest.approx(direct.total.middle, rel=0.03)
    assert error.softening.middle < 0.25 * error.scaling
    assert error.total.middle**2 == pytest.approx(error.grain**2 + error.scaling**2, rel=0.05)


def test_specks_are_counted_with_their_light():
    clean = np.full((100, 100, 3), 0.1, np.float32)
    clean[20, 30] = clean[70, 10] = 5.1
    fireflies = found(clean).fireflies
    assert fireflies.count == 2
    assert fireflies.energy_share == pytest.approx(10 / (1000 - 0.2 + 10.2), rel=0.01)


def test_pixels_that_are_no_numbers_are_left_out_and_counted():
    clean = photograph("astronaut", (240, 240))
    noisy, variance = gaussian(clean, 3.0, 1)
    whole = found(noisy, variance, reference=clean)
    noisy = noisy.copy()
    noisy[10:12, 20, 0] = np.nan
    noisy[50, 60, 2] = np.inf
    holed = found(noisy, variance, reference=clean)
    assert holed.bad == 3
    assert holed.error.total.middle == pytest.approx(whole.error.total.middle, rel=0.01)


@pytest.mark.parametrize("shape", [(1, 1), (1, 7), (3, 2), (9, 17), (130, 1)])
def test_tiny_pictures(shape):
    picture = np.random.default_rng(0).random((*shape, 3)).astype(np.float32)
    measured = found(picture, second=picture[::-1].copy(), reference=picture)
    assert measured.pixels == shape[0] * shape[1]
    assert measured.error.total.middle == 0
    found(picture)
    nothing = np.full((*shape, 3), np.nan, np.float32)
    with pytest.raises(InputError, match="Not one pixel holds a number"):
        found(nothing)
    with pytest.raises(InputError, match="Not one pixel holds a number"):
        found(picture, reference=nothing)


def test_what_is_not_known_is_not_said():
    clean = photograph("astronaut", (96, 96))
    alone = measure(MeasureRequest(ArraySource(clean), denoised=True))
    assert alone.grain is None
    assert alone.error is None
    against = measure(MeasureRequest(ArraySource(clean), denoised=True, reference=ArraySource(clean))).error
    assert against.softening is None
    assert against.reference_noise is None


def test_pictures_of_another_shape_are_refused():
    with pytest.raises(InputError, match="do not show the same frame"):
        found(photograph("astronaut", (96, 96)), reference=photograph("astronaut", (96, 48)))


def test_measuring_can_be_stopped_and_does_not_depend_on_threads():
    clean = photograph("astronaut", (320, 320))
    noisy, variance = gaussian(clean, 3.0, 1)
    asked = MeasureRequest(ArraySource(noisy, variance), reference=ArraySource(clean))
    assert measure(asked, threads=1).error.total == measure(asked, threads=3).error.total

    class Stop:
        def step(self, fraction, text):
            raise Cancelled

    with pytest.raises(Cancelled):
        measure(asked, Stop())
