"""Ends of hours that are dragged, and nights that are opened and closed. By hand."""

from datetime import date, datetime

import pytest

from film import make_project
from pemlo.core.errors import InputError
from pemlo.core.farm.calendar import spans_of
from pemlo.core.project.machine_hours import (
    close_stretch,
    closed_nights,
    hours_on,
    move_end,
    open_part,
    with_nights,
)
from pemlo.core.project.machines import Machine, OtherHours

# The film begins on Monday at 10:00 and is due on Thursday at 18:00.
NIGHTS = Machine(name="desk", hours="Mon-Fri 19:00-08:00")
OFFICE = Machine(name="desk", hours="Mon-Fri 09:00-17:00")


def film(machine=NIGHTS, **more):
    return make_project(machines=(machine,), **more)


def spans(project, days=4):
    return spans_of(project.machines[0], project.delivery.timezone, project.start, days)


def test_dragging_an_end_changes_that_night_only():
    assert spans(film())[:2] == ((9.0, 22.0), (33.0, 46.0))
    later = move_end(film(), "desk", 22.0, "end", 24.1)  # Tuesday 08:00 to 10:06, in whole quarters 10:00
    assert spans(later)[:2] == ((9.0, 24.0), (33.0, 46.0))
    assert later.machines[0].hours == NIGHTS.hours
    assert later.machines[0].exceptions == (OtherHours(day=date(2031, 4, 21), hours="19:00-10:00"),)
    earlier = move_end(later, "desk", 9.0, "begin", 7.0)
    assert spans(earlier)[0] == (7.0, 24.0)
    # Back where it was, it is the usual night again and no exception is left.
    assert move_end(move_end(earlier, "desk", 24.0, "end", 22.0), "desk", 7.0, "begin", 9.0) == film()


def test_an_end_that_meets_the_other_takes_the_night_away():
    assert spans(move_end(film(), "desk", 22.0, "end", 5.0))[0] == (33.0, 46.0)
    assert spans(move_end(film(), "desk", 9.0, "begin", 30.0))[0] == (33.0, 46.0)


def test_an_end_goes_no_further_than_a_day():
    assert spans(move_end(film(), "desk", 22.0, "end", 90.0))[0] == (9.0, 32.75)  # less a quarter of an hour than a day


@pytest.mark.parametrize(("at", "side"), [(12.0, "end"), (22.0, "begin")])
def test_where_no_hours_end_nothing_can_be_dragged(at, side):
    with pytest.raises(InputError, match="have no"):
        move_end(film(), "desk", at, side, 14.0)


def test_a_night_and_a_day_are_opened_where_they_lie():
    assert spans(open_part(film(OFFICE), "desk", 15.0))[:2] == ((0.0, 7.0), (9.0, 22.0))  # Tuesday 01:00
    assert spans(open_part(film(), "desk", 25.0))[0] == (9.0, 46.0)  # Tuesday 11:00: the day joins both nights
    assert spans(open_part(film(), "desk", 12.0)) == spans(film())  # open already


def test_a_stretch_is_closed_where_it_lies():
    closed = close_stretch(film(), "desk", 15.0)
    assert spans(closed)[0] == (33.0, 46.0)
    assert hours_on(closed.machines[0], date(2031, 4, 21)) == ()
    assert close_stretch(film(), "desk", 25.0) == film()


def test_closed_nights_are_opened_from_the_first():
    project = film(OFFICE)
    assert closed_nights(project, OFFICE) == tuple(date(2031, 4, day) for day in (21, 22, 23))
    more = project.replace(machines=(with_nights(project, OFFICE, 2),))
    assert spans(more)[:4] == ((0.0, 7.0), (9.0, 22.0), (23.0, 31.0), (33.0, 46.0))
    assert closed_nights(project, NIGHTS) == ()
    assert closed_nights(project, Machine(name="desk", hours="Mon-Sun 20:00-07:00")) == ()  # most of it is free


def test_over_a_change_of_clocks_an_end_is_a_time_of_the_day():
    # Clocks go forward in Lisbon at 01:00 on 30 March 2031: the night to 08:00 has twelve hours.
    start = datetime.fromisoformat("2031-03-29T12:00+00:00")
    machine = Machine(name="desk", hours="Sat-Sun 19:00-08:00")
    project = film(machine, timezone="Europe/Lisbon", deadline="2031-05-03T12:00Z").replace(start=start)
    assert spans(project, 2)[0] == (7.0, 19.0)
    assert spans(move_end(project, "desk", 19.0, "end", 18.0), 2)[0] == (7.0, 18.0)
    (other,) = move_end(project, "desk", 19.0, "end", 18.0).machines[0].exceptions
    assert other.hours == "19:00-07:00"


def test_rented_hours_end_when_they_are_used_up():
    rented = Machine(name="rented", count=4, hours="Mon-Fri 19:00-08:00", most_hours=72.0, price_per_hour=2.0)
    assert spans(film(rented)) == ((9.0, 22.0), (33.0, 38.0))  # 18 each: one night of 13, and 5 of the next
