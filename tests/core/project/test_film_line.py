"""A film in one line, as people say it; what is not understood is said back."""

import time
from datetime import UTC, datetime, timedelta
from zoneinfo import ZoneInfo

import pytest
from hypothesis import given
from hypothesis import strategies as st

from film import make_project
from pemlo.core.errors import InputError
from pemlo.core.project.film_line import EXAMPLE, film_of, read_film_line, understood

MONDAY = datetime(2031, 4, 21, 10, tzinfo=UTC)


def read(text, now=MONDAY, timezone="UTC"):
    return read_film_line(text, now, timezone)


def due(text, **more):
    return f"{read(f'100 frames, {text}', **more).deadline:%a %d %b %H:%M}"


@pytest.mark.parametrize(
    ("text", "frames"),
    [
        (EXAMPLE, (100,) * 12),
        ("250 frames", (250,)),
        ("3 shots of 100, 80 and 60 frames", (100, 80, 60)),
        ("12 shots of 4 seconds, 25 fps", (100,) * 12),
        ("429 frames at 30 fps in 12 shots", (36,) * 9 + (35,) * 3),
        ("a 14 s film, 24 fps", (336,)),
        ("10 shots x 120 frames", (120,) * 10),
        ("frames 1001–1100", (100,)),
    ],
)
def test_how_many_frames_of_which_shots(text, frames):
    assert read(text).frames == frames
    assert read(text).left_over == ""


@pytest.mark.parametrize(
    ("text", "seconds"),
    [
        ("one frame 4:02", 242), ("14 min a frame", 840), ("frame takes 4m02", 242), ("17 s per frame", 17),
        ("10 sec/frame", 10), ("a frame took 1h03", 3780), ("1 h 3 m each frame", 3780),
    ],
)  # fmt: skip
def test_what_one_frame_takes(text, seconds):
    assert read(f"75 frames, {text}, due friday").times == (seconds,)
    assert read(f"75 frames, {text}, due friday").frames == (75,)


@pytest.mark.parametrize(
    ("text", "moment"),
    [
        ("due Friday 18:00", "Fri 25 Apr 18:00"), ("by fri", "Fri 25 Apr 18:00"), ("due monday 9am", "Mon 28 Apr 09:00"),
        ("due Monday 14:00", "Mon 21 Apr 14:00"), ("due next friday 12:00", "Fri 02 May 12:00"),
        ("due tomorrow", "Tue 22 Apr 18:00"), ("due today 17:30", "Mon 21 Apr 17:30"), ("in 3 days", "Thu 24 Apr 10:00"),
        ("deadline 30 April at 12:00", "Wed 30 Apr 12:00"), ("due 2031-05-02 09:00", "Fri 02 May 09:00"),
        ("due 3 January", "Sat 03 Jan 18:00"), ("due 18:00", "Mon 21 Apr 18:00"),
    ],
)  # fmt: skip
def test_when_it_is_due(text, moment):
    assert due(text) == moment


def test_the_deadline_is_meant_where_the_film_is_made():
    found = read("100 frames, due Friday 18:00", MONDAY.astimezone(ZoneInfo("Asia/Tokyo")), "Asia/Tokyo")
    assert found.deadline == datetime(2031, 4, 25, 9, tzinfo=UTC)


def test_size_rate_samples_threshold_and_machines():
    found = read("100 frames, 4K, 25 fps, 512 samples a pixel, threshold 0.02, 4 machines")
    assert (found.size, found.fps, found.samples, found.threshold, found.machines) == ((3840, 2160), 25, 512, 0.02, 4)
    assert read("100 frames 1920x1080").size == (1920, 1080)


@pytest.mark.parametrize(
    ("text", "words"),
    [
        ("0 shots of 10 frames", "0 shots are none"),
        ("9999 shots of 10 frames", "500 at most"),
        ("5000000 frames", "1 to 1\u202f000\u202f000 frames"),
        ("3 shots of 10 and 20 frames", "3 shots, and frames of 2"),
        ("100 frames, due today 9:00", "over already"),
        ("100 frames, due 31 February", "day"),
        ("100 frames, due friday 25:00", "not a time of day"),
        ("100 frames at 5000 fps", "cannot be"),
        ("frames 100-1", "before the first"),
        ("100 frames, 999999x100", "too large"),
    ],
)
def test_what_cannot_be_is_said_and_makes_no_film(text, words):
    found = read(text)
    assert any(words in problem for problem in found.problems), found.problems
    assert not found.enough
    with pytest.raises(InputError):
        film_of(found, make_project(shots=()))


