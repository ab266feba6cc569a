"""Axes of the trials stage: ticks where people read them, for any range that a plot may show."""

import math

import pytest
from hypothesis import given
from hypothesis import strategies as st

from pemlo.gui.common.axes import (
    doubling_axis,
    duration_axis,
    factor_axis,
    frame_axis,
    nice_steps,
    percent_axis,
)

AXES = {
    "time": duration_axis("time"),
    "factor": factor_axis("factor"),
    "noise": percent_axis("noise"),
    "samples": doubling_axis("samples"),
}


@given(st.sampled_from(sorted(AXES)), st.floats(-4, 4), st.floats(0.01, 5), st.floats(60, 900))
def test_ticks_lie_inside_in_order_with_room_and_names_of_their_own(kind, low, span, size):
    axis = AXES[kind]
    found = axis.ticks(low, low + span, size)
    assert found == sorted(found)
    assert all(low - 1e-9 <= tick <= low + span + 1e-9 for tick in found)
    assert len(found) <= max(size / 34, 2) + 1
    names = [axis.name(tick) for tick in found]
    assert len(set(names)) == len(names)


@given(st.floats(0.3, 3.0), st.floats(0.05, 1.0))
def test_a_course_that_is_nearly_even_still_has_factors_to_read(middle, share):
    """Down to five per cent from edge to edge."""
    low, high = math.log10(middle), math.log10(middle * (1 + share))
    if middle > 0.76 and middle * (1 + share) < 1.24:
        assert len(AXES["factor"].ticks(low, high, 250.0)) >= 2


@given(st.floats(-4, 1), st.floats(0.5, 3))
def test_no_noise_is_written_where_it_would_be_cut_off(low, span):
    found = AXES["noise"].ticks(low, low + span, 250.0)
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
def test_ticks_are_written_as_people_say_them(kind, value, name):
    assert AXES[kind].name(math.log10(value)) == name


def test_frames_have_their_ends_named():
    found = frame_axis("frame", 7, 143).ticks(0, 150, 400)
    assert (found[0], found[-1]) == (7, 143)
    assert all(frame % 5 == 0 for frame in found[1:-1])
    assert frame_axis("frame", 7, 7).ticks(0, 150, 400) == [7]


@given(st.floats(0.01, 1e4), st.floats(0, 0.9), st.integers(2, 8))
def test_round_steps_lie_on_the_scale(top, share, count):
    found = nice_steps(top, count, share * top)
    assert all(share * top - 1e-6 * top <= step <= top * (1 + 1e-9) for step in found)
    assert 1 <= len(found) <= 2 * count + 1
