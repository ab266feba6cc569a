"""Timecode, held against the values of SMPTE ST 12-1 and what follows from its rule (from memory)."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from pemlo.core.editing.timecode import counts_drop, frame_of, nominal, timecode

NTSC, NTSC_60 = 30000 / 1001, 60000 / 1001


@pytest.mark.parametrize(
    ("text", "fps", "frame"),
    [
        # SMPTE ST 12-1, 5.2.2: 00 and 01 are left out at each minute, but not at 00, 10, 20, 30, 40, 50.
        ("00:00:59;29", NTSC, 1799), ("00:01:00;02", NTSC, 1800), ("00:09:59;29", NTSC, 17_981),
        ("00:10:00;00", NTSC, 17_982), ("01:00:00;00", NTSC, 107_892), ("23:59:59;29", NTSC, 2_589_407),
        ("00:01:00;04", NTSC_60, 3600), ("01:00:00;00", NTSC_60, 215_784),
        ("01:00:00:00", 24.0, 86_400), ("01:00:00:00", 24000 / 1001, 86_400), ("01:00:00:00", 25.0, 90_000),
        ("01:00:00:00", NTSC, 108_000), ("10:00:00:12", 30.0, 1_080_012), ("00:00:01:11", 12.0, 23),
    ],
)  # fmt: skip
def test_values_of_the_standard(text, fps, frame):
    assert frame_of(text, fps) == frame
    assert timecode(frame, fps, drop=";" in text) == text


def test_an_hour_of_drop_frame_is_an_hour_of_the_clock_within_four_milliseconds():
    # ST 12-1: the residual error is below 86.4 ms a day (from memory).
    assert frame_of("01:00:00;00", NTSC) / NTSC == pytest.approx(3600, abs=0.0037)
    assert abs((2_589_407 + 1) / NTSC - 86_400) < 0.0865


@given(st.integers(0, 2_589_407), st.sampled_from([(NTSC, True), (NTSC, False), (24.0, False), (25.0, False), (48.0, False), (NTSC_60, True)]))  # fmt: skip
def test_back_and_forth(frame, rate):
    fps, drop = rate
    assert frame_of(timecode(frame, fps, drop=drop), fps) == frame % (nominal(fps) * 86_400)


def test_a_day_begins_again():
    assert timecode(24 * 86_400 + 5, 24) == "00:00:00:05"
    assert timecode(2_589_408, NTSC, drop=True) == "00:00:00;00"


@pytest.mark.parametrize("text", ["00:01:00;00", "00:01:00;01", "00:00:00:30", "00:60:00:00", "1:2:3:4", "24:00:00:00", "x"])  # fmt: skip
def test_numbers_that_there_are_not(text):
    with pytest.raises(ValueError, match=r"”"):
        frame_of(text, NTSC)


def test_drop_frame_is_for_some_rates_alone():
    assert counts_drop(29.97)
    assert counts_drop(59.94)
    assert not any(counts_drop(fps) for fps in (24, 23.976, 25, 30, 60))
    with pytest.raises(ValueError, match="no drop-frame"):
        timecode(0, 25, drop=True)
    with pytest.raises(ValueError, match="drop-frame"):
        frame_of("00:00:01;00", 25)
    with pytest.raises(ValueError, match="begins"):
        timecode(-1, 25)
