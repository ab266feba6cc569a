import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from scipy import optimize

from pemlo.core.appraisal.sentences import denoise_sentence
from pemlo.core.interval import Interval
from pemlo.core.measure.frame import MeasureRequest, measure
from pemlo.core.pixels.display import Srgb
from pemlo.core.pixels.source import ArraySource
from pemlo.core.predict.denoise_worth import DenoiseWorth
from pemlo.core.predict.grain_curve import adaptive_curve, grain_curve, noise_of
from pemlo.core.predict.power_laws import TOTAL, power_law, together, widened
from pemlo.core.project.ceiling import Marked, ceiling
from photographs import gaussian, photograph

SAMPLES = np.array([8.0, 16, 32, 64, 128])


def test_with_many_trials_the_law_is_that_of_another_fit():
    errors = 9 * SAMPLES**-0.41
    law = power_law(SAMPLES, errors)
    (level, power), _ = optimize.curve_fit(lambda x, a, b: a - b * x, np.log(SAMPLES), np.log(errors))
    assert law.mean[1] == pytest.approx(power, abs=0.02)
    assert law.at(256).middle == pytest.approx(np.exp(level) * 256**-power, rel=0.03)


def test_with_one_trial_the_belief_fills_in_and_widens_away_from_it():
    law = power_law([32], [2.0])
    assert law.at(32).middle == pytest.approx(2.0, rel=0.01)
    assert law.at(128).middle == pytest.approx(2.0 * 4**-TOTAL.power, rel=0.01)
    assert law.at(32).high / law.at(32).low < law.at(512).high / law.at(512).low
    assert power_law([], []) is None
    assert power_law([4], [0.0]) is None


def test_grain_of_samples_that_were_not_taken():
    clean = photograph("astronaut", (200, 200))
    _, variance = gaussian(clean, 8.0, 1)  # of 16 samples
    curve = grain_curve(noise_of(clean, variance, 16.0), Srgb())
    for samples in (4, 64, 256):
        dice = np.random.default_rng(samples)
        noisy = (clean + np.sqrt(variance * 16 / samples) * dice.standard_normal(clean.shape)).astype(np.float32)
        truth = measure(MeasureRequest(ArraySource(noisy), reference=ArraySource(clean))).error.total.middle
        told = curve.at(samples)
        assert told.middle == pytest.approx(truth, rel=0.03)
        assert told.low < truth < told.high
        assert curve.samples_for(truth) == pytest.approx(samples, rel=0.08)


def test_a_curve_is_brought_to_what_was_measured():
    clean = photograph("astronaut", (64, 64))
    curve = grain_curve(noise_of(clean, gaussian(clean, 2.0, 1)[1], 4.0), Srgb())
    through = curve.times(curve.off(3.0, 16))
    assert through.at(16).middle == pytest.approx(3.0)
    assert through.at(64).middle / through.at(16).middle == pytest.approx(curve.at(64).middle / curve.at(16).middle)


def test_samples_by_need_leave_less_than_as_many_everywhere():
    """Noise three times as strong in one half: shared out by need, the halves come out alike."""
    dice = np.random.default_rng(4)
    clean = np.full((64, 96, 3), 0.18, np.float32)
    one = np.full_like(clean, 1e-4)
    one[:, 48:] *= 9
    noise = noise_of(clean, one, 1.0)
    even, by_need = grain_curve(noise, Srgb()), adaptive_curve(noise, Srgb(), 1, 4096)
    for mean in (8.0, 64.0):
        # Neyman: with cost in proportion, n ~ sigma² makes all pixels equally noisy: variance = mean sigma² / mean n.
        n = mean * one / one.mean()
        drawn = clean + np.sqrt(one / n) * dice.standard_normal(clean.shape).astype(np.float32)
        truth = measure(MeasureRequest(ArraySource(drawn), reference=ArraySource(clean))).error.total.middle
        assert by_need.at(mean).middle == pytest.approx(truth, rel=0.06)
        assert by_need.at(mean).middle < even.at(mean).middle
    all_alike = adaptive_curve(noise, Srgb(), 16, 16)
    assert all_alike.at(16).middle == pytest.approx(even.at(16).middle)


def test_far_out_grain_falls_with_the_root():
    clean = photograph("astronaut", (64, 64))
    curve = grain_curve(noise_of(clean, gaussian(clean, 2.0, 1)[1], 4.0), Srgb())
    assert curve.samples_for(0.5 * curve.mean[-1]) == pytest.approx(4 * curve.samples[-1], rel=0.01)


def test_parts_add_in_squares():
    both = together(Interval(2.7, 3, 3.3), Interval(3.8, 4, 4.2))
    assert both.middle == pytest.approx(5)
    assert 4.7 < both.low < 5 < both.high < 5.3


def test_what_is_known_less_well_has_a_wider_interval():
    found = widened(Interval(2.0, 2.0, 2.0), 0.1)
    assert (found.low, found.high) == pytest.approx((2 / 1.1788, 2 * 1.1788), rel=1e-3)
    wide = widened(Interval(1.0, 2.0, 4.0), 0.1)
    assert wide.middle == 2.0
    assert 0.98 < wide.low < 1.0
    assert 4.0 < wide.high < 4.1


@given(st.lists(st.tuples(st.floats(0.1, 20), st.booleans()), max_size=12))
def test_a_ceiling_is_where_the_fewest_marks_are_wrong(marks):
    found = ceiling([Marked(str(i), error, passed) for i, (error, passed) in enumerate(marks)])

    def wrong(at):
        return sum((error <= at) != passed for error, passed in marks)

    least = min(wrong(at) for at in [0.0, *(error for error, _ in marks)])
    assert wrong(found.value if found.value is not None else 0.0) <= least + len(found.against)
    if not found.against:
        assert wrong(found.value or 0.0) == least == 0
        if found.accepted is not None and found.refused is not None:
            assert found.accepted < found.refused or found.accepted == found.refused
    else:
        assert all(refused.error <= passed.error for passed, refused in found.against)


def test_contradictions_are_named():
    found = ceiling([Marked("clean", 1.0, False), Marked("noisy", 2.0, True), Marked("mid", 1.5, True)])
    assert [(a.name, b.name) for a, b in found.against] == [("mid", "clean"), ("noisy", "clean")]
    assert found.accepted == 2.0
    assert ceiling([]).value is None
    assert ceiling([Marked("a", 2.0, False)]).refused == 2.0


def test_what_denoising_is_worth_in_words():
    words = denoise_sentence(DenoiseWorth(32, 210, 29, 100, 1.9))
    assert words == (
        "Denoised at 32 samples equals 210 samples without: saves 71% of the frame time. "
        "It softens the picture by 1.9 levels."
    )
    assert "leave it off" in denoise_sentence(DenoiseWorth(64, 40, 80, 50, 0.3))
    assert "costs 150% more" in denoise_sentence(DenoiseWorth(32, 40, 50, 20, 0.0))
    assert "another seed" in denoise_sentence(DenoiseWorth(32, 210, 29, 100, None))
