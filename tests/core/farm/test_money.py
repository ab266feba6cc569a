"""What work costs, by the machines' hours: by hand, and against a film poured minute by minute."""

import pytest

from film import make_project
from pemlo.core.farm.capacity import machine_power
from pemlo.core.farm.money import cost_curve
from pemlo.core.project.machines import Machine


def project(*machines, budget=None):
    found = make_project(machines=machines)
    return found.replace(delivery=found.delivery.replace(budget=budget))


def test_no_price_no_cost():
    assert cost_curve(project(Machine(name="own"))) is None
    assert cost_curve(project()) is None


def test_two_machines_side_by_side():
    """By hand: one free, one twice as fast at 3 an hour: three machine-hours take an hour, and cost 3."""
    curve = cost_curve(project(Machine(name="own"), Machine(name="fast", speed=2.0, price_per_hour=3.0)))
    assert curve.at(3.0) == pytest.approx(3.0)
    assert curve.work_for(3.0) == pytest.approx(3.0)
    assert curve.at(1e6) == pytest.approx(1e6)


def test_rented_hours_come_first_or_last():
    """By hand: the film starts at midnight; rented until noon at 4 for 2 machine-hours an hour, own all day. 36
    machine-hours are done by noon for 48; what comes till the next midnight costs nothing."""
    own = Machine(name="own")
    found = project(own, Machine(name="b", speed=2.0, price_per_hour=4.0, hours="Mon-Sun 00:00-12:00"))
    zone_start = found.start.astimezone(found.delivery.zone)
    curve = cost_curve(found)
    minutes = 60 * ((24 - zone_start.hour) % 24) - zone_start.minute
    before = minutes / 60 * 1.0  # of its own machine, until the first midnight
    if zone_start.hour >= 12:
        assert curve.at(before + 36.0) == pytest.approx(48.0)
        assert curve.at(before + 48.0) == pytest.approx(48.0)
        assert curve.work_for(48.0) == pytest.approx(before + 48.0)


def test_what_is_free_goes_on_when_the_money_is_gone():
    rented = Machine(name="r", price_per_hour=2.0, most_hours=5.0)
    curve = cost_curve(project(Machine(name="own"), rented))
    assert curve.at(10.0) == pytest.approx(10.0)
    assert curve.at(50.0) == pytest.approx(10.0)
    assert curve.work_for(4.0) == pytest.approx(4.0)
    assert curve.work_for(10.0) > 1000


@pytest.mark.parametrize("hours", ["always", "Mon-Fri 21:00-06:00", "Sat-Sun all day"])
def test_the_curve_is_what_pouring_minute_by_minute_gives(hours):
    machines = (
        Machine(name="own", hours="Mon-Fri 19:00-08:00"),
        Machine(name="a", count=2, speed=1.5, price_per_hour=1.2, hours=hours),
        Machine(name="b", speed=0.5, price_per_hour=0.3, loss_percent=10.0),
    )
    found = project(*machines)
    curve = cost_curve(found)
    done = spent = 0.0
    from pemlo.core.farm.calendar import spans_of

    spans = {m.name: spans_of(m, found.delivery.timezone, found.start, 8) for m in machines}
    for minute in range(7 * 24 * 60):
        at = (minute + 0.5) / 60
        for machine in machines:
            if any(begin <= at < end for begin, end in spans[machine.name]):
                done += machine_power(machine) / 60
                spent += machine.count * (machine.price_per_hour or 0.0) / 60
        if minute % 997 == 0:
            assert curve.at(done) == pytest.approx(spent, rel=0.01, abs=0.05)
