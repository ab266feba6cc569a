"""Which rented machines for which hours: by hand, and against all hours that could be rented of small films."""

import itertools

import numpy as np
import pytest

from film import exact_trial, make_project, make_shot
from pemlo.core.cost.draws import draw_film
from pemlo.core.cost.fit import fit
from pemlo.core.cost.fit_input import fit_input
from pemlo.core.forecast.finish import finish_of
from pemlo.core.forecast.renting import rentable_h, rented_first, with_rented
from pemlo.core.forecast.what_it_takes import what_it_takes
from pemlo.core.project.machines import Machine
from pemlo.words.takes import way_words

OWN = Machine(name="own", speed=0.5)


def known_film(*machines, frames=100, deadline=None):
    """A film of frames of about two minutes; what one costs is known well."""
    trials = tuple(exact_trial("010", frame, samples) for frame in (1, frames // 2, frames) for samples in (256, 64))
    more = {} if deadline is None else {"deadline": deadline}
    project = make_project(shots=(make_shot("010", frames),), trials=trials, machines=machines, **more)
    known = fit(fit_input(project, 0))
    return project, known, draw_film(known, project, 0)


def rent(film):
    (way,) = what_it_takes(*film, ways=[("rent", "")])
    return way


def cost_and_chance(film, changed):
    found = finish_of(changed, *film[1:])
    return sum(use.cost or 0.0 for use in found.machines), found.probability


def test_only_what_the_own_machine_lacks_is_rented():
    """By hand: 100 frames of so many hours together; the own machine does its part until the deadline, and the rented
    one, as fast as the reference, the rest: at 2 an hour."""
    film = known_film(OWN, Machine(name="rented", price_per_hour=2.0), deadline="2031-04-21T12:00Z")
    project = film[0]
    hours = (project.delivery.render_by - project.start).total_seconds() / 3600
    alone = finish_of(project.replace(machines=(OWN,)), *film[1:])
    needed = float(np.quantile(alone.run.busy.sum(axis=1) * 0.5 / 3600, 0.9))
    own = 0.5 * hours
    assert needed > own, "the case needs nothing to be rented"
    way = rent(film)
    assert way.least.extra == pytest.approx(needed - own, abs=1.0)
    assert way.least.cost <= 2.0 * way.least.extra
    assert way.as_entered.cost > way.least.cost
    (used,) = way.rented
    assert (used.machine, used.hours) == ("rented", way.least.extra)
    assert used.spans[0][0] == 0.0
    assert sum(end - begin for begin, end in used.spans) == pytest.approx(used.hours)
    words = way_words(way, lambda hours: f"{hours:.1f} h", "EUR")
    assert words.startswith(f"Rent rented for {way.least.extra} h (0.0 h to {way.least.extra:.1f} h)")
    assert "EUR" in words


def test_a_day_later_the_own_machine_does_it_all():
    film = known_film(OWN, Machine(name="rented", price_per_hour=2.0), deadline="2031-04-21T12:00Z")
    way = rent(film)
    assert way.a_day_later.extra == 0
    assert way.a_day_later.cost == 0.0
    assert "A day later saves" in way_words(way, str, "EUR")


@pytest.mark.parametrize(
    ("slow", "quick"),
    [
        (Machine(name="a", price_per_hour=1.0), Machine(name="b", speed=3.0, price_per_hour=4.0)),
        (Machine(name="a", price_per_hour=3.0), Machine(name="b", speed=2.0, price_per_hour=2.5)),
        (Machine(name="a", price_per_hour=1.0, hours="Mon-Sun 14:00-20:00"), Machine(name="b", price_per_hour=2.0)),
    ],
)
def test_no_hours_of_two_rented_machines_cost_less(slow, quick):
    """All whole hours of both are tried by the exact run; none that makes it costs less, but for an hour's rounding."""
    film = known_film(OWN.replace(speed=0.2), slow, quick, frames=60, deadline="2031-04-21T14:00Z")
    project = film[0]
    way = rent(film)
    whole = [range(int(rentable_h(project, machine)) + 1) for machine in (slow, quick)]
    best = np.inf
    for mine in itertools.product(*whole):
        machines = [
            machine.replace(most_hours=hours) if hours else machine.replace(count=0)
            for machine, hours in zip((slow, quick), mine, strict=True)
        ]
        cost, chance = cost_and_chance(film, project.replace(machines=(project.machines[0], *machines)))
        if chance >= project.delivery.confidence:
            best = min(best, cost)
    assert way.least is not None, "the case is too hard to show anything"
    assert way.least.extra > 0, "the case is too easy to show anything"
    rounding = max(slow.price_per_hour, quick.price_per_hour)
    assert way.least.cost <= best + rounding


def test_the_cheapest_work_comes_first_and_what_can_be_had_is_the_end():
    dear = Machine(name="dear", price_per_hour=3.0)
    cheap = Machine(name="cheap", count=2, speed=2.0, price_per_hour=4.0, most=5, most_hours=20.0)
    none = Machine(name="none yet", count=0, most=3, price_per_hour=2.5)
    project = make_project(machines=(dear, cheap, none, OWN))
    assert [one.name for one in rented_first(project)] == ["cheap", "none yet", "dear"]
    assert rentable_h(project, cheap) == 20.0
    changed = {machine.name: machine for machine in with_rented(project, 25.0).machines}
    assert (changed["cheap"].count, changed["cheap"].most_hours) == (2, 20.0)
    assert (changed["none yet"].count, changed["none yet"].most_hours) == (1, 5.0)
    assert changed["dear"].count == 0
    assert changed["own"] == OWN


def test_where_not_even_all_that_can_be_rented_is_enough_it_is_said():
    film = known_film(Machine(name="rented", price_per_hour=2.0, speed=0.01), deadline="2031-04-21T12:00Z")
    way = rent(film)
    assert way.least is None
    assert way_words(way, str).startswith("Not even with all")
