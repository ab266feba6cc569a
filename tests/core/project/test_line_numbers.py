"""Numbers in one line that may be two: what is meant is taken where it can only be that, and refused where it cannot."""

from datetime import UTC, datetime

import pytest
from hypothesis import given
from hypothesis import strategies as st

from limits import limited
from pemlo.core.project.film_line import MOST_LETTERS, read_film_line
from pemlo.core.project.line_numbers import plain_numbers

MONDAY = datetime(2031, 4, 21, 10, tzinfo=UTC)


def read(text):
    return read_film_line(text, MONDAY, "UTC")


@pytest.mark.parametrize(
    ("text", "words"),
    [
        ("1,440 frames", "“1,440 frames” can be 1440 frames, or 1 and 440; write 1440"),
        ("2 shots of 1,200 frames", "“1,200 frames” can be 1200 frames, or 1 and 200"),
        ("shots of 100,120 frames", "can be 100120 frames, or 100 and 120"),
        ("100 frames, one frame 1,200 s", "“1,200 s” can be 1200 s, or 1.2; write 1200, or 1.2."),
        ("frames 1-2000000", "are 2\u202f000\u202f000 frames; a shot has at most 1\u202f000\u202f000 frames"),
        ("frames 999999990-999999999", "numbers go up to 10\u202f000\u202f000"),
        ("-5 frames", "“-5 frames” is below zero"),
        ("−5 frames", "is below zero"),
        ("100 frames, –3 samples", "“-3 samples” is below zero"),
        ("1,200,000 frames", "1 to 1\u202f000\u202f000 frames"),
        ("100 hours of film", "are 8\u202f640\u202f000 frames"),
    ],
)  # fmt: skip
def test_what_may_be_two_numbers_is_refused_and_shown(text, words):
    found = read(text)
    assert words in " ".join(found.problems)
    assert not found.enough


@pytest.mark.parametrize(
    ("text", "values"),
    [
        ("100 frames, 1,024 samples", {"samples": 1024}), ("100 frames, 1.024 samples", {"samples": 1024}),
        ("2 shots of 1.200 frames", {"frames": (1200, 1200)}), ("100 frames, 23.976 fps", {"fps": 23.976}),
        ("100 frames, 29.970 fps", {"fps": 29.97}), ("100 frames, threshold 0.125", {"threshold": 0.125}),
        ("100 frames, 1,920x1,080", {"size": (1920, 1080)}), ("100 frames, one frame 7.125 s", {"times": (7.125,)}),
        ("3 shots of 100, 120 and 90 frames", {"frames": (100, 120, 90)}), ("frames 1-250", {"frames": (250,)}),
        ("film - 12 shots of 100 frames", {"frames": (100,) * 12}),
    ],
)  # fmt: skip
def test_what_can_be_one_number_only_is_taken(text, values):
    found = read(text)
    assert {name: getattr(found, name) for name in values} == values
    assert (found.problems, found.left_over) == ((), "")


@given(
    st.integers(1, 999),
    st.integers(0, 999),
    st.sampled_from([",", "."]),
    st.sampled_from(["frames", "samples", "s", "fps", "shots", ""]),
)
def test_no_part_of_a_number_is_taken_for_the_whole(first, second, mark, unit):
    """Of 1,024 neither 1 nor 24 is ever taken alone."""
    found = read(f"{first}{mark}{second:03d} {unit}, one frame {first}{mark}{second:03d} s")
    taken = [*found.frames, found.samples, *found.times, found.fps, found.machines]
    whole, part = int(f"{first}{second:03d}"), float(f"{first}.{second:03d}")
    assert all(value in (None, whole, part) for value in taken), found


@given(st.text(max_size=60))
def test_a_line_without_numbers_stays(text):
    if not any(one.isdecimal() for one in text):
        assert plain_numbers(text) == (text, ())


def test_a_line_is_no_book():
    found = read("1 " * MOST_LETTERS)
    assert "Paste a table" in found.problems[0]
    assert not found.enough


@pytest.mark.parametrize(
    "text",
    [
        "1h1111111111111111 x",
        "1h" + "1" * 60 + " x",
        "1 h 1 " * 80,
        "1" * MOST_LETTERS,
        "1," * 249,
        "1 and " * 83,
        "a frame " * 62,
    ],
)
def test_a_line_that_misleads_is_read_at_once(text):
    with limited(0.5):
        read(text)
