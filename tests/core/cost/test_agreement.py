"""Trials that do not agree are named, and those that do are left in peace."""

import numpy as np
import pytest

from film import exact_seconds, exact_trial, make_project, make_shot, well_timed
from pemlo.core.cost.fit import fit
from pemlo.core.cost.fit_input import fit_input
from pemlo.core.cost.next_trial import advise
from pemlo.core.cost.repeats import repeat_belief
from pemlo.core.project.settings import FrameSettings
from pemlo.core.project.trials import FIRST_RUN, Trial
from pemlo.words.disagreements import disagreement_in_short, disagreement_words
from pemlo.words.doubts import doubts

SHOT = make_shot("010")


def found(trials):
    project = make_project(shots=(SHOT,), trials=tuple(trials))
    return project, fit(fit_input(project)).disagreements


def test_of_three_times_one_is_off_by_two_and_nothing_can_tell_which():
    good = [exact_trial("010", 50, n, 100) for n in (8, 32, 128)]
    for wrong in range(3):
        trials = [t.replace(seconds=t.seconds * (2.5 if n == wrong else 1)) for n, t in enumerate(good)]
        project, (one,) = found(trials)
        assert one.kind == "open"
        assert set(one.trials) == {0, 1, 2}
        assert one.factor > 1.4
        assert "cannot tell which" in disagreement_words(project, one)
        assert "which one is not known" in disagreement_in_short(project, one)
    assert found(good)[1] == ()


def test_two_families_of_times():
    good = [exact_trial("010", frame, n, 100) for frame in (1, 50, 100) for n in (16, 64)]
    trials = [t.replace(seconds=t.seconds * (4.0 if n % 2 else 1.0)) for n, t in enumerate(good[:3] * 2)]
    project, (one,) = found(trials)
    assert one.shot == "010"
    assert one.factor > 1.5
    assert "more" in disagreement_words(project, one)


def test_samples_and_frame_typed_in_each_other_s_place():
    def swapped(samples, frame):
        seconds = exact_seconds(FrameSettings(samples=samples), prepare=0.01, pixel=0.01)
        return Trial(shot="010", frame=samples, samples=frame, seconds=seconds)

    _, wrong = found([swapped(4, 50), swapped(16, 50), swapped(64, 50), swapped(5, 50)])
    assert wrong


def test_the_same_settings_with_times_a_factor_apart():
    trials = [*well_timed(), exact_trial("010", 34, 64, 50, 2.2)]
    project, (one,) = found(trials)
    assert (one.kind, set(one.trials)) == ("repeats", {6, 16})
    assert one.factor == pytest.approx(2.2)
    assert "Time it once more" in disagreement_words(project, one)
    advice = advise(fit(fit_input(project)), project)[0]
    assert advice.again
    assert (advice.frame, advice.settings.samples, advice.settings.resolution_percent) == (34, 64, 50)


def test_one_slip_among_many_is_doubted_and_no_more():
    good = well_timed(noise=0.03, seed=2)
    slip = good[5].replace(seconds=good[5].seconds * 3)
    project, wrong = found([*good[:5], slip, *good[6:]])
    assert wrong == ()
    assert len(doubts(project, fit(fit_input(project)))) == 1


def test_a_slow_first_frame_is_offered_to_be_left_out():
    good = well_timed(noise=0.02, seed=4)
    trials = (good[0].replace(seconds=3 * good[0].seconds), *good[1:])
    project = make_project(shots=(SHOT,), trials=trials)
    (said,) = doubts(project, fit(fit_input(project)))
    assert "first frame" in str(said)
    assert "leave it out" in str(said)
    left_out = (trials[0].replace(left_out=FIRST_RUN), *trials[1:])
    assert doubts(make_project(shots=(SHOT,), trials=left_out), fit(fit_input(make_project(trials=left_out)))) == ()


def test_a_machine_that_does_other_things_is_learned_from_repeats():
    random = np.random.default_rng(2)
    trials = [exact_trial("010", 50, n, 100, float(np.exp(0.25 * random.standard_normal()))) for n in [16, 64] * 5]
    project, wrong = found(trials)
    assert wrong == ()
    assert 0.12 < fit(fit_input(project)).spread.repeat_sd < 0.4
    steady = make_project(trials=tuple(exact_trial("010", 50, n, 100, 1 + 0.01 * (n % 3)) for n in [16, 64] * 5))
    assert fit(fit_input(steady)).spread.repeat_sd < 0.05
    pair = make_project(trials=(exact_trial("010", 50, 16, 100), exact_trial("010", 50, 16, 100, 1.4)))
    assert repeat_belief(fit_input(pair)).sd == pytest.approx(0.05), "of two times alone, one may be a slip"
