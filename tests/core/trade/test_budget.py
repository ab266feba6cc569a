"""Money is a limit like hours: three cases by hand, and every plan of a small film against all that there are."""

import itertools
import re
from datetime import UTC, datetime

import numpy as np
import pytest

from film import make_project, make_shot
from pemlo.core.farm.money import affordable_h, cost_curve, cost_words, unpriced
from pemlo.core.film.film import Film
from pemlo.core.project.currencies import currency
from pemlo.core.project.edits import adopt
from pemlo.core.project.machines import Machine
from pemlo.core.project.settings import ShotSettings
from pemlo.core.project.trials import GOOD, Trial
from pemlo.handover.case_facts import case_facts
from pemlo.handover.pages import case_page

ASKED = ShotSettings(samples=256)


def film(budget=None, price=2.0, currency="EUR"):
    """Two shots of 36 frames: 10 and 5 minutes a frame, a half and a quarter of the samples passed."""
    shots = (make_shot("010", 36), make_shot("020", 36))
    trials = tuple(
        Trial(shot=shot.name, frame=18, seconds=seconds * share, mark=GOOD if share < 1 else "",
              **ASKED.replace(samples=round(256 * share)).frame_fields())
        for shot, seconds in zip(shots, (600.0, 300.0), strict=True)
        for share in (1, 0.5, 0.25)
    )  # fmt: skip
    machines = (Machine(name="rented", price_per_hour=price),)
    project = make_project(shots, trials, machines)
    return project.replace(delivery=project.delivery.replace(budget=budget, currency=currency))


def test_nine_hours_at_two_cost_eighteen():
    project = film(budget=18.5)
    assert affordable_h(project) == pytest.approx(9.25)
    assert cost_words(project, 9.0) == "18 EUR of a budget of 18.5 EUR"
    found = Film(film()).plan("picture")
    assert np.median(found.plan.hours) == pytest.approx(9.0, rel=0.02)
    assert found.budget_h is None


def test_a_plan_costs_no_more_than_the_budget_and_nothing_cleaner_would_do():
    """By hand: 6 h as asked and 3 h; 13 pay for 6.5 h at 2, so that the long shot has half its samples."""
    project = film(budget=13.0)
    found = Film(project).plan("picture")
    assert cost_curve(project).at(found.plan.needed) <= 13.0
    assert found.available_h == pytest.approx(6.5)
    assert found.budget_h == pytest.approx(6.5)
    options = [Film(project).options(shot.name) for shot in project.shots]
    places = [[shot_options.place(ASKED.replace(samples=n)) for n in (256, 128, 64)] for shot_options in options]
    affordable = [
        chosen for chosen in itertools.product(*places)
        if np.quantile(sum(one.draws(k) for one, k in zip(options, chosen, strict=True)), 0.9) * 2 <= 13.0
    ]  # fmt: skip
    as_asked = [sum(place == own[0] for place, own in zip(chosen, places, strict=True)) for chosen in affordable]
    kept = sum(one == ASKED for one in found.settings().values())
    assert kept == max(as_asked) == 1


def test_a_budget_that_pays_for_nothing_is_short():
    found = Film(film(budget=1.0)).plan("missing")
    assert not found.plan.feasible
    assert "short" in found.ledger(0.9).apart


def test_machines_without_a_price_are_said_to_have_none():
    machines = (Machine(name="rented", price_per_hour=3.0), Machine(name="tower"))
    project = film().replace(machines=machines)
    assert unpriced(machines) == ("tower",)
    assert cost_words(project, 10.0) == "15 EUR; tower has no price and counts as free"
    assert cost_words(project.replace(machines=machines[1:]), 10.0) == ""


def test_currencies_are_those_of_the_standard():
    assert [currency(one) for one in ("eur", "€", " usd ")] == ["EUR", "EUR", "USD"]
    with pytest.raises(ValueError, match="ISO 4217"):
        currency("XXQ")


def test_the_case_says_what_the_plan_costs_by_shot_and_by_change():
    """By hand: 36 frames of 10 minutes are 6 h, of 5 minutes 3 h; half of the long one saves 3 h, 6 at 2 an hour."""
    project = film(budget=20.0)
    project = adopt(project, {"010": ASKED.replace(samples=128)})
    page = case_page(case_facts(Film(project), datetime(2031, 4, 21, 10, tzinfo=UTC)))
    likely = re.search(r"The plan costs about ([\d.]+) EUR of a budget of 20 EUR\.", page)
    assert float(likely[1]) == pytest.approx(12, rel=0.03)
    cells = re.findall(r"<td class=\"left\">(010|020)<td>36<td>[^<]*<td>[^<]*<td>([\d.]+)<td>", page)
    assert {shot: float(cost) for shot, cost in cells} == {
        "010": pytest.approx(6, rel=0.03),
        "020": pytest.approx(6, rel=0.03),
    }
    saved = re.search(r"samples<td class=\"left\">[^<]*<td class=\"narrow\">3<td class=\"narrow\">([\d.]+)", page)
    assert float(saved[1]) == pytest.approx(6, rel=0.03)
    free = project.replace(machines=(Machine(name="own"),))
    assert "EUR" not in case_page(case_facts(Film(free), datetime(2031, 4, 21, 10, tzinfo=UTC)))


@pytest.mark.parametrize("hours", ["always", "Mon-Fri 21:00-06:00"])
def test_what_a_plan_is_said_to_cost_is_what_its_run_costs(hours):
    """The plan's cost is poured, the run's is by every frame: they are the same but for what waits at the end."""
    machines = (Machine(name="own"), Machine(name="rented", speed=1.6, price_per_hour=2.4, hours=hours))
    project = film().replace(machines=machines)
    found = Film(project).plan("hours")
    planned = found.taken(project)
    run = Film(planned).run
    said = cost_curve(planned).at(float(np.median(found.plan.hours)))
    assert sum(use.cost or 0.0 for use in run.machines) == pytest.approx(said, rel=0.06)
