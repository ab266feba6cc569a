"""Two ways side by side: shares and hours against hand calculation, words that can be copied."""

import numpy as np
import pytest

from film import exact_seconds, exact_trial, make_project, make_shot, well_timed
from pemlo.core.cost.draws import draw_film
from pemlo.core.cost.fit import fit
from pemlo.core.cost.fit_input import fit_input
from pemlo.core.forecast.verdict import forecast
from pemlo.core.interval import Interval
from pemlo.core.project.settings import FrameSettings, ShotSettings
from pemlo.core.project.trials import GOOD, Trial
from pemlo.core.trade.two_ways import TwoWays, Way, two_ways
from pemlo.words.two_ways import as_text, rows, said_of_times, saving_sentence, timed_sentence

ALL_DRAWS = True


@pytest.fixture(scope="module")
def film():
    passed = exact_trial("010", 50, 64, mark=GOOD)
    project = make_project(
        shots=(make_shot("010", 75), make_shot("020", 30)), trials=(*well_timed(frames=(1, 38, 75)), passed)
    )
    known = fit(fit_input(project))
    return project, (known, draw_film(known, project))


def poured_by(known):
    return lambda film: forecast(film, *known)


def compared(film, first, second, shot="010"):
    project, known = film
    return two_ways(
        project, known, {}, shot, Way("one", {"010": first}), Way("other", {"010": second}), poured_by(known)
    )


def test_the_practitioners_example():
    # Common practice, no source: 32 min 08 s against 4 min 02 s a frame, 75 frames.
    slow, quick = (Trial(shot="010", frame=1, samples=1, seconds=seconds) for seconds in (32 * 60 + 8, 4 * 60 + 2))
    assert timed_sentence(slow, quick, 75) == (
        "32 m 08 s against 4 m 02 s over 75 frames: 87 % and 35.1 machine-hours saved."
    )
    assert timed_sentence(quick, slow, 75).endswith("8 times as long, 35.1 machine-hours more.")


def test_shares_and_hours_are_those_of_hand_calculation(film):
    one, other = ShotSettings(samples=256), ShotSettings(samples=64)
    found = compared(film, one, other)
    slow, quick = (exact_seconds(FrameSettings(samples=samples)) for samples in (256, 64))
    assert found.frames == 75
    assert found.saved_share.middle == pytest.approx(1 - quick / slow, rel=0.03)
    assert found.saved_hours.middle == pytest.approx(75 * (slow - quick) / 3600, rel=0.03)
    assert found.saved_hours.low <= found.saved_hours.middle <= found.saved_hours.high
    assert found.first.frame_seconds.middle == pytest.approx(slow, rel=0.03)
    # The film has a shot more, which is the same in both.
    assert found.first.film_hours.middle - found.second.film_hours.middle == pytest.approx(
        found.saved_hours.middle, rel=0.05
    )
    assert found.second.by_eye == "passes"
    assert found.first.by_eye == "passes"
    assert saving_sentence(found).endswith("m of machine time saved over 75 frames.")


def test_what_both_have_in_common_cancels(film):
    same = ShotSettings(samples=128)
    found = compared(film, same, same)
    assert (found.saved_hours.low, found.saved_hours.high) == (0, 0)
    assert saving_sentence(found) == "About the same hours over 75 frames."
    # An interval of a saving is narrower than those of two separate hours would make it.
    apart = compared(film, ShotSettings(samples=256), ShotSettings(samples=128))
    width = apart.saved_hours.high - apart.saved_hours.low
    both = np.hypot(apart.first.hours.high - apart.first.hours.low, apart.second.hours.high - apart.second.hours.low)
    assert width < both


def test_what_takes_more_is_said_to(film):
    found = compared(film, ShotSettings(samples=64), ShotSettings(samples=256))
    assert found.saved_share.middle < 0
    assert "m of machine time more over 75 frames" in saving_sentence(found)


def test_the_card_says_what_is_not_known(film):
    project, _ = film
    found = compared(film, ShotSettings(samples=256), ShotSettings(samples=32))
    table = {name: both for name, *both in rows(project, found)}
    assert table["error"] == ["passes, by eye", "look first, by eye"]
    assert table["disk"][0] == "not known"
    text = as_text(project, found, "by the stopwatch")
    assert text.startswith("Shot 010: one against other\n")
    timed, modelled = text.splitlines()[-2:]
    assert timed == "As timed: by the stopwatch", "what was measured is said first"
    assert modelled == saving_sentence(found)


def test_a_frame_that_was_timed_both_ways_is_said_first_and_never_about_the_same():
    """276 s in place of 300: 8 %, and over 100 frames 24 s x 100 = 0.67 h."""
    asked = ShotSettings(samples=256)
    other = asked.replace(way="quick")
    times = ((1, 300, ""), (1, 276, "quick"), (50, 410, ""), (100, 200, "quick"))
    trials = tuple(
        Trial(shot="010", frame=frame, seconds=seconds, **{**asked.frame_fields(), "way": way})
        for frame, seconds, way in times
    )
    project = make_project(shots=(make_shot("010", 100),), trials=trials)
    known = fit(fit_input(project))
    both = known, draw_film(known, project)
    found = two_ways(project, both, {}, "010", Way("asked", {"010": asked}), Way("q", {"010": other}), poured_by(both))
    assert said_of_times(found) == "5 m 00 s against 4 m 36 s over 100 frames: 8 % and 40 m 00 s of machine time saved."
    lines = as_text(project, found).splitlines()
    assert lines[-2].startswith("As timed: 5 m 00 s against 4 m 36 s")
    assert "About the same" not in lines[-1]
    assert "saved over 100 frames" in lines[-1]
    assert found.saved_hours.middle == pytest.approx(0.667, rel=0.5)
    apart = two_ways(
        project.replace(trials=trials[2:]), both, {}, "010",
        Way("asked", {"010": asked}), Way("q", {"010": other}), poured_by(both),
    )  # fmt: skip
    assert apart.timed is None, "frame 50 one way and frame 100 the other is no pair"


def test_what_may_be_nothing_says_so_with_its_hours():
    found = TwoWays("010", 100, *[None] * 2, Interval(-0.1, 0.12, 0.3), Interval(-0.2, 0.4, 1.1))
    assert saving_sentence(found) == "12 % and 0.4 (-0.2–1.1) machine-hours saved over 100 frames; it may be none."


def test_the_film_as_a_whole(film):
    project, known = film
    halved = {shot.name: shot.asked.replace(frame_step=2) for shot in project.shots}
    found = two_ways(project, known, {}, "", Way("as asked", {}), Way("every second frame", halved), poured_by(known))
    assert found.frames == 105
    assert found.saved_share.middle == pytest.approx(0.5, abs=0.02)
    assert found.first.settings is None
    assert "error" not in {name for name, *_ in rows(project, found)}


def test_far_more_is_said_in_times(film):
    """By hand: 16 s against 352 s is 22 times as long; 336 s more over 75 frames are 7 h."""
    one, other = (Trial(shot="010", frame=1, samples=1, seconds=seconds) for seconds in (16.0, 352.0))
    assert timed_sentence(one, other, 75) == (
        "16.0 s against 5 m 52 s over 75 frames: 22 times as long, 7 machine-hours more."
    )
    assert "87 % and" in timed_sentence(
        Trial(shot="010", frame=1, samples=1, seconds=1928.0), Trial(shot="010", frame=1, samples=1, seconds=242.0), 75
    )
