"""Hours of a week as people write them."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from pemlo.core.project.hours import ALL_DAY, format_week, parse_day, parse_week

NIGHT = ((1140, 1920),)


def test_reads_nights_and_weekends():
    assert parse_week("Mon-Fri 19:00-08:00, Sat-Sun all day") == (NIGHT,) * 5 + (ALL_DAY,) * 2
    assert parse_week("Fri-Mon 9-12 and 13-17")[1:4] == ((), (), ())
    assert parse_week("Mon, Wed 09:00-17:00")[2] == ((540, 1020),)
    assert parse_week("every day 19:00-08:00") == (NIGHT,) * 7
    assert parse_week("20:00-24:00")[3] == ((1200, 1440),)
    assert parse_week("ALWAYS") == (ALL_DAY,) * 7
    assert parse_week("never") == ((),) * 7
    assert parse_week("monday–friday 8–17")[4] == ((480, 1020),)


@pytest.mark.parametrize(
    "text", ["", "Mon", "Mon-Xyz 9-10", "Mon 25:00-26:00", "Mon 9:60-10", "Mon 9", "Mon 9-9", "x", "Mon-Fri,"]
)
def test_refuses_what_is_no_week(text):
    with pytest.raises(ValueError, match="hours"):
        parse_week(text)


spans = st.tuples(st.integers(0, 1439), st.integers(1, 1440)).filter(lambda s: s[0] % 1440 != s[1] % 1440)
days = st.lists(spans, max_size=2).map(
    lambda found: tuple(sorted({(a, b) if b > a else (a, b + 1440) for a, b in found}))
)


@given(st.tuples(*[days] * 7))
def test_what_is_written_reads_back(week):
    assert parse_week(format_week(week)) == week


@given(st.text(max_size=20))
def test_any_text_is_read_or_refused(text):
    try:
        assert len(parse_week(text)) == 7
    except ValueError as error:
        assert str(error)


def test_a_day_may_be_off():
    assert parse_day("off") == ()
    assert parse_day("09:00-12:00 and 13:00-17:00") == ((540, 720), (780, 1020))
