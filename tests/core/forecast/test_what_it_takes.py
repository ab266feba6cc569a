"""What it would take to be done in time, held against counting by hand and against each number tried by itself."""

from datetime import date

import numpy as np
import pytest

from film import exact_trial, make_project, make_shot
from pemlo.core.cost.draws import draw_film
from pemlo.core.cost.fit import fit
from pemlo.core.cost.fit_input import fit_input
from pemlo.core.errors import InputError
from pemlo.core.farm.simulation import farm_of
from pemlo.core.forecast.finish import finish_of
from pemlo.core.forecast.moves_most import TRIED_DRAWS, Move, moves_most
from pemlo.core.forecast.what_it_takes import (
    closed_days,
    ways_to_add,
    what_it_takes,
    with_addition,
    with_days,
    with_more,
)
from pemlo.core.project.edits import set_machine
from pemlo.core.project.machines import Machine, OtherHours
from pemlo.words.takes import moves_words, way_words

NIGHTS = "Mon-Sun 20:00-08:00"


def known_film(machines, **more):
    """A film of 100 frames, with what is known of its costs."""
    trials = tuple(exact_trial("010", frame, samples) for frame in (1, 50, 100) for samples in (256, 64))
    project = make_project(shots=(make_shot("010"),), trials=trials, machines=machines, **more)
    known = fit(fit_input(project, 0))
    return project, known, draw_film(known, project, 0)


def test_the_fewest_more_are_those_that_trying_each_number_finds():
    desk = Machine(name="desk", speed=0.008, price_per_hour=3.0)
    project, known, draws = known_film((desk, Machine(name="other", speed=0.004)))
    wanted = project.delivery.confidence
    way = what_it_takes(project, known, draws)[0]
    chances = []
    for extra in range(way.least.extra + 1):
        machines = (with_more(desk, extra), project.machines[1])
        chances.append(finish_of(project.replace(machines=machines), known, draws).probability)
    assert way.least.extra > 1, "the case is too easy to show anything"
    assert all(chance < wanted for chance in chances[:-1])
    assert way.least.probability == chances[-1] >= wanted
    assert [step.extra for step in way.curve] == sorted({step.extra for step in way.curve})
    assert way.curve[0].extra == 0
    assert way.curve[-1].extra >= 2 * way.least.extra
    assert way.curve[-1].finish_h < way.curve[0].finish_h
    assert way.least.cost > 0
    # None more is what the headline says, and the fewest are on the curve: one set of draws.
    assert way.curve[0].probability == chances[0]
    assert way.least in way.curve


def test_none_more_are_needed_where_it_is_done_in_time():
    (way,) = what_it_takes(*known_film((Machine(name="desk", speed=100.0),)))
    assert way.least.extra == 0


def test_what_no_number_reaches_says_so():
    # One frame alone takes longer than there is time.
    (way,) = what_it_takes(*known_film((Machine(name="desk", speed=1e-5),)))
    assert way.least is None
    assert way.most == 256


def test_more_days_begin_with_the_first_and_keep_the_nights():
    desk = Machine(name="desk", hours=NIGHTS)
    project = make_project(machines=(desk,))
    closed = closed_days(project, desk)
    assert closed[0] == project.start.astimezone(project.delivery.zone).date()
    opened = with_days(project, desk, 1)
    assert closed_days(project, opened) == closed[1:]
    hours = [sum(farm_of(project.replace(machines=(one,)), 3).open_seconds(3 * 86400)) / 3600 for one in (desk, opened)]
    start = project.start.astimezone(project.delivery.zone)
    expected = 12.0 if start.hour < 8 else 20.0 - start.hour - start.minute / 60  # by hand: 8:00 to 20:00, from now on
    assert hours[1] - hours[0] == pytest.approx(expected)


def test_a_day_that_is_closed_for_once_is_opened_too():
    project = make_project()
    day = project.start.astimezone(project.delivery.zone).date()
    desk = Machine(name="desk", exceptions=(OtherHours(day=day, hours="off"),))
    project = project.replace(machines=(desk,))
    assert closed_days(project, desk) == (day,)
    assert closed_days(project, with_days(project, desk, 1)) == ()


def test_days_that_do_are_named():
    project, known, draws = known_film((Machine(name="desk", hours=NIGHTS, speed=0.04),))
    (_, way) = what_it_takes(project, known, draws)
    assert way.kind == "days"
    # The hours that are needed, less three nights of twelve, in days that give twelve more each; the first has ten.
    needed = finish_of(project, known, draws).run.busy.sum(axis=1)
    hours = float(np.quantile(needed, project.delivery.confidence)) / 3600
    assert way.least.extra == pytest.approx((hours - 36 + 2) / 12, abs=1)
    assert way.days == closed_days(project, project.machines[0])[: way.least.extra]
    assert way.days[0] == date(2031, 4, 21)


