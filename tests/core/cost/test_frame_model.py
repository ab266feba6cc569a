"""The formula of a frame's cost, its derivatives, and what the trade says of such costs."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from pemlo.core.cost.frame_arrays import frames_of, rendered_pixels
from pemlo.core.cost.frame_model import (
    PARTS,
    capped,
    capped_mean,
    frame_seconds,
    log_readings,
    samples_spent,
    stage_seconds,
)
from pemlo.core.cost.noise_shape import QUANTILES
from pemlo.core.cost.priors import (
    FIREFLIES,
    KEPT_PREPARE,
    LIGHT,
    NOISE,
    PIXEL,
    PIXEL_POWER,
    PREPARE,
    SAMPLE,
    SAVE,
    WRITE,
    prior_table,
)
from pemlo.core.project.settings import CostFactors, FrameSettings

HD = (1920, 1080)
WAYS = CostFactors(("first", "second"), ("blur", "split 4,1,1"))
TABLE = prior_table(WAYS, noise_centre=-3.0, work=5.0)

settings = st.builds(
    lambda most, least, threshold, percent, denoise, keep, switches, split, saves: FrameSettings(
        samples=most,
        min_samples=min(least, most) if threshold else None,
        noise_threshold=threshold,
        resolution_percent=percent,
        denoise=denoise,
        keep=keep,
        switches=switches,
        split=split,
        saves=saves,
    ),
    st.integers(1, 2048),
    st.integers(1, 64),
    st.one_of(st.none(), st.floats(1e-3, 1.0)),
    st.floats(10, 200),
    st.sampled_from(["none", "first", "second"]),
    st.sampled_from([(), ("prepare",), ("light",), ("prepare", "light")]),
    st.sampled_from([(), ("blur",)]),
    st.sampled_from([(1, 1, 1), (4, 1, 1)]),
    st.integers(0, 5),
)
SHAPE = np.stack([np.sort(np.random.default_rng(4).standard_t(4, QUANTILES)), np.linspace(0.02, -0.02, QUANTILES)])


def frames(*found, shape=None):
    return frames_of(list(found), [HD] * len(found), WAYS, shape)


def held(part, seed):
    """One reading: some stages together, or a part that is no time."""
    if part != "time":
        return np.array([[float(name == part) for name in PARTS]])
    stages = (np.random.default_rng(seed + 1).random((1, len(PARTS))) < 0.6).astype(float)
    stages[0, 2], stages[0, 5:] = 1.0, 0.0
    return stages


def at_a_corner(one, theta):
    """Whether a share of the frame just meets the least or the most samples, where the curve has a corner."""
    missed = 2 * np.exp(theta[FIREFLIES])
    wanted = 2 * (theta[NOISE] - np.log(one.noise_threshold or 1.0) + SHAPE[0]) + missed * SHAPE[1]
    ends = (one.least_samples, one.samples)
    flat = (np.abs(np.log(n) + missed / n - wanted).min() for n in ends)
    # Below twice the samples that miss specks the curve is steep, and its slope is held down.
    return min(flat) < 1e-4 or one.least_samples < 1.2 * missed


@given(settings, st.integers(0, 10_000), st.sampled_from(["time", "samples", "noise"]), st.booleans())
def test_derivatives_equal_differences(one, seed, part, shaped):
    theta = TABLE.mean + np.random.default_rng(seed).normal(0, 0.5, TABLE.size)
    stages = held(part, seed)

    def frames(one):
        return frames_of([one], [HD], WAYS, SHAPE if shaped else None)

    _, jacobian = log_readings(theta[None], frames(one), stages)
    step = 1e-5
    for number in range(TABLE.size):
        up, down = theta.copy(), theta.copy()
        up[number] += step
        down[number] -= step
        slope = (log_readings(up[None], frames(one), stages)[0] - log_readings(down[None], frames(one), stages)[0]) / (
            2 * step
        )
        assert jacobian[0, number] == pytest.approx(slope[0], abs=2e-4) or (
            shaped and number in {NOISE, FIREFLIES} and at_a_corner(one, theta)
        )


@given(settings)
def test_stages_add_up_and_are_not_negative(one):
    stages = stage_seconds(TABLE.mean[None], frames(one))
    assert (stages >= 0).all()
    assert frame_seconds(TABLE.mean[None], frames(one)) == pytest.approx(stages.sum(axis=-1))


def test_half_the_size_is_a_quarter_of_the_pixels():
    # Common practice, no source: 50 % resolution, a quarter of the pixels.
    assert rendered_pixels(HD, 50) * 4 == rendered_pixels(HD, 100)
    assert rendered_pixels(HD, 0.01) == 1


def test_samples_doubled_take_about_twice_the_time():
    # Common practice, no source; the fixed part makes it a little less than twice.
    theta = TABLE.mean.copy()
    theta[PREPARE] -= 3
    few, many = frame_seconds(theta[None], frames(FrameSettings(samples=256), FrameSettings(samples=512)))
    assert 1.85 < many / few < 2.0


def test_four_times_the_pixels_in_two_renderers():
    # Common practice, no source: 960x540 against 1920x1080, 1 s to 3 s in one renderer and 7 s to 32 s in another.
    # Between them lies the fixed part in the one, and a power a little above 1 in the other.
    theta = TABLE.mean.copy()
    ratios = []
    for prepare, power in ((np.log(np.exp(theta[SAMPLE]) * 35), 0.0), (theta[PREPARE] - 6, 0.09)):
        theta[PREPARE], theta[PIXEL_POWER] = prepare, power
        theta[LIGHT] = theta[PREPARE] - 3
        small, large = frame_seconds(
            theta[None], frames(FrameSettings(samples=128, resolution_percent=50), FrameSettings(samples=128))
        )
        ratios.append(large / small)
    assert ratios[0] == pytest.approx(3, rel=0.1)
    assert ratios[1] == pytest.approx(32 / 7, rel=0.05)


def test_adaptive_sampling_costs_between_its_least_and_most():
    low, between, high = frame_seconds(
        TABLE.mean[None],
        frames(
            FrameSettings(samples=16),
            FrameSettings(samples=512, min_samples=16, noise_threshold=0.01),
            FrameSettings(samples=512),
        ),
    )
    assert low < between < high


def test_a_kept_stage_takes_its_share_and_leaves_the_others():
    all_worked_out, kept = stage_seconds(
        TABLE.mean[None], frames(FrameSettings(samples=64), FrameSettings(samples=64, keep=("prepare",)))
    )
    assert kept[0] == pytest.approx(all_worked_out[0] * np.exp(TABLE.mean[KEPT_PREPARE]))
    assert kept[1:] == pytest.approx(all_worked_out[1:])


def test_a_known_shape_of_noise_says_what_a_threshold_spends():
    # A tenth of the frame needs 400 samples, the rest 1: by hand 0.1 * 200 + 0.9 * 4 with 4 to 200 samples.
    shape = np.where(np.arange(QUANTILES) < 0.9 * QUANTILES, 0.0, np.log(20.0))
    clean = np.mean(np.arange(QUANTILES) < 0.9 * QUANTILES)
    theta = TABLE.mean.copy()
    theta[NOISE], theta[FIREFLIES] = np.log(0.1), -20.0
    one = FrameSettings(samples=200, min_samples=4, noise_threshold=0.1)
    spent, _ = samples_spent(theta[None], frames(one, shape=np.stack([shape, np.zeros(QUANTILES)])))
    assert spent[0] == pytest.approx((1 - clean) * 200 + clean * 4)


def test_a_switch_multiplies_tracing_alone():
    theta = TABLE.mean.copy()
    theta[-2:] = np.log([1.3, 2.0])
    off, on, both = stage_seconds(
        theta[None],
        frames(
            FrameSettings(samples=64),
            FrameSettings(samples=64, switches=("blur",)),
            FrameSettings(samples=64, switches=("blur",), split=(4, 1, 1)),
        ),
    )
    assert on == pytest.approx(off * [1, 1, 1.3, 1, 1])
    assert both[2] / off[2] == pytest.approx(2.6)


def test_writing_a_picture_and_saving_on_the_way():
    # Common practice, no source: writing picture and resume file, picture only, neither: 320 s, 296 s, 282 s a frame.
    theta = TABLE.mean.copy()
    mpx = HD[0] * HD[1] / 1e6
    theta[WRITE], theta[SAVE] = np.log(14 / mpx), np.log(24 / mpx)
    theta[SAMPLE] = theta[PIXEL] = np.log((282 - np.exp(theta[PREPARE]) - np.exp(theta[LIGHT])) / mpx / 65)
    plain, saved = frame_seconds(theta[None], frames(FrameSettings(samples=64), FrameSettings(samples=64, saves=1)))
    assert (plain, saved) == (pytest.approx(296), pytest.approx(320))


@given(settings, st.floats(0.01, 1e4), st.floats(0.3, 3.0))
def test_a_cap_ends_tracing_and_leaves_at_least_a_sample(one, cap, factor):
    theta = TABLE.mean[None]
    free, held = frames(one), frames(one.replace(most_seconds=cap))
    wanted = factor * stage_seconds(theta, free)
    seconds, spent = capped(theta, held, np.array(factor), samples_spent(theta, held)[0])
    rest = wanted.sum() - wanted[0, 2]
    traced = seconds[0] - rest
    # A sample that a threshold sends costs a little more.
    alone = factor * stage_seconds(theta, frames(one.replace(samples=1, min_samples=None, noise_threshold=None)))[0, 2]
    assert traced <= max(min(wanted[0, 2], cap), 1.1 * alone) * (1 + 1e-9)
    assert 1 - 1e-9 <= spent[0] <= samples_spent(theta, free)[0][0] * (1 + 1e-9)
    if cap > wanted[0, 2]:
        assert seconds[0] == pytest.approx(wanted.sum())


@given(settings, st.floats(0.01, 1e3), st.integers(0, 2**31))
def test_the_mean_of_capped_frames_is_that_of_each_of_them(one, cap, seed):
    dice = np.random.default_rng(seed)
    held = frames(
        one.replace(most_seconds=cap), one.replace(most_seconds=cap, samples=1 + one.samples // 2, min_samples=None)
    )
    theta = TABLE.mean + 0.2 * dice.standard_normal((6, 1, len(TABLE.mean)))
    cost_profile, share = np.exp(dice.standard_normal((6, 3))), np.array([0.5, 0.3, 0.2])
    wanted = np.array(np.broadcast_to(samples_spent(theta, held)[0], (6, 2)))
    seconds, spent = capped_mean(theta, held, cost_profile, share, wanted)
    each, samples = capped(theta[:, None], held, cost_profile[:, :, None], wanted[:, None])
    assert seconds == pytest.approx(np.einsum("nlk,l->nk", each, share))
    assert spent == pytest.approx(1 / np.einsum("nlk,l->nk", 1 / samples, share))
