"""Moments as people say them, by hand; and as fields write them."""

from datetime import UTC, datetime, timedelta
from zoneinfo import ZoneInfo

import pytest
from hypothesis import given
from hypothesis import strategies as st

from pemlo.core.project.due import read_moment, say_date

NOW = datetime(2031, 4, 21, 10, tzinfo=UTC)  # a Monday


@pytest.mark.parametrize(
    ("text", "moment"),
    [
        ("Fri 18:00", "2031-04-25T18:00"),
        ("friday, 6 pm", "2031-04-25T18:00"),
        ("Mon 9:00", "2031-04-28T09:00"),
        ("Mon 11:00", "2031-04-21T11:00"),
        ("tomorrow 9:00", "2031-04-22T09:00"),
        ("24 Apr 18:00", "2031-04-24T18:00"),
        ("Thu 24 Apr 18:00", "2031-04-24T18:00"),
        ("Thu 24 Apr 2031 18:00", "2031-04-24T18:00"),
        ("in 3 days", "2031-04-24T10:00"),
        ("due Fri 18:00", "2031-04-25T18:00"),
        ("18:30", "2031-04-21T18:30"),
        ("2031-04-24 18:00", "2031-04-24T18:00"),
        ("2031-04-24T18:00+02:00", "2031-04-24T16:00"),
    ],
)
def test_moments_as_people_say_them(text, moment):
    assert read_moment(text, NOW, "UTC") == datetime.fromisoformat(moment).replace(tzinfo=UTC)


@pytest.mark.parametrize(
    ("text", "why"),
    [
        ("", "not a date"),
        ("soon", "not a date"),
        ("Fri 18:00 or so", "not a date"),
        ("Fri 25:00", "not a time of day"),
        ("31 Apr 10:00", "no day"),
        ("Fri 24 Apr 2031 18:00", "is a Thursday"),
        ("2031-02-30 10:00", "not a date and time"),
        ("9" * 10_000, "not a date"),
    ],
)
def test_what_cannot_be_says_why(text, why):
    with pytest.raises(ValueError, match=why):
        read_moment(text, NOW, "UTC")


@given(st.integers(0, 365 * 24 * 60), st.sampled_from(["UTC", "Europe/Lisbon", "Pacific/Auckland"]))
def test_a_date_that_a_field_says_is_read_back(minutes, zone):
    moment = (NOW + timedelta(minutes=minutes)).astimezone(ZoneInfo(zone))
    read = read_moment(say_date(moment), NOW, zone)
    # An hour that a clock goes through twice is read as its first.
    assert read == moment or (moment.fold and read == moment - timedelta(hours=1))
