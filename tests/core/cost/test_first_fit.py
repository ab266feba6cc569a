"""What is said of a film before its fit: near what the fit says, and the fit is the same after it."""

import numpy as np
import pytest

from film import exact_trial, make_project, make_shot
from pemlo.core.cost.fit import begin_fit, first_fit, fit
from pemlo.core.cost.fit_input import fit_input
from pemlo.core.film.film import Film
from pemlo.core.film.memo import Memo
from pemlo.core.film.values import FIRST_ANSWER, FIT, MANY_TIMED, is_large
from pemlo.core.interval import interval_of, intervals_of
from pemlo.core.project.machines import Machine

SHOTS = 40


def film(shots=SHOTS, seed=0):
    dice = np.random.default_rng(seed)
    names = [f"{number:03d}" for number in range(shots)]
    trials = [
        exact_trial(name, int(dice.integers(1, 100)), int(dice.choice([16, 64, 256])), 50.0,
                    float(np.exp(0.2 * dice.standard_normal())))
        for name in names for _ in range(2)
    ]  # fmt: skip
    machines = (Machine(name="reference", count=20),)
    return make_project(tuple(make_shot(name) for name in names), tuple(trials), machines)


@pytest.fixture(scope="module")
def both():
    given = fit_input(film())
    begun = begin_fit(given)
    return given, begun, first_fit(given, begun), fit(given)


def test_the_fit_is_the_same_to_the_bit_after_a_first_answer(both):
    given, begun, _, plain = both
    for _ in range(2):  # what was begun stays as it is
        after = fit(given, begun=begun)
        assert np.array_equal(after.film, plain.film)
        assert all(np.array_equal(after.shots[name].theta, plain.shots[name].theta) for name in plain.shots)
        assert after.disagreements == plain.disagreements


def test_a_first_answer_is_near_the_fit(both):
    _, _, first, plain = both
    assert len(first.film) < len(plain.film)
    for name in plain.shots:
        # The middle of each parameter is within half of what it may be off by.
        off = np.median(first.shots[name].theta, axis=0) - np.median(plain.shots[name].theta, axis=0)
        assert np.all(np.abs(off) < 0.5 * plain.shots[name].theta.std(axis=0) + 0.02)


def test_large_films_have_a_first_answer_that_their_forecast_confirms():
    project = film(MANY_TIMED + 1)
    made = Film(project)
    assert is_large(made.fit_input)
    assert not is_large(fit_input(film()))
    first = made.get(FIRST_ANSWER, made.run_input)
    assert made.peek(FIT, made.fit_input) is None
    made.hold("test")
    said, found = first.forecast.hours, made.forecast.hours
    wide = found.high - found.low
    assert said.middle == pytest.approx(found.middle, abs=0.25 * wide)
    assert said.high - said.low == pytest.approx(wide, rel=0.3)
    assert first.forecast.finish is not None


def test_a_first_answer_stays_however_large_it_is_and_its_chains_go_on(monkeypatch):
    """Of three thousand shots it is larger than what is kept beside an open film: once it was gone before it was shown."""
    begun = []
    monkeypatch.setattr("pemlo.core.film.values.begin_fit", lambda *given: begun.append(1) or begin_fit(*given))
    large = Film(film(), memo=Memo(most_bytes=0))
    large.hold("test")
    large.get(FIRST_ANSWER, large.run_input)
    assert large.peek(FIRST_ANSWER, large.run_input) is not None
    assert large.fit.known
    assert begun == [1]


def test_a_film_of_which_nothing_was_timed_has_the_fit_as_first_answer():
    given = fit_input(make_project())
    assert not first_fit(given, begin_fit(given)).known


@pytest.mark.parametrize("infinite", [False, True])
def test_intervals_of_many_rows_are_those_of_each(infinite):
    rows = np.random.default_rng(1).lognormal(size=(7, 100))
    if infinite:
        rows[2, 3:10] = np.inf
    assert intervals_of(rows) == [interval_of(row) for row in rows]
