"""Hours between two moments, over the clock changes of every time zone."""

import itertools
from datetime import UTC, datetime, timedelta
from zoneinfo import ZoneInfo, available_timezones

import pytest

from film import make_shot
from pemlo.core.persistence.document import from_text, to_text
from pemlo.core.project.delivery import Delivery, local_moment
from pemlo.core.project.machines import Machine
from pemlo.core.project.project import Project
from pemlo.core.trade.planning import hours_available_of

FROM, YEARS = datetime(2026, 1, 1, tzinfo=UTC), 2


def changes(zone: ZoneInfo) -> list[datetime]:
    """Return the hours, UTC, after which the clocks of a zone differ from what they were."""
    hours = [FROM + timedelta(hours=number) for number in range(0, 24 * 366 * YEARS, 24)]
    found = []
    for first, last in itertools.pairwise(hours):
        if first.astimezone(zone).utcoffset() != last.astimezone(zone).utcoffset():
            steps = [first + timedelta(minutes=15 * number) for number in range(97)]
            found.append(next(b for a, b in itertools.pairwise(steps)
                              if a.astimezone(zone).utcoffset() != b.astimezone(zone).utcoffset()))  # fmt: skip
    return found


def film(zone: str, start: str, deadline: str) -> Project:
    return Project(
        title="Clocks",
        start=local_moment(start, zone),
        delivery=Delivery(timezone=zone, deadline=local_moment(deadline, zone)),
        shots=(make_shot("010"),),
        machines=(Machine(name="desk"),),
    )


def test_hours_are_those_that_pass_in_every_zone():
    count = 0
    for name in sorted(available_timezones() - {"localtime", "posixrules", "Factory"}):
        zone = ZoneInfo(name)
        for change in changes(zone):
            before, after = (change + timedelta(hours=hours) for hours in (-25, 25))
            written = [moment.astimezone(zone).strftime("%Y-%m-%dT%H:%M") for moment in (before, after)]
            project = film(name, *written)
            assert (project.start, project.delivery.deadline) == (before, after), name
            assert hours_available_of(project) == pytest.approx(50.0), f"{name}: one machine, around the clock"
            again = from_text(to_text(project), "clocks.pemlo")
            assert again == project
            assert hours_available_of(again) == pytest.approx(50.0), name
            count += 1
    assert count > 500, "clocks change in many zones"


def test_three_days_in_march_have_an_hour_less():
    """The clocks of Lisbon go forward on 30 March 2031."""
    assert hours_available_of(film("Europe/Lisbon", "2031-03-29 12:00", "2031-03-31 12:00")) == pytest.approx(47.0)


def test_a_time_that_the_clocks_leave_out_is_refused():
    with pytest.raises(ValueError, match=r"01:30 is left out in Europe/Lisbon that day; from it on it is 02:30"):
        local_moment("2031-03-30 01:30", "Europe/Lisbon")


def test_a_moment_in_the_gap_that_is_given_otherwise_can_be_saved_and_opened():
    start = datetime(2031, 3, 30, 1, 30, tzinfo=ZoneInfo("Europe/Lisbon"))
    deadline = datetime(2031, 4, 1, 12, 0, tzinfo=ZoneInfo("Europe/Lisbon"))
    project = Project(title="Gap", start=start, delivery=Delivery(timezone="Europe/Lisbon", deadline=deadline))
    assert from_text(to_text(project), "gap.pemlo") == project
