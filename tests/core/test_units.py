"""Durations as people say them."""

import math

import pytest
from hypothesis import given
from hypothesis import strategies as st

from pemlo.core.errors import InputError
from pemlo.core.interval import Interval
from pemlo.core.units import format_duration, format_interval, format_span, parse_duration, round_figures


@pytest.mark.parametrize(
    ("text", "seconds"),
    [
        ("4:02", 242), ("4m02", 242), ("242", 242), ("242s", 242), ("1h03", 3780), ("7.7 s", 7.7), ("2 d 4 h", 187200),
        ("1:03:20", 3800), ("0:07.5", 7.5), ("3 min", 180), ("3 min 20 sec", 200), ("1 hour", 3600), ("90m", 5400),
        ("7,7", 7.7), (".5", 0.5), ("35 h 07 m", 126420), ("4 d 3 h", 356400), ("  12  ", 12), ("1H03M", 3780),
    ],
)  # fmt: skip
def test_reads_what_people_say(text, seconds):
    assert parse_duration(text) == pytest.approx(seconds)


@pytest.mark.parametrize(
    "text",
    ["", " ", "abc", "4:", ":02", "4:60", "1:60:00", "4:02:03:04", "-4", "0", "0:00", "nan", "inf", "1e400", "4m70",
     "4s02", "3h 2d", "12 parsecs", "5 m m", "4..2", "99999999999999", "1h 2h"],
)  # fmt: skip
def test_refuses_what_is_no_duration(text):
    with pytest.raises(InputError):
        parse_duration(text)


@pytest.mark.parametrize(
    ("seconds", "text"),
    [
        (17.44, "17.4 s"), (59.97, "1 m 00 s"), (242, "4 m 02 s"), (3599.7, "1 h 00 m"), (126420, "35 h 07 m"),
        (3 * 86400, "3 d 0 h"), (356400, "4 d 3 h"), (0.05, "0.05 s"), (math.inf, "unknown"), (math.nan, "unknown"),
    ],
)  # fmt: skip
def test_writes_as_the_program_speaks(seconds, text):
    assert format_duration(seconds) == text


@given(st.floats(0.05, 1e9))
def test_what_is_written_reads_back_within_its_own_precision(seconds):
    precision = 0.005 if seconds < 1 else 0.05 if seconds < 60 else 0.5 if seconds < 3600 else 30
    if seconds >= 3 * 86400 - 30:
        precision = 1800
    assert parse_duration(format_duration(seconds)) == pytest.approx(seconds, abs=precision * 1.001)


@given(st.integers(1, 10**9))
def test_whole_seconds_written_in_units_read_back(seconds):
    hours, rest = divmod(seconds, 3600)
    assert parse_duration(f"{hours}:{rest // 60:02d}:{rest % 60:02d}") == seconds


@given(st.text(max_size=12))
def test_any_text_is_read_or_refused(text):
    try:
        assert parse_duration(text) > 0
    except InputError as error:
        assert error.message


@given(st.floats(0.01, 1e6), st.floats(0.001, 0.9))
def test_an_interval_never_loses_its_order_or_its_value(middle, share):
    low, high = middle * (1 - share), middle * (1 + share)
    words = format_interval(Interval(low, middle, high)).replace("\u202f", "")
    shown = [float(part) for part in words.replace(")", "").replace(" (", "–").split("–")]
    assert shown[1] <= shown[0] <= shown[2]
    for value, true in zip(shown, (middle, low, high), strict=True):
        assert value == pytest.approx(true, abs=(high - low) / 5 + 1e-4)


def test_figures_are_kept_few():
    assert format_interval(Interval(566.2, 668.9, 850.4)) == "670 (570–850)"
    assert format_interval(Interval(1260, 1545, 1937)) == "1\u202f500 (1\u202f300–1\u202f900)"
    assert round_figures(471.3) == "471"
    assert round_figures(0) == "0"
    assert format_interval(Interval(1, math.inf, 2)) == "unknown"
    assert [format_span(s) for s in (40, 500, 29000, 200000, math.inf)] == [
        "40 s", "8 min", "8 h", "2.3 days", "an unknown time",
    ]  # fmt: skip