def test_machines_that_are_switched_off_may_be_what_it_takes():
    (_, way) = what_it_takes(*known_film((Machine(name="desk", speed=0.02), Machine(name="off", count=0, speed=50.0))))
    assert way.machine == "off"
    assert way.least.extra == 1


def test_nothing_timed_and_no_machine_are_refused():
    project, known, draws = known_film((Machine(name="desk"),))
    with pytest.raises(InputError, match="no machine"):
        what_it_takes(project.replace(machines=()), known, draws)
    bare = project.replace(trials=())
    unknown = fit(fit_input(bare, 0))
    with pytest.raises(InputError, match="timed"):
        what_it_takes(bare, unknown, draws)


def test_too_many_machines_to_run_are_refused():
    with pytest.raises(InputError, match="at most"):
        farm_of(make_project(machines=(Machine(name="all", count=100_000),)), 2)


def test_rented_machines_are_tried_up_to_what_can_be_had_and_for_the_hours_that_can():
    """The film needs some hours; a rented machine as fast as the reference gives 10 in all, however many there are."""
    desk = Machine(name="desk", speed=0.02)
    project, known, draws = known_film((desk,))
    needed = float(np.quantile(finish_of(project, known, draws).run.busy.sum(axis=1), 0.95)) * 0.02 / 3600
    rented = Machine(name="rented", count=0, most=3, most_hours=2 * needed, price_per_hour=5.0)
    way = what_it_takes(project.replace(machines=(desk, rented)), known, draws)[1]
    assert (way.machine, way.most, way.least.extra) == ("rented", 3, 1)
    assert way.least.cost == pytest.approx(5.0 * needed, rel=0.2)  # it does nearly all of the work
    short = rented.replace(most_hours=0.2 * needed)
    none = what_it_takes(project.replace(machines=(desk, short)), known, draws)[1]
    assert none.least is None
    assert none.curve[-1].extra == 3


def test_nights_that_do_are_named_and_come_before_days():
    desk = Machine(name="desk", hours="Mon-Fri 09:00-17:00", speed=0.06)
    project, known, draws = known_film((desk,))
    ways = what_it_takes(project, known, draws)
    assert [way.kind for way in ways] == ["machines", "nights", "days"]
    nights = ways[1]
    assert nights.least.extra == len(nights.days) > 0
    assert nights.days == tuple(date(2031, 4, 21 + k) for k in range(nights.least.extra))
    assert "desk: free on" in way_words(nights, str)
    tried = with_addition(project, "desk", "nights", nights.least.extra)
    assert finish_of(tried, known, draws).probability == nights.least.probability
    assert finish_of(with_addition(project, "desk", "nights", nights.least.extra - 1), known, draws).probability < 0.9


def test_only_the_ways_that_were_asked_for_are_tried():
    project, known, draws = known_film((Machine(name="desk", speed=0.01), Machine(name="other")))
    assert ways_to_add(project) == (("machines", "desk"), ("machines", "other"))
    (way,) = what_it_takes(project, known, draws, ways=[("machines", "other")])
    assert way.machine == "other"


def test_what_moves_the_end_most_is_what_trying_each_by_itself_finds():
    desk = Machine(name="desk", hours=NIGHTS, speed=0.05)
    project, known, draws = known_film((desk, Machine(name="blade", speed=0.03), Machine(name="old", speed=1e-4)))
    moves = moves_most(project, known, draws)
    off = {("off", machine.name) for machine in project.machines}
    assert {(move.kind, move.machine) for move in moves} == set(ways_to_add(project)) | off
    which = np.arange(TRIED_DRAWS)

    def middle(film):
        return finish_of(film, known, draws, which=which).film.middle

    for move in moves:
        film = (
            set_machine(project, move.machine, count=0)
            if move.kind == "off"
            else with_addition(project, move.machine, move.kind, 1)
        )
        assert move.sooner_h == pytest.approx(middle(project) - middle(film))
    assert [move.sooner_h for move in moves] == sorted((move.sooner_h for move in moves), reverse=True)
    # The old one takes a frame for days: without it all ends sooner.
    assert (moves[0].kind, moves[0].machine) == ("off", "old")
    assert moves_words(moves, middle(project)).startswith("Without old it would end")
    helped = (Move("nights", "desk", 2.5),)
    assert moves_words(helped, 50.0) == "One night more of desk would move the end most: 2 h sooner."
    assert moves_words(moves[-1:], 1e5) == ""
