"""A film in one line, as people say it; what is not understood is said back."""

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
    assert read(f"75 frames, {text}, due friday").frame_seconds == seconds
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
