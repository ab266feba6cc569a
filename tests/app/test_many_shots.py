"""What is worked out of a film of many shots before anybody asks: what is looked at first, and not all of all."""

import pytest

from pemlo.app.film_known import MOST_ADVISED, advice_known, telling_shots
from pemlo.app.planner import MOST_NEAR, wanted, weigh
from pemlo.app.shot_metrics import MOST_AT_ONCE, ShotMetrics
from pemlo.core.film.choices import FALL, NUMBERS, OPTIONS, PLAN_OPTIONS
from pemlo.core.film.film import Film
from pemlo.core.film.values import ADVICE, FIRST_FORECAST
from pemlo.core.progress import Unwatched
from thousand import thousand


@pytest.fixture(scope="module")
def film():
    made = Film(thousand(MOST_ADVISED + 20))
    made.hold("test")
    return made


class State:
    """A state of which a film and its fit are known."""

    def __init__(self, film):
        self.film, self.known = film, film


def test_what_is_looked_at_comes_first_and_only_its_neighbours_are_weighed_whole(film):
    names = [shot.name for shot in film.project.shots]
    values = wanted(film, names[70])
    assert (values[0][0], values[0][1].shot.name) == (OPTIONS, names[70])
    whole = [given.shot.name for value, given in values if value is OPTIONS]
    assert len(whole) == MOST_NEAR
    assert {names[69], names[71], names[50]} < set(whole)
    for value in (PLAN_OPTIONS, FALL, NUMBERS):
        assert sum(one is value for one, _ in values) == len(names)


def test_the_fall_of_many_shots_is_asked_for_and_not_made_while_somebody_waits(film):
    fresh = Film(thousand(MOST_AT_ONCE + 1))
    fresh.hold("test")
    metrics = ShotMetrics(State(fresh), None)
    assert metrics.waterfalls() == ()
    assert metrics.of_all() == {}
    told = []
    weigh(fresh, wanted(fresh, fresh.project.shots[0].name), lambda: told.append(1), Unwatched())
    assert len(metrics.waterfalls()) == len(metrics.of_all()) == MOST_AT_ONCE + 1
    assert told


def test_next_trials_are_weighed_for_the_shots_whose_hours_are_least_sure(film):
    forecast = film.get(FIRST_FORECAST, film.run_input)
    shots = telling_shots(film, forecast)
    width = {one.shot: one.hours.high - one.hours.low for one in forecast.shots}
    assert len(shots) == MOST_ADVISED
    least = min(width[shot.name] for shot in shots)
    assert all(width[one.shot] <= least for one in forecast.shots if one.shot not in {shot.name for shot in shots})
    assert advice_known(film, forecast) == ()
    few = Film(thousand(3))
    few.hold("test")
    forecast = few.get(FIRST_FORECAST, few.run_input)
    made = [one for shot in few.project.shots for one in few.get(ADVICE, few.advice_input(shot))]
    assert len(advice_known(few, forecast)) == len(made)
