"""What a person measured counts: plain cases, with figures as people have them and the answer by hand.

Common practice, no source, where nothing else is said; the answers are worked out beside each case.
"""

import numpy as np
import pytest

from pemlo.core.film.film import Film
from pemlo.core.project.delivery import Delivery
from pemlo.core.project.edits import set_delivery, set_trial
from pemlo.core.project.machines import Machine
from pemlo.core.project.project import Project
from pemlo.core.project.settings import ShotSettings
from pemlo.core.project.shots import Shot
from pemlo.core.project.trials import Trial
from pemlo.words.disagreements import answers
from pemlo.words.doubts import doubts
from pemlo.words.unknowns import unknowns
from pemlo.words.verdicts import verdict

WEEK = {"start": "2031-04-21T10:00Z", "deadline": "2031-04-28T10:00Z"}  # 168 hours
ONE = (Machine(name="one"),)


def shot(frames, name="010", **asked):
    return Shot(name=name, first=1, last=frames, asked=ShotSettings(**{"samples": 128, **asked}))


def film(shots, *times, machines=ONE, **delivery):
    """A film with trials: each a dict, of shot 010 and its frame 1 as asked unless it says otherwise."""
    shots = (shots,) if isinstance(shots, Shot) else tuple(shots)
    asked = {one.name: one.asked.frame_fields() for one in shots}
    trials = tuple(Trial(**{**asked[t.get("shot", "010")], "shot": "010", "frame": 1, **t}) for t in times)
    return Film(
        Project(
            title="Test film", start=WEEK["start"], shots=shots, machines=machines, trials=trials,
            delivery=Delivery(timezone="UTC", deadline=WEEK["deadline"], **delivery),
        )
    )  # fmt: skip


def of(film, name="010"):
    return next(one for one in film.forecast.shots if one.shot == name)


def within(value, wanted, share):
    return wanted * (1 - share) <= value <= wanted * (1 + share)


# Sizes

HALF_ONE_AND_TWO = tuple({"resolution_percent": q, "seconds": s} for q, s in ((50, 6), (100, 20), (200, 76)))


@pytest.mark.parametrize(
    ("width", "height", "seconds"),
    [
        (1920, 1080, 20.0),
        (3840, 2160, 76.0),  # its own trial at 200 %: 76 s x 150 frames are 3.2 h
        (7680, 4320, 4 * 76.0),
        (900, 900, 20.0 * 900 * 900 / (1920 * 1080)),  # in proportion to the pixels
    ],
)
def test_another_size_costs_what_its_pixels_cost(width, height, seconds):
    typed = film(shot(150, samples=64), *HALF_ONE_AND_TWO)
    changed = typed.with_project(set_delivery(typed.project, width=width, height=height))
    assert within(of(changed).seconds.middle, seconds, 0.15)
    assert within(of(changed).hours.middle, seconds * 150 / 3600, 0.15)
    words = unknowns(changed.project, changed.project.shots[0])
    named = [word for word in words if "follows by pixels from 960×540, 1920×1080, 3840×2160" in word]
    assert bool(named) == ((width, height) not in ((1920, 1080), (3840, 2160)))


# Limits


def test_frames_that_ran_into_a_limit_take_it_and_what_they_took_beyond_it():
    """250 frames at 62 to 63 s: 4.3 to 4.4 h."""
    capped = film(shot(250, most_seconds=60), {"seconds": 62}, {"seconds": 63, "frame": 100})
    assert 62 <= of(capped).seconds.middle <= 63
    assert of(capped).seconds.low > 60
    assert of(capped).seconds.high < 65
    assert within(of(capped).hours.middle, 4.34, 0.02)
    assert "not known" not in verdict(capped.project, capped.forecast)


def test_a_long_frame_without_its_limit_says_nothing_of_frames_under_it():
    """14 min without, 20 s preparing; three of 62 to 63 s under a limit of 60: 250 frames take 4.3 h, not 5.6."""
    both = film(
        shot(250, samples=512, most_seconds=60),
        {"seconds": 840, "prepare_seconds": 20, "most_seconds": None},
        *({"seconds": s, "frame": frame} for frame, s in ((1, 62), (100, 63), (200, 62))),
    )
    assert 62 <= of(both).seconds.middle <= 64
    assert within(of(both).hours.middle, 4.33, 0.03)
    assert not both.forecast.disagreements


