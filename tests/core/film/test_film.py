"""Every value of a film is as if made anew of the whole project, whatever was edited before, and in which order."""

import numpy as np
import pytest

from by_day import cases
from film_edits import (
    DELIVERY,
    FILM,
    MACHINE,
    MADE_ELSEWHERE,
    RUNNING,
    SHOT,
    SHOT_SETTINGS,
    TRIAL,
    Editing,
    few_options,
    rich_film,
    same,
    wrong_after,
)
from pemlo.core.film import choices
from pemlo.core.film.film import Film
from pemlo.core.project.delivery import Delivery
from pemlo.core.project.machines import Machine
from pemlo.core.project.project import Project
from pemlo.core.project.running import Running
from pemlo.core.project.settings import ShotSettings
from pemlo.core.project.shots import Shot
from pemlo.core.project.trials import Trial

EDITS = cases(75)


@pytest.mark.parametrize("seed", [1, pytest.param(2, marks=pytest.mark.nightly)])
def test_every_value_is_as_if_made_anew_after_any_edits_and_undos(tmp_path, seed):
    with few_options():
        editing = Editing(Film(rich_film(tmp_path), tmp_path), seed)
        assert editing.film.look("010") is not None, "it is known how a shot looks"
        assert wrong_after(editing, EDITS, np.random.default_rng(seed)) == []


def test_numbers_that_are_made_before_a_shot_was_looked_at_do_not_stand_for_those_after(tmp_path):
    """Once they did: a shot whose pictures came late had no error in Trade."""
    film = Film(rich_film(tmp_path), tmp_path)
    shot, known = film.project.shots[0], film.known
    early = film.get(choices.NUMBERS, film.as_known(shot))
    assert early.found is None
    assert known[0].known
    film.looks()
    late = film.get(choices.NUMBERS, film.as_known(shot))
    assert late.found is not None
    assert late.found.total.middle == pytest.approx(film.options(shot.name).error[0], rel=1e-6)
    assert late.middle_hours == pytest.approx(early.middle_hours)


def test_every_field_is_edited():
    tables = {
        Project: {*FILM, *MADE_ELSEWHERE}, Delivery: DELIVERY, Running: RUNNING, Machine: MACHINE, ShotSettings: SHOT_SETTINGS,
        Shot: {*SHOT, "name", "asked", "plan"}, Trial: {*TRIAL, "shot"},
    }  # fmt: skip
    for record, table in tables.items():
        assert set(table) == set(record.model_fields), record.__name__


def test_two_values_that_differ_are_not_called_the_same():
    one = {"a": (1.0, np.array([1.0, np.nan]))}
    assert same(one, {"a": (1.0, np.array([1.0, np.nan]))})
    for other in ({"a": (1.1, np.array([1.0, np.nan]))}, {"a": (1.0, np.array([1.0, 2.0]))}, {"a": (1.0,)}, {}):
        assert not same(one, other)
