"""Hours of machines in real time: nights, exceptions, changes of clocks."""

from datetime import UTC, date, datetime, timedelta
from zoneinfo import ZoneInfo

import pytest
from hypothesis import given
from hypothesis import strategies as st

from pemlo.core.farm.calendar import open_spans
from pemlo.core.project.hours import format_week
from pemlo.core.project.machines import OtherHours

LISBON = "Europe/Lisbon"


def at(text, zone=LISBON):
    return datetime.fromisoformat(text).replace(tzinfo=ZoneInfo(zone))


def hours(spans):
    return sum(end - begin for begin, end in spans)


def test_nights_run_over_midnight():
    spans = open_spans("Mon-Fri 19:00-08:00, Sat-Sun all day", (), LISBON, at("2031-04-21T10:00"), 4)
    # Monday 10:00: free from 19:00, which is 9 hours away, for 13 hours.
    assert spans[0] == (9.0, 22.0)
    assert len(spans) == 4


def test_a_night_that_began_before_the_start_counts():
    assert open_spans("Sun 19:00-08:00", (), LISBON, at("2031-04-21T05:00"), 2) == ((0.0, 3.0),)


def test_friday_night_joins_the_weekend():
    spans = open_spans("Fri 19:00-24:00, Sat-Sun all day", (), LISBON, at("2031-04-25T12:00"), 3)
    assert spans == ((7.0, 60.0),)


def test_exceptions_replace_a_day():
    other = (OtherHours(day=date(2031, 4, 22), hours="off"), OtherHours(day=date(2031, 4, 23), hours="all day"))
    spans = open_spans("Mon-Fri 19:00-08:00", other, LISBON, at("2031-04-21T10:00"), 4)
    assert spans[0] == (9.0, 22.0)
    assert spans[1] == (38.0, 62.0)  # all of Wednesday


@pytest.mark.parametrize(
    ("day", "length"),
    [
        ("2031-03-30", 12.0),  # clocks go forward in the night from Saturday to Sunday
        ("2031-10-26", 14.0),  # and back
        ("2031-06-15", 13.0),
    ],
)
def test_a_night_over_a_change_of_clocks_is_an_hour_shorter_or_longer(day, length):
    start = at(day + "T12:00") - timedelta(days=1)
    first = open_spans("every day 19:00-08:00", (), LISBON, start, 1)[0]
    assert first[1] - first[0] == pytest.approx(length)


def test_a_wall_clock_time_that_does_not_exist_or_exists_twice():
    # 30 March 2031, 01:00 does not exist in Lisbon; 26 October 01:30 exists twice.
    spring = open_spans("Sun 01:30-05:00", (), LISBON, at("2031-03-29T12:00"), 2)
    assert hours(spring) == pytest.approx(3.5, abs=1.0)
    autumn = open_spans("Sun 01:30-05:00", (), LISBON, at("2031-10-25T12:00"), 2)
    assert hours(autumn) == pytest.approx(4.5)


minutes = st.integers(0, 95).map(lambda quarter: quarter * 15)
a_day = st.tuples(minutes, minutes).filter(lambda s: s[0] != s[1]).map(
    lambda s: ((s[0], s[1] if s[1] > s[0] else s[1] + 1440),)
)  # fmt: skip


@given(st.tuples(*[a_day] * 7), st.integers(0, 700), st.sampled_from([LISBON, "Asia/Kathmandu", "America/St_Johns"]))
def test_agrees_with_asking_every_quarter_of_an_hour(week, offset, zone):
    start = datetime(2031, 1, 1, tzinfo=UTC) + timedelta(hours=offset * 12)
    spans = open_spans(format_week(week), (), zone, start, 3)
    for number in range(3 * 24 * 4):
        moment = start + timedelta(minutes=15 * number + 7)
        local = moment.astimezone(ZoneInfo(zone))
        minute = local.hour * 60 + local.minute + local.second / 60
        yesterday = week[(local.weekday() - 1) % 7]
        wanted = any(a <= minute < b for a, b in week[local.weekday()]) or any(minute < b - 1440 for _, b in yesterday)
        hour = 0.25 * number + 7 / 60
        assert any(begin <= hour < end for begin, end in spans) == wanted or _near_change(moment, zone)


def _near_change(moment, zone):
    """Wall clock and real time part on the days on which clocks change."""
    offsets = {(moment + timedelta(hours=h)).astimezone(ZoneInfo(zone)).utcoffset() for h in (-30, 0, 30)}
    return len(offsets) > 1
