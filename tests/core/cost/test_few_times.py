"""A handful of times as people have them: forecasts that hold, whatever the renderer, the size and the unit of time."""

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from by_day import cases
from film import make_project, make_shot
from pemlo.core.cost.draws import draw_frame
from pemlo.core.cost.fit import fit
from pemlo.core.cost.fit_input import fit_input
from pemlo.core.project.settings import FrameSettings
from pemlo.core.project.trials import Trial

POINTS = [0.05, 0.5, 0.95]
# Seconds of three demo scenes, frame 20 at 320 x 180 px, as `pemlo render` told them on one machine: samples and size.
RENDERED = {
    "harbour": {(8, 50): 0.296 + 0.6, (32, 50): 1.217, (8, 100): 1.423, (24, 100): 2.237, (96, 100): 6.307},
    "stairs": {(8, 50): 0.994, (32, 50): 1.628, (8, 100): 1.690, (24, 100): 3.350, (96, 100): 11.013},
    "clock": {(8, 50): 0.747, (32, 50): 1.109, (8, 100): 1.130, (24, 100): 2.091, (96, 100): 6.201},
}


def timed(samples, percent, seconds, **fields):
    return Trial(shot="010", frame=50, samples=samples, resolution_percent=percent, seconds=seconds, **fields)


def predicted(trials, asked, size=(1920, 1080), shots=(), **wanted):
    shot = make_shot("010", samples=asked)
    project = make_project(shots=(shot, *shots), trials=tuple(trials), width=size[0], height=size[1])
    settings = FrameSettings(**{"samples": asked, **wanted})
    return np.quantile(draw_frame(fit(fit_input(project)), project, "010", 50, settings), POINTS)


@pytest.mark.parametrize("scene", RENDERED)
def test_four_small_frames_predict_one_of_many_samples(scene):
    times = dict(RENDERED[scene])
    true = times.pop((96, 100))
    low, middle, high = predicted([timed(*test, seconds) for test, seconds in times.items()], 96, (320, 180))
    assert low < true < high
    assert middle == pytest.approx(true, rel=0.25)
    assert high / low < 3


@pytest.mark.parametrize("scale", [1.0, 10.0, 100.0, 1000.0])
@pytest.mark.parametrize("asked", [16, 64, 256])
def test_a_plain_tracer_whose_times_go_with_pixels_and_samples(asked, scale):
    def seconds(samples, percent):
        return scale * 1e-5 * samples * round(2.56 * percent) * round(1.44 * percent)

    trials = [timed(*test, seconds(*test)) for test in ((4, 25), (16, 25), (4, 50), (8, 100))]
    low, middle, high = predicted(trials, asked, (256, 144))
    assert low < seconds(asked, 100) < high
    assert middle == pytest.approx(seconds(asked, 100), rel=0.06)


def test_one_cheap_trial_leaves_open_whether_all_was_preparing_or_none():
    low, middle, high = predicted([timed(16, 50, 16.3)], 512)
    by_hand = 16.3 * 4 * 512 / 16  # 34 m 46 s; the frame really took 28 m 22 s
    assert low < 1.2 * 16.3
    assert 1702 < high < 1.3 * by_hand
    assert 2 * 16.3 < middle < by_hand / 2


def test_a_frame_that_was_timed_is_predicted_as_it_was_timed():
    trials = [timed(8, 100, 4 * 60 + 43), timed(16, 100, 9 * 60 + 10), timed(32, 100, 18 * 60 + 6)]
    low, middle, high = predicted(trials, 512, samples=32)
    assert low < 1086 < high
    assert middle == pytest.approx(1086, rel=0.04)
    assert high / low < 1.3


LADDER = ((16, 50.0, 1.0), (64, 50.0, 1.05), (16, 100.0, 0.97))


def ladder(prepare, scale, size, noise=LADDER):
    mpx = size[0] * size[1] / 1e6
    for samples, percent, off in noise:
        cost = prepare + (percent / 100) ** 2 * mpx * (2 + samples) / (mpx * 100)
        yield timed(samples, percent, scale * off * cost)


@settings(max_examples=cases(12), deadline=None)
@given(st.floats(-3.0, 3.0), st.floats(0.0, 9.0), st.sampled_from([(64, 36), (320, 180), (1920, 1080), (15360, 8640)]))
def test_the_unit_of_time_decides_nothing(decades, prepare, size):
    first = predicted(ladder(prepare, 1.0, size), 128, size)
    assert predicted(ladder(prepare, 10**decades, size), 128, size) == pytest.approx(10**decades * first, rel=1e-6)


@settings(max_examples=cases(8), deadline=None)
@given(st.sampled_from([(64, 36), (1920, 1080), (7680, 4320)]), st.floats(0.0, 5.0))
def test_the_same_pixels_by_another_percentage_are_the_same(size, prepare):
    first = predicted(ladder(prepare, 1.0, size), 128, size)
    double = (2 * size[0], 2 * size[1])
    trials = [one.replace(resolution_percent=one.resolution_percent / 2) for one in ladder(prepare, 1.0, size)]
    shot = make_shot("010", samples=128, resolution_percent=50)
    project = make_project(shots=(shot,), trials=tuple(trials), width=double[0], height=double[1])
    wanted = FrameSettings(samples=128, resolution_percent=50)
    again = np.quantile(draw_frame(fit(fit_input(project)), project, "010", 50, wanted), POINTS)
    assert again == pytest.approx(first, rel=1e-9)


def test_the_order_of_trials_decides_nothing():
    trials = list(ladder(0.5, 1.0, (1920, 1080)))
    first = predicted(trials, 128)
    assert predicted(trials[::-1], 128) == pytest.approx(first, rel=1e-9)
    assert predicted([trials[1], trials[2], trials[0]], 128) == pytest.approx(first, rel=1e-9)


def test_an_unrelated_shot_makes_nothing_jump():
    trials = list(ladder(0.5, 1.0, (1920, 1080)))
    low, middle, high = predicted(trials, 128)
    untimed = make_shot("900", 10, samples=4096)
    assert predicted(trials, 128, shots=(untimed,)) == pytest.approx((low, middle, high), rel=1e-9)
    other = timed(64, 100, 6.0).replace(shot="900", frame=5)
    beside = predicted([*trials, other], 128, shots=(untimed,))
    assert low < beside[1] < high
    assert 0.6 < np.log(beside[2] / beside[0]) / np.log(high / low) < 1.5


def test_a_timed_region_tells_what_a_sample_costs_but_less_surely_than_the_frame():
    whole = [timed(16, 50, 30.0), timed(64, 50, 90.0)]
    # An eighth of the frame, where a sample costs half as much again: 10 s are prepared, 20 s go with 16 samples.
    region = [timed(n, 50, 10 + 1.5 * 20 * n / 16 / 8, region_percent=12.5) for n in (64, 256)]
    true = 10 + 20 * 4 * 256 / 16
    sure, open_ = predicted(whole, 256), predicted(region, 256)
    assert open_[0] < true < open_[2]
    assert open_[2] / open_[0] > 1.5 * sure[2] / sure[0]
    alone = predicted([timed(64, 50, 10 + 1.5 * 10)], 256)
    assert open_[2] / open_[0] < alone[2] / alone[0]
