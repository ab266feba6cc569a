"""A week that is painted: what was free stays so, whatever the text looks like."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from pemlo.core.project.hours import format_week, parse_week
from pemlo.core.project.week_grid import WEEK_MINUTES, free_minutes, painted, week_of


@pytest.mark.parametrize(
    ("before", "stroke", "free", "after"),
    [
        # By hand: a night cut short, a day filled, and the last free hour taken away.
        ("Mon-Fri 19:00-08:00", (4, 1260, 1440), False, "Mon-Thu 19:00-08:00, Fri 19:00-21:00, Sat 00:00-08:00"),
        ("never", (6, 1200, 1440), True, "Sun 20:00-24:00"),
        ("Wed 09:00-10:00", (2, 540, 600), False, "never"),
        ("Sat 00:00-23:00", (5, 1380, 1440), True, "Sat all day"),
    ],
)
def test_a_stroke(before, stroke, free, after):
    assert format_week(painted(parse_week(before), *stroke, free=free)) == after


weeks = st.lists(
    st.tuples(st.integers(0, 6), st.integers(0, 47), st.integers(1, 48)).map(lambda s: (s[0], s[1] * 30, s[2] * 30)),
    max_size=8,
)


@given(weeks)
def test_what_was_painted_is_free_and_reads_back(strokes):
    week, minutes = parse_week("never"), [False] * WEEK_MINUTES
    for day, first, last in strokes:
        if first < last:
            week = painted(week, day, first, last, free=True)
            minutes[day * 1440 + first : day * 1440 + last] = [True] * (last - first)
    assert free_minutes(week) == minutes
    assert free_minutes(parse_week(format_week(week))) == minutes
    assert week_of(free_minutes(week)) == week