@pytest.mark.parametrize(
    ("text", "frames", "times", "guessed"),
    [
        ("120 images", 120, (), False),
        ("120 images, 32 seconds an image", 120, (32,), False),
        ("75 frames, 4:02 each", 75, (242,), False),
        ("250 frames about 30 seconds", 250, (30,), True),
        ("about 30 seconds, 250 frames", 250, (30,), True),
        ("250 frames, roughly 5 min a frame", 250, (300,), True),
        ("429 frames, 16–20 s per frame", 429, (16, 20), False),
        ("429 frames take 16 to 20 s", 429, (16, 20), False),
        ("75 frames, 4:02, 3:50 and 4:10 a frame", 75, (242, 230, 250), False),
        ("120 frames, half a second a frame", 120, (0.5,), False),
        ("120 pictures, half an hour per picture", 120, (1800,), False),
        ("10 x 20 px, 5 frames, 1:30 each", 5, (90,), False),
    ],
)
def test_times_as_people_write_them(text, frames, times, guessed):
    found = read(text)
    assert (sum(found.frames), found.times, found.guessed) == (frames, times, guessed)
    assert (found.left_over, found.problems) == ("", ())


def test_seconds_of_shots_and_films_are_no_times_of_frames():
    for text in ("3 shots of 4 seconds each", "a 14 s film", "14 seconds long"):
        assert read(text).times == (), text
    assert read("12 frames, 30 s").left_over == "30 s", "it may be either: it is said back"


def test_several_times_are_trials_along_the_longest_shot():
    found = read("3 shots of 10, 90 and 20 frames, 4:02, 3:50 and 4:10 a frame")
    film = film_of(found, make_project(shots=()))
    assert [(trial.shot, trial.frame, trial.seconds) for trial in film.trials] == [
        ("020", 1, 242), ("020", 46, 230), ("020", 90, 250),
    ]  # fmt: skip
    guess = film_of(read("90 frames, about 30 seconds"), make_project(shots=()))
    assert [(trial.frame, trial.assumed) for trial in guess.trials] == [(45, True)]
    short = film_of(read("2 frames, 1:00, 1:01, 1:02 a frame"), make_project(shots=()))
    assert [(trial.frame, trial.repeat) for trial in short.trials] == [(1, 0), (2, 0), (2, 1)]


@pytest.mark.parametrize(
    ("text", "ranges"),
    [
        ("frames 1-10, 25-30", ((1, 10), (25, 30))), ("frames 1-10 and 25-30, 4 machines", ((1, 10), (25, 30))),
        ("frames 5-8, 12, 20-21", ((5, 8), (12, 12), (20, 21))), ("frames 1 to 250, 4 machines", ((1, 250),)),
    ],
)  # fmt: skip
def test_several_ranges_are_one_shot_and_as_many_where_that_is_said(text, ranges):
    found = read(text)
    assert (found.ranges, found.left_over) == ((ranges,), "")
    (shot,) = film_of(found, make_project(shots=())).shots
    assert (shot.parts, shot.frame_count) == (ranges, sum(last - first + 1 for first, last in ranges))
    each = film_of(read(f"{text} in {len(ranges)} shots"), make_project(shots=()))
    assert tuple((one.first, one.last) for one in each.shots) == ranges


def test_as_many_shots_as_ranges_or_one():
    assert read("frames 1-10, 25-30 in 3 shots").problems == ("There are 3 shots, and 2 ranges of frames.",)
    overlapping = film_of(read("frames 1-10, 5-20, 40"), make_project(shots=()))
    assert overlapping.shots[0].parts == ((1, 20), (40, 40))


