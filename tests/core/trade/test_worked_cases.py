"""Cases as people report them (common practice, no source): entered as trials, and what is said of them."""

import numpy as np
import pytest

from film import make_project, make_shot
from pemlo.core.cost.draws import draw_film
from pemlo.core.cost.fit import fit
from pemlo.core.cost.fit_input import fit_input
from pemlo.core.cost.priors import FIRST_DENOISER
from pemlo.core.project.edits import adopt
from pemlo.core.project.settings import ShotSettings
from pemlo.core.project.trials import Trial
from pemlo.core.trade.waterfall import film_waterfall, shot_waterfall
from pemlo.core.units import parse_duration
from pemlo.words.slow_denoiser import slow_denoiser
from pemlo.words.two_ways import saving


def known_of(project):
    known = fit(fit_input(project))
    return known, draw_film(known, project)


def test_a_coarser_threshold_with_denoising_saves_87_percent_and_35_hours():
    """32 min 08 s at threshold 0.005 against 4 min 02 s at 0.075 with denoising, 75 frames."""
    fine = ShotSettings(samples=1024, min_samples=16, noise_threshold=0.005)
    coarse = fine.replace(noise_threshold=0.075, denoise="frame")
    trials = tuple(
        Trial(shot="010", frame=38, seconds=parse_duration(took), **_frame(one))
        for one, took in ((fine, "32:08"), (coarse, "4:02"))
    )
    shot = make_shot("010", 75).replace(asked=fine)
    project = adopt(make_project((shot,), trials), {"010": coarse})
    known, draws = known_of(project)
    found = film_waterfall([shot_waterfall(project, known, draws, one) for one in project.shots])
    saved = found.asked.middle - found.plan.middle
    # Predicted of the shot's frames from a single pair of trials.
    assert saved == pytest.approx(35.1, rel=0.03)
    assert saved / found.asked.middle == pytest.approx(0.874, abs=0.025)
    # And as it was timed.
    timed = saving(trials[0].seconds, trials[1].seconds, 75)
    assert timed.share == pytest.approx(0.874, abs=0.0005)
    assert timed.hours == pytest.approx(35.1, abs=0.05)
    assert str(timed) == "87 % less a frame: 35 h 08 m less over 75 frames"
    assert str(saving(60.0, 90.0, 60)) == "50 % more a frame: 30 m 00 s more over 60 frames"
    assert [step.lever for step in found.steps] == ["samples", "denoise"]


def test_a_denoiser_slower_than_the_render_is_advised_against():
    """A neighbour-frame denoiser takes 20 minutes beside a render of 8."""
    plain = ShotSettings(samples=128)
    soft = plain.replace(denoise="neighbours 18 2")
    few = plain.replace(samples=32)
    trials = (
        Trial(shot="010", frame=20, seconds=480.0, **_frame(plain)),
        Trial(shot="010", frame=20, seconds=150.0, **_frame(few)),
        Trial(shot="010", frame=20, seconds=1680.0, denoise_seconds=1200.0, **_frame(soft)),
    )
    project = make_project((make_shot("010", 40).replace(asked=soft),), trials)
    known, draws = known_of(project)
    found = slow_denoiser(project, known, draws, project.shots[0])
    assert found.seconds == pytest.approx(1200, rel=0.1)
    assert found.rest == pytest.approx(480, rel=0.1)
    # 40 s and 3.44 s a sample: 28 minutes buy 477.
    assert found.equal_samples == pytest.approx(477, rel=0.12)
    assert "slower than what it cleans" in str(found)
    assert "in place of 128" in str(found)


def test_a_quick_denoiser_and_none_are_not_spoken_against():
    plain = ShotSettings(samples=128)
    soft = plain.replace(denoise="frame")
    trials = (
        Trial(shot="010", frame=20, seconds=480.0, **_frame(plain)),
        Trial(shot="010", frame=20, seconds=500.0, denoise_seconds=20.0, **_frame(soft)),
    )
    project = make_project((make_shot("010", 40),), trials)
    known, draws = known_of(project)
    shot = project.shots[0]
    assert slow_denoiser(project, known, draws, shot) is None
    assert slow_denoiser(project, known, draws, shot, soft) is None


def test_a_denoiser_that_looks_farther_is_predicted_from_nearer_ones():
    """Radius 12 takes 5 to 6 minutes, radius 18 20 minutes (common practice, no source): by the power of the two."""
    plain = ShotSettings(samples=128)

    def trial(seconds, **changes):
        settings = plain.replace(**changes)
        return Trial(shot="010", frame=20, seconds=480.0 + seconds, denoise_seconds=seconds or None, **_frame(settings))

    def predicted(*trials):
        shot = make_shot("010", 40).replace(plan=plain.replace(denoise="neighbours 24 1"))
        project = make_project((shot,), (trial(0.0), *trials))
        known, draws = known_of(project)
        theta = draws["010"].theta[:, FIRST_DENOISER + known.denoisers.index("neighbours 24 1")]
        mpx = 1920 * 1080 / 1e6
        return np.quantile(mpx * np.exp(theta), [0.05, 0.5, 0.95])

    near = trial(330.0, denoise="neighbours 12 1")
    one = predicted(near)
    # By pixels that are looked at alone: (49 / 25)², and how steep it is, is not known.
    assert one[1] == pytest.approx(330 * (49 / 25) ** 2, rel=0.2)
    assert one[2] / one[0] > 2
    two = predicted(near, trial(1200.0, denoise="neighbours 18 1"))
    power = np.log(1200 / 330) / np.log((37 / 25) ** 2)
    assert two[1] == pytest.approx(1200 * (49 / 37) ** (2 * power), rel=0.25)
    assert two[2] / two[0] < one[2] / one[0]
    assert two[0] < 1200 * (49 / 37) ** (2 * power) < two[2]


def _frame(settings):
    fields = settings.frame_fields()
    return {name: fields[name] for name in fields if name in Trial.model_fields}
