"""What the fit reads of trials beyond their seconds: samples spent, the shape of noise, kept stages, what is left out."""

import numpy as np
import pytest

from film import exact_seconds, exact_trial, make_project, make_shot, well_timed
from pemlo.core.cost.along import places
from pemlo.core.cost.draws import draw_frame
from pemlo.core.cost.fit import fit
from pemlo.core.cost.fit_input import fit_input
from pemlo.core.cost.frame_arrays import frames_of
from pemlo.core.cost.frame_model import samples_spent
from pemlo.core.cost.noise_shape import QUANTILES
from pemlo.core.project.settings import FrameSettings
from pemlo.core.project.trials import Trial

LEAST, MOST = 8, 512
SHAPE = np.sort(np.random.default_rng(3).normal(-1.2, 0.7, QUANTILES))  # log noise of one sample, our scale
SPECKS = 4.0


def spent(threshold, kappa):
    """Mean samples of a renderer whose scale is `kappa` times ours, walking up as it does; all by hand."""
    n = np.geomspace(LEAST, MOST, 4000)
    clean = kappa * np.exp(SHAPE)[:, None] * np.exp(-SPECKS / n) / np.sqrt(n) <= threshold
    return float(np.where(clean.any(axis=1), n[clean.argmax(axis=1)], MOST).mean())


def seen(samples):
    return tuple(SHAPE - SPECKS / samples)


def adaptive_trial(threshold, kappa, frame=50):
    mean = spent(threshold, kappa)
    settings = FrameSettings(samples=MOST, min_samples=LEAST, noise_threshold=threshold, resolution_percent=50)
    seconds = exact_seconds(FrameSettings(samples=max(1, round(mean)), resolution_percent=50))
    return Trial(shot="010", frame=frame, seconds=seconds, mean_samples=mean, **settings.frame_fields())


def predicted(project, threshold):
    known, shot = fit(fit_input(project)), project.shots[0]
    settings = FrameSettings(samples=MOST, min_samples=LEAST, noise_threshold=threshold, resolution_percent=50)
    place = float(places(np.array([50.0]), shot.first, shot.last)[0])
    frames = frames_of([settings], [(1920, 1080)], known.cost_factors, known.shots["010"].shape(place))
    return float(samples_spent(known.shots["010"].best[None], frames)[0][0])


@pytest.mark.parametrize("kappa", [1.0, 2.5])
def test_one_adaptive_trial_and_a_picture_predict_other_thresholds(kappa):
    shots = (make_shot("010", samples=MOST, min_samples=LEAST, noise_threshold=0.1),)
    pilots = tuple(exact_trial("010", 50, n, 50, noise_shape=seen(n)) for n in (16, 64))
    project = make_project(shots=shots, trials=(*pilots, adaptive_trial(0.1 * kappa, kappa)))
    for factor, within in ((0.4, 0.1), (1.6, 0.1), (2.5, 0.1), (6.0, 0.25), (1 / 6, 0.25)):
        threshold = 0.1 * kappa * factor
        assert predicted(project, threshold) == pytest.approx(spent(threshold, kappa), rel=within)


def test_a_measured_shape_tells_more_than_the_belief_in_a_log_normal():
    shots = (make_shot("010", samples=MOST, min_samples=LEAST, noise_threshold=0.1),)
    plain, calibrating = tuple(exact_trial("010", 50, n, 50) for n in (16, 64)), adaptive_trial(0.1, 1.0)
    told = tuple(trial.replace(noise_shape=seen(trial.samples)) for trial in plain)
    wanted = FrameSettings(samples=MOST, min_samples=LEAST, noise_threshold=0.03, resolution_percent=50)
    widths = []
    for trials in (plain, told):
        project = make_project(shots=shots, trials=(*trials, calibrating))
        low, middle, high = np.quantile(
            draw_frame(fit(fit_input(project)), project, "010", 50, wanted), [0.05, 0.5, 0.95]
        )
        widths.append(high / low)
    assert widths[1] < 0.9 * widths[0]
    true = exact_seconds(FrameSettings(samples=round(spent(0.03, 1.0)), resolution_percent=50))
    assert low < true < high


def test_the_seconds_of_a_trial_are_read_with_the_samples_that_it_spent():
    """An adaptive trial that says what it spent prices a sample as well as a fixed one does."""
    shots = (make_shot("010", samples=64),)
    fixed = exact_trial("010", 50, 16, 50)
    adaptive = adaptive_trial(0.02, 1.0)
    assert adaptive.mean_samples > 100
    project = make_project(shots=shots, trials=(fixed, adaptive))
    low, middle, high = np.quantile(
        draw_frame(fit(fit_input(project)), project, "010", 50, FrameSettings(samples=64, resolution_percent=50)),
        [0.05, 0.5, 0.95],
    )
    assert middle == pytest.approx(exact_seconds(FrameSettings(samples=64, resolution_percent=50)), rel=0.06)


def test_a_kept_stage_is_cheaper_and_its_share_is_learned():
    whole = [
        trial.replace(prepare_seconds=20.0, light_seconds=0.5, trace_seconds=trial.seconds - 20.5)
        for trial in well_timed()
    ]
    kept = whole[3].replace(keep=("prepare",), prepare_seconds=1.0, seconds=whole[3].seconds - 19.0)
    project = make_project(trials=(*whole, kept))
    wanted = FrameSettings(samples=64, keep=("prepare",))
    low, middle, high = np.quantile(draw_frame(fit(fit_input(project)), project, "010", 20, wanted), [0.05, 0.5, 0.95])
    assert middle == pytest.approx(exact_seconds(FrameSettings(samples=64)) - 19.0, rel=0.06)
    # Never tried, it is believed to be far cheaper, and not known.
    untried = make_project(trials=tuple(whole))
    wide = np.quantile(draw_frame(fit(fit_input(untried)), untried, "010", 20, wanted), [0.05, 0.95])
    assert wide[0] < middle < wide[1]
    assert np.log(wide[1] / wide[0]) > 1.3 * np.log(high / low)


def test_trials_that_are_left_out_say_nothing():
    trials = well_timed()
    wrong = exact_trial("010", 50, 256, factor=9.0, left_out="first run after start", noise_shape=seen(256))
    with_it, without = make_project(trials=(*trials, wrong)), make_project(trials=trials)
    wanted = FrameSettings(samples=128)
    assert np.array_equal(
        draw_frame(fit(fit_input(with_it)), with_it, "010", 50, wanted),
        draw_frame(fit(fit_input(without)), without, "010", 50, wanted),
    )
    alone = make_project(trials=(wrong,))
    assert not fit(fit_input(alone)).known
    assert fit(fit_input(with_it)).timed_trials == len(trials)
