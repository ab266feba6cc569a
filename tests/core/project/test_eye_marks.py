"""What passes by eye: marks in a partial order, against a search that knows nothing of how the order is computed."""

import itertools

import pytest
from hypothesis import given
from hypothesis import strategies as st

from film import make_project, make_shot
from pemlo.core.project.eye_marks import (
    EyeMark,
    at_least_as_good,
    contradiction_sentence,
    contradictions,
    deciding,
    eye_marks_of,
    next_look,
    passing_words,
    verdict,
)
from pemlo.core.project.settings import ShotSettings
from pemlo.core.project.shots import SettingsMark
from pemlo.core.project.trials import BAD, GOOD, Trial

# Every lever as a ladder of few steps, worse first: so the order can be written down by hand.
SAMPLES, PERCENTS, STEPS, DENOISERS = (16, 32, 64), (50.0, 75.0, 100.0), (3, 2, 1), ("none", "frame")
PLACES = tuple(itertools.product(range(3), range(3), range(3), range(2)))


def made(place):
    samples, percent, step, denoiser = place
    return ShotSettings(
        samples=SAMPLES[samples], resolution_percent=PERCENTS[percent], frame_step=STEPS[step],
        denoise=DENOISERS[denoiser],
    )  # fmt: skip


def above(one, other):
    return one[3] == other[3] and all(a >= b for a, b in zip(one[:3], other[:3], strict=True))


places = st.sampled_from(PLACES)


@given(st.lists(st.tuples(places, st.booleans()), max_size=6))
def test_what_marks_say_of_every_setting_is_what_a_search_through_all_of_them_says(marked):
    marks = [EyeMark(str(place), made(place), passed) for place, passed in marked]
    # Spread each mark step by step over its neighbours until nothing changes.
    passing, refused = ({place for place, passed in marked if passed is wanted} for wanted in (True, False))
    for spread, direction in ((passing, 1), (refused, -1)):
        for _ in range(9):  # farther apart no two places are
            near = {
                (*place[:lever], place[lever] + direction, *place[lever + 1 :])
                for place in spread
                for lever in range(3)
                if 0 <= place[lever] + direction <= 2
            }
            if near <= spread:
                break
            spread.update(near)
    for place in PLACES:
        expected = "does not pass" if place in refused else "passes" if place in passing else "look first"
        assert verdict(made(place), marks) == expected
    wrong = {(a, b) for a, good in marked if good for b, fine in marked if not fine and above(b, a)}
    assert {(a.name, b.name) for a, b in contradictions(marks)} == {(str(a), str(b)) for a, b in wrong}


@given(places, places, places)
def test_it_is_an_order(one, other, third):
    a, b, c = made(one), made(other), made(third)
    assert at_least_as_good(a, a)
    assert at_least_as_good(a, b) == above(one, other)
    if at_least_as_good(a, b) and at_least_as_good(b, a):
        assert a == b
    if at_least_as_good(a, b) and at_least_as_good(b, c):
        assert at_least_as_good(a, c)


fixed = st.builds(ShotSettings, samples=st.integers(1, 64))
adaptive = st.builds(
    lambda least, more, threshold: ShotSettings(
        samples=least + more, min_samples=least, noise_threshold=threshold
    ),
    st.integers(1, 32), st.integers(0, 64), st.sampled_from([0.02, 0.05, 0.1]),
)  # fmt: skip
sampled = st.one_of(fixed, adaptive)


@given(sampled, sampled, st.lists(st.floats(1e-3, 10), min_size=1, max_size=5))
def test_better_sampling_gives_every_pixel_at_least_as_many_samples(one, other, noises):
    def spent(settings, noise):
        if settings.noise_threshold is None:
            return settings.samples
        return min(max((noise / settings.noise_threshold) ** 2, settings.least_samples), settings.samples)

    if at_least_as_good(one, other):
        assert all(spent(one, noise) >= spent(other, noise) for noise in noises)


