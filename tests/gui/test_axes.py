"""Axes of the trials stage: ticks where people read them, for any range that a plot may show."""

import math

import pytest
from hypothesis import given
from hypothesis import strategies as st

from pemlo.gui.common.axes import DoublingAxis, DurationAxis, FactorAxis, FrameAxis, PercentAxis

AXES = {
    "time": lambda: DurationAxis("left"),
    "factor": lambda: FactorAxis("left"),
    "noise": lambda: PercentAxis("right"),
    "samples": lambda: DoublingAxis("bottom"),
}


def ticks(axis, low, high, size=250.0):
    return [tick for _, level in axis.tickValues(low, high, size) for tick in level]


@given(st.sampled_from(sorted(AXES)), st.floats(-4, 4), st.floats(0.01, 5), st.floats(60, 900))
def test_ticks_lie_inside_in_order_with_room_and_names_of_their_own(qapp, kind, low, span, size):
    axis = AXES[kind]()
    found = ticks(axis, low, low + span, size)
    assert found == sorted(found)
    assert all(low - 1e-9 <= tick <= low + span + 1e-9 for tick in found)
    assert len(found) <= max(size / 34, 2) + 1
    names = axis.tickStrings(found, 1.0, 1.0)
    assert len(set(names)) == len(names)


@given(st.floats(0.3, 3.0), st.floats(0.05, 1.0))
def test_a_course_that_is_nearly_even_still_has_factors_to_read(qapp, middle, share):
    """Down to five per cent from edge to edge."""
    low, high = math.log10(middle), math.log10(middle * (1 + share))
    if middle > 0.76 and middle * (1 + share) < 1.24:
        assert len(ticks(FactorAxis("left"), low, high)) >= 2


@given(st.floats(-4, 1), st.floats(0.5, 3))
def test_no_noise_is_written_where_it_would_be_cut_off(qapp, low, span):
    found = ticks(PercentAxis("right"), low, low + span)
    assert found
    assert min(found) - low > 0.03 * span
    assert low + span - max(found) > 0.03 * span


@pytest.mark.parametrize(
    ("kind", "value", "name"),
    [
        ("noise", 0.05, "5 %"), ("noise", 2.0, "200 %"), ("noise", 0.001, "0.1 %"), ("factor", 1.25, "×1.25"),
        ("factor", 1.0, "×1"), ("time", 30.0, "30 s"), ("time", 600.0, "10 m"), ("samples", 256, "256"),
    ],
)  # fmt: skip
def test_ticks_are_written_as_people_say_them(qapp, kind, value, name):
    assert AXES[kind]().tickStrings([math.log10(value)], 1.0, 1.0) == [name]


def test_frames_have_their_ends_named(qapp):
    axis = FrameAxis()
    axis.first, axis.last = 7, 143
    found = ticks(axis, 0, 150, 400)
    assert (found[0], found[-1]) == (7, 143)
    assert all(frame % 5 == 0 for frame in found[1:-1])