def test_a_limit_is_the_least_that_a_frame_takes_without_it():
    times = ({"seconds": s, "most_seconds": 60, "frame": frame} for frame, s in ((1, 62), (100, 63), (200, 62)))
    free = film(shot(250, samples=512), *times)
    assert of(free).seconds.low > 60
    assert of(free).seconds.high > 120, "how much longer is open"
    words = " ".join(unknowns(free.project, free.project.shots[0]))
    assert "ran into a limit of 1 m 00 s" in words


def test_a_cheap_test_is_held_up_by_the_limit_that_the_full_frame_ran_into():
    """64 samples at a quarter of the size in 1 s may be all preparing, or 128 s in full: over 60, says the limit."""
    alone = film(shot(250, samples=512), {"samples": 64, "resolution_percent": 25, "seconds": 1})
    both = film(
        shot(250, samples=512),
        {"samples": 64, "resolution_percent": 25, "seconds": 1},
        {"seconds": 62, "most_seconds": 60},
    )
    assert of(alone).seconds.low < 10
    assert of(both).seconds.low > 50
    assert within(of(both).seconds.middle, 110, 0.3)


# The time as asked

SMALL = tuple({"samples": n, "resolution_percent": 50, "seconds": s} for n, s in ((32, 4), (64, 7.5), (128, 15)))


def test_the_time_as_asked_outweighs_what_smaller_tests_lead_to():
    """32, 64, 128 samples at half size lead to 240 s; the frame as asked took 10:00: 100 of them are 16.7 h."""
    asked = film(shot(100, samples=512), *SMALL, {"seconds": 600})
    found = of(asked)
    assert within(found.seconds.middle, 600, 0.1)
    assert found.seconds.low < 300, "it may still be a slip"
    assert found.seconds.high > 600
    forecast = asked.forecast
    assert forecast.kind == "disagree", "no sure verdict"
    assert forecast.probability is None
    words = verdict(asked.project, forecast)
    for part in ("10 m 00 s; the tests say 3 m", "parts of the frame", "Another machine", "left on"):
        assert part in words
    assert not any("hardly counts" in str(one) for one in doubts(asked.project, asked.fit))


def test_each_answer_settles_it():
    asked = film(shot(100, samples=512), *SMALL, {"seconds": 600})
    parts, machine, left_on = answers(asked.project, asked.forecast.disagreements[0])

    def after(answer):
        project = asked.project
        for index in answer.trials:
            project = set_trial(project, index, left_out=answer.why)
        return asked.with_project(project)

    for answer in (parts, machine):
        assert answer.trials == (0, 1, 2)
        assert within(of(after(answer)).seconds.middle, 600, 0.03)
        assert after(answer).forecast.kind == "makes it"
    assert left_on.trials == (3,)
    assert within(of(after(left_on)).seconds.middle, 240, 0.1)
    assert after(left_on).forecast.kind == "makes it"


def test_settings_near_the_time_as_asked_follow_it_and_far_ones_do_not():
    asked = film(shot(100, samples=512), *SMALL, {"seconds": 600})

    def seconds(**fields):
        project = asked.project
        planned = project.shots[0].replace(plan=project.shots[0].asked.replace(**fields))
        return of(asked.with_project(project.replace(shots=(planned,)))).seconds.middle

    assert within(seconds(samples=500), 590, 0.1), "no bargain a step beside it"
    assert within(seconds(samples=64, resolution_percent=50), 7.5, 0.15)


# Ways of rendering


def test_another_way_of_rendering_widens_nothing():
    """30 s and 10 s of one frame with another engine: each is known as well as alone, 100 frames 0.83 h."""
    alone = film(shot(100), {"seconds": 30})
    both = film(shot(100), {"seconds": 30}, {"seconds": 10, "way": "quick engine"})
    assert not both.forecast.disagreements
    assert within(of(both).hours.middle, 0.83, 0.03)
    widths = [np.log(of(one).seconds.high / of(one).seconds.low) for one in (alone, both)]
    assert widths[1] < 1.15 * widths[0]


@pytest.mark.parametrize("seconds", [0.9, 900])
def test_another_way_may_cost_tens_of_times_as_much_or_as_little(seconds):
    other = film(shot(100, way="other"), {"seconds": 30, "way": ""}, {"seconds": seconds})
    assert not other.forecast.disagreements
    assert within(of(other).seconds.middle, seconds, 0.05)


