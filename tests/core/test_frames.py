"""Sets of frames; fileseq reads the notation."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from pemlo.core.errors import InputError
from pemlo.core.frames import format_frames, missing, parse_frames, stepped


def test_reads_ranges_and_steps():
    assert parse_frames("1-10, 25-30") == (*range(1, 11), *range(25, 31))
    assert parse_frames("1-300x2") == tuple(range(1, 300, 2))
    assert parse_frames("7, 3, 3-5") == (3, 4, 5, 7)
    assert parse_frames("-2-2") == (-2, -1, 0, 1, 2)


@pytest.mark.parametrize(
    "text", ["", "a", "1-", "5-1", "1-10x0", "1-9999999", "1,,2", "1-10y3", "1.5", "0-999999, 1000000-1999999"]
)
def test_refuses_what_is_no_set_of_frames(text):
    with pytest.raises(InputError) as caught:
        parse_frames(text)
    assert caught.value.message


@given(st.sets(st.integers(-50, 400), min_size=1, max_size=60))
def test_what_is_written_reads_back(frames):
    assert parse_frames(format_frames(tuple(sorted(frames)))) == tuple(sorted(frames))


@given(st.sets(st.integers(1, 60)), st.sets(st.integers(1, 60)))
def test_missing_and_present_make_up_what_is_wanted(wanted, present):
    lacking = missing(tuple(sorted(wanted)), tuple(sorted(present)))
    assert set(lacking) | (wanted & present) == wanted
    assert not set(lacking) & present


def test_a_wrong_length_is_seen():
    # Common practice, no source: 1-250 typed for a shot of 300 frames, and 10 frames of 120 that came out.
    assert format_frames(missing(stepped(1, 300), parse_frames("1-250"))) == "251-300"
    assert len(missing(stepped(1, 120), parse_frames("1-10"))) == 110