@pytest.mark.parametrize(
    ("better", "worse"),
    [
        ({"samples": 64}, {"samples": 64, "most_seconds": 60.0}),
        ({"samples": 64, "most_seconds": 90.0}, {"samples": 64, "most_seconds": 60.0}),
        ({"samples": 64, "split": (2, 1, 1)}, {"samples": 64}),
        ({"samples": 64}, {"samples": 64, "frame_step": 2, "between": "blend"}),
    ],
)
def test_each_lever_that_shows_counts(better, worse):
    a, b = ShotSettings(**better), ShotSettings(**worse)
    assert at_least_as_good(a, b)
    assert not at_least_as_good(b, a)


@pytest.mark.parametrize(
    ("one", "other"),
    [
        ({"denoise": "frame"}, {}),
        ({"switches": ("motion blur",)}, {}),
        ({"frame_step": 2, "between": "blend"}, {"frame_step": 2}),
    ],
)
def test_other_pictures_are_neither_better_nor_worse(one, other):
    a, b = ShotSettings(samples=64, **one), ShotSettings(samples=64, **other)
    assert not at_least_as_good(a, b)
    assert not at_least_as_good(b, a)


def test_what_does_not_show_does_not_count():
    a, b = ShotSettings(samples=64, keep=("light",), saves=3), ShotSettings(samples=64)
    assert at_least_as_good(a, b)
    assert at_least_as_good(b, a)


def test_marks_of_a_shot_are_its_own_and_those_for_all_of_its_look():
    marked = Trial(
        shot="020", frame=3, samples=32, seconds=5, mark=GOOD, mark_for="look", note="shadow edge soft, fine"
    )
    measured = Trial(shot="010", frame=1, samples=8, seconds=2, mark=BAD, error=3.0)
    whole = SettingsMark(settings=ShotSettings(samples=64, frame_step=2), mark=BAD)
    project = make_project(
        shots=(
            make_shot("010").replace(look="dusk", marks=(whole,)),
            make_shot("020").replace(look="dusk"),
            make_shot("030"),
        ),
        trials=(marked, measured, marked.replace(shot="030", mark_for="shot")),
    )
    found = eye_marks_of(project, "010")
    assert [(mark.passed, mark.settings.samples, mark.frame) for mark in found] == [(False, 64, None), (True, 32, 3)]
    assert found[1].note == "shadow edge soft, fine"
    assert [mark.settings.samples for mark in eye_marks_of(project, "030")] == [32]


def mark(samples, passed, frame=7, **more):
    return EyeMark(f"{samples}", ShotSettings(samples=samples, **more), passed, frame=frame)


@pytest.mark.parametrize(
    ("marks", "samples"),
    [
        ([mark(128, True), mark(32, False)], 64),
        ([mark(128, True), mark(512, True), mark(32, False), mark(8, False)], 64),
        ([mark(128, True)], 64),
        ([mark(32, False)], 64),
        ([mark(33, True), mark(32, False)], None),
        ([mark(128, True, denoise="frame"), mark(32, False)], None),
        ([], None),
    ],
)
def test_the_picture_that_would_decide_is_named_with_its_frame(marks, samples):
    found = next_look(marks)
    assert (found and found.settings.samples) == samples
    if found is not None:
        assert found.words == f"frame 7, {samples} samples"
        assert verdict(found.settings, marks) == "look first"


def test_what_passes_is_said_by_the_marks_that_say_most():
    words = passing_words([mark(128, True), mark(512, True), mark(32, False), mark(8, False)])
    assert words == "By eye: 128 samples and better passes; 32 samples and worse does not."


def test_contradicting_marks_are_named():
    words = contradiction_sentence(contradictions([mark(32, True), mark(128, False)]))
    assert "“32” was marked good enough" in words
    assert "“128”" in words
    assert contradiction_sentence(()) == ""


@given(st.lists(st.tuples(places, st.booleans()), max_size=12))
def test_the_marks_that_decide_say_the_same_of_every_setting(marked):
    marks = [EyeMark(str(number), made(place), passed) for number, (place, passed) in enumerate(marked)]
    fewer = deciding(marks)
    assert all(verdict(made(place), fewer) == verdict(made(place), marks) for place in PLACES)
    assert bool(contradictions(fewer)) == bool(contradictions(marks))


def test_twenty_thousand_marks_of_a_few_settings_are_a_few():
    marks = [mark(2 ** (k % 9), k % 9 > 4) for k in range(20_000)]
    assert [one.settings.samples for one in deciding(marks)] == [16, 32]