def test_other_proportions_of_another_way_contradict_nothing():
    """A way that hardly follows the samples: 2.9 s at 64, 3 s at 128, 20 s at 512."""
    times = ({"samples": n, "seconds": s, "way": "quick"} for n, s in ((64, 2.9), (128, 3.0), (512, 20.0)))
    both = film(shot(100), {"seconds": 30}, {"samples": 64, "seconds": 17}, *times)
    assert not both.forecast.disagreements
    assert within(of(both).seconds.middle, 30, 0.08)
    for samples, seconds in ((64, 2.9), (128, 3.0), (512, 20.0)):
        project = both.project
        planned = project.shots[0].replace(plan=ShotSettings(samples=samples, way="quick"))
        assert within(of(both.with_project(project.replace(shots=(planned,)))).seconds.middle, seconds, 0.25)


def test_only_repeats_of_one_way_contradict():
    twice = film(shot(100), {"seconds": 30}, {"seconds": 3, "way": "quick"}, {"seconds": 9, "way": "quick"})
    (found,) = twice.forecast.disagreements
    assert (found.kind, set(found.trials)) == ("repeats", {1, 2})


def test_a_way_in_numbers_lies_between_its_neighbours():
    """Depth 10 takes 78 s and 80 takes 140: depth 20 lies between, by logarithms at 95 s."""
    depth = film(
        shot(100, way="depth", way_value=20), {"seconds": 78, "way_value": 10}, {"seconds": 140, "way_value": 80}
    )
    assert not depth.forecast.disagreements
    assert within(of(depth).seconds.middle, 95, 0.06)


def test_what_a_way_saves_in_one_shot_it_saves_in_the_next():
    """30 s against 3 s in 010; 020 took 5 s the quick way: 50 s as asked."""
    shots = (shot(100), shot(100, "020"))
    two = film(shots, {"seconds": 30}, {"seconds": 3, "way": "q"}, {"shot": "020", "seconds": 5, "way": "q"})
    assert within(of(two, "020").seconds.middle, 50, 0.15)


def test_a_switch_with_a_large_effect_is_no_slip():
    both = film(shot(100), {"seconds": 30}, {"seconds": 10, "switches": ("plain shadows",)})
    assert not both.forecast.disagreements
    assert within(of(both).hours.middle, 0.83, 0.05)
    assert of(both).hours.low > 0.5


# Frames at once


def test_a_frame_beside_others_is_held_against_one_alone_after_every_correction():
    """6 s alone, 9 s beside three others: 1 + 0.167 x 3 times as long, so both say the same."""
    machines = (Machine(name="one", frames_at_once=4, contention=0.167),)
    both = film(shot(100), {"seconds": 6}, {"seconds": 9, "frames_at_once": 4, "machine": "one"}, machines=machines)
    assert not both.forecast.disagreements
    assert within(of(both).seconds.middle, 6, 0.03)


# One frame


def test_one_frame_timed_is_one_frame():
    """5:00 x 90 frames are 7.5 h, and 200 such shots 1 500 h."""
    shots = [shot(90, f"{number:03d}") for number in range(10, 210)]
    many = film(shots, {"seconds": 300, "frame": 45})
    assert within(of(many).hours.middle, 7.5, 0.02)
    assert within(many.forecast.hours.middle, 1500, 0.05)
    assert many.forecast.hours.low < 1000, "that the others are like it is not known"
    assert many.forecast.hours.high > 2500


def test_the_only_view_of_a_shot_is_not_drawn_to_other_shots():
    """46 s beside shots of 20 and 9: it is 46, not 30."""
    shots = (shot(100), shot(100, "020"), shot(100, "030"))
    times = ({"seconds": 46, "frame": 50}, {"shot": "020", "seconds": 20}, {"shot": "030", "seconds": 9, "frame": 100})
    three = film(shots, *times)
    for name, seconds in (("010", 46), ("020", 20), ("030", 9)):
        assert within(of(three, name).seconds.middle, seconds, 0.05)


# Kept stages


@pytest.mark.parametrize(
    ("kept", "stages", "seconds"),
    [((), (4.3, 2.6), 7.7), (("prepare",), (0, 2.6), 3.4), (("prepare", "light"), (0, 0), 0.8)],
)
def test_a_kept_stage_that_took_no_time_is_no_contradiction(kept, stages, seconds):
    """Stages kept: nothing, geometry, geometry and light: 7.7, 3.4 and 0.8 s a frame."""
    whole = {"seconds": 7.7, "prepare_seconds": 4.3, "light_seconds": 2.6, "keep": ()}
    other = {"seconds": seconds, "prepare_seconds": stages[0], "light_seconds": stages[1], "keep": kept}
    both = film(shot(750, keep=kept), *([whole, other] if kept else [whole]))
    assert not both.forecast.disagreements
    assert within(of(both).seconds.middle, seconds, 0.06)