@pytest.mark.parametrize(
    ("text", "moment"),
    [
        ("tomorrow morning", "Tue 22 Apr 09:00"), ("due tonight", "Mon 21 Apr 22:00"), ("tonight", "Mon 21 Apr 22:00"),
        ("in 30 minutes", "Mon 21 Apr 10:30"), ("by tomorrow noon", "Tue 22 Apr 12:00"),
        ("due tomorrow evening at 20:30", "Tue 22 Apr 20:30"), ("this is due today", "Mon 21 Apr 18:00"),
    ],
)  # fmt: skip
def test_when_it_is_due_as_people_say_it(text, moment):
    assert due(text) == moment


def test_a_threshold_without_a_count_acts():
    """A most of 128 would end nearly every pixel before the threshold does, and 5 h became 19."""
    film = film_of(read("75 frames, threshold 0.075, denoised, 4:02 each"), make_project(shots=()))
    asked = film.shots[0].asked
    assert (asked.noise_threshold, asked.samples, asked.denoise) == (0.075, 10_000, "denoised")
    assert film_of(read("75 frames, 4:02 each"), make_project(shots=())).shots[0].asked.samples == 128
    parts = dict(understood(read("75 frames, threshold 0.075"), str))
    assert parts["settings"] == "threshold 0.075, at most 10000 samples, assumed"


def test_no_line_takes_long_to_read():
    hostile = ("1:00 ", "1 s, ", "1-1, ", "half a ", "about ", "9", "~", "1 h 1 m 1 s ", "1-2 s and ", "frames 1-2, ")
    for part in hostile:
        line = (part * 500)[:500]
        began = time.process_time()
        read(line)
        assert time.process_time() - began < 1, part


def test_what_is_not_understood_is_said_back():
    found = read("100 frames of seven purple dragons, due friday")
    assert found.left_over == "seven purple dragons"
    assert found.enough
    assert not read("hello").enough
    assert not read("").enough


def test_what_is_assumed_says_so_and_what_was_said_does_not():
    parts = dict(understood(read("100 frames, 25 fps"), str))
    assert parts["film"] == "1 shot of 100 frames, 100 frames, 4.00 s" or parts["film"].startswith("1 shot of 100")
    assert parts["rate"] == "25 fps"
    assert [name for name, text in parts.items() if text.endswith("assumed")] == ["size", "settings", "due", "machines"]


def test_the_film_that_is_made_of_it():
    line = (
        "3 shots of 100, 80 and 60 frames, 2048x858, 25 fps, 64 samples, one frame 4:02, 2 machines, due Friday 12:00"
    )
    film = film_of(read(line), make_project(shots=()))
    assert [(shot.name, shot.first, shot.last, shot.asked.samples) for shot in film.shots] == [
        ("010", 1, 100, 64), ("020", 1, 80, 64), ("030", 1, 60, 64),
    ]  # fmt: skip
    assert (film.delivery.width, film.delivery.height, film.delivery.fps) == (2048, 858, 25)
    assert film.machines[0].count == 2
    (trial,) = film.trials
    assert (trial.shot, trial.frame, trial.seconds, trial.samples) == ("010", 50, 242, 64)
    ranged = film_of(read("frames 1001-1100"), make_project(shots=()))
    assert (ranged.shots[0].first, ranged.shots[0].last) == (1001, 1100)


@given(st.text(max_size=80))
def test_any_line_ends_in_words(text):
    found = read(text)
    if found.enough:
        film_of(found, make_project(shots=(), deadline=MONDAY + timedelta(days=7)))


@given(
    st.integers(1, 50), st.integers(1, 2000), st.sampled_from([24, 25, 30, 60]), st.integers(1, 4096),
    st.permutations(range(4)),
)  # fmt: skip
def test_parts_may_stand_in_any_order(shots, frames, fps, samples, order):
    parts = [f"{shots} shots of {frames} frames", f"{fps} fps", f"{samples} samples", "due friday 18:00"]
    found = read(", ".join(parts[k] for k in order))
    assert (len(found.frames), found.frames[0], found.fps, found.samples) == (shots, frames, fps, samples)
    assert found.left_over == ""
