"""Long work is stopped in the middle of a part, not only between two."""

import numpy as np
import pytest

from film import make_project, make_shot, well_timed
from pemlo.core.cost.draws import draw_film
from pemlo.core.cost.fit import fit
from pemlo.core.cost.fit_input import fit_input
from pemlo.core.forecast.what_it_takes import what_it_takes
from pemlo.core.progress import Cancelled
from pemlo.core.project.machines import Machine
from pemlo.core.trade import options
from pemlo.core.trade.film_options import evaluate_film_options
from pemlo.core.trade.options import options_of


class StopsAfter:
    """A monitor that is asked a few times, and then wants no more."""

    def __init__(self, count):
        self.left, self.texts = count, []

    def step(self, fraction, text):
        self.texts.append(text)
        self.left -= 1
        if self.left < 0:
            raise Cancelled


@pytest.fixture(scope="module")
def known():
    shot = make_shot("010", 60, noise_threshold=0.02, min_samples=16)
    project = make_project((shot,), well_timed(frames=(1, 60)), (Machine(name="desk"),), deadline="2031-04-21T12:00Z")
    made = fit(fit_input(project))
    return project, made, draw_film(made, project)


def test_options_of_one_shot_are_stopped_in_their_middle(known, monkeypatch):
    project, made, draws = known
    monkeypatch.setattr(options, "WEIGHED_AT_ONCE", 4)
    whole = options_of(project, made, draws, project.shots[0], None)
    asked = StopsAfter(10_000)
    again = options_of(project, made, draws, project.shots[0], None, asked)
    assert len(asked.texts) == -(-len(whole.settings) // 4)
    assert np.array_equal(whole.hours, again.hours)
    with pytest.raises(Cancelled):
        options_of(project, made, draws, project.shots[0], None, StopsAfter(len(asked.texts) // 2))


def test_parts_are_the_same_to_the_bit_however_they_are_cut(known, monkeypatch):
    project, made, draws = known
    found = []
    for size in (1, 7, 100_000):
        monkeypatch.setattr(options, "WEIGHED_AT_ONCE", size)
        found.append(options_of(project, made, draws, project.shots[0], None))
    for one in found[1:]:
        assert np.array_equal(one.hours, found[0].hours)
        assert np.array_equal(one.spent, found[0].spent)


def test_weighing_a_film_is_stopped_while_its_shots_are_weighed(known, monkeypatch):
    project, made, draws = known
    monkeypatch.setattr(options, "WEIGHED_AT_ONCE", 4)
    with pytest.raises(Cancelled):
        evaluate_film_options(project, (made, draws), {}, StopsAfter(3))


def test_what_it_takes_is_stopped_in_a_run(known):
    project, made, draws = known
    counted = StopsAfter(10_000)
    what_it_takes(project, made, draws, monitor=counted)
    runs = len(counted.texts)
    own = sum(text.startswith("Trying") for text in counted.texts)
    assert runs > own, "the runs ask too"
    with pytest.raises(Cancelled):
        what_it_takes(project, made, draws, monitor=StopsAfter(runs // 2))
