"""The order that keeps most dates, against trying all orders by themselves."""

import itertools
from datetime import timedelta

import numpy as np

from film import make_project, make_shot, well_timed
from pemlo.core.cost.draws import draw_film
from pemlo.core.cost.fit import fit
from pemlo.core.cost.fit_input import fit_input
from pemlo.core.forecast.best_order import TRIED_DRAWS, orders_tried
from pemlo.core.forecast.finish import finish_of
from pemlo.core.project.edits import set_running, set_shot
from pemlo.core.project.machines import Machine

NAMES = ("010", "020", "030")


def film(frames=(30, 60, 20), speed=0.2):
    shots = tuple(make_shot(name, count) for name, count in zip(NAMES, frames, strict=True))
    trials = tuple(one for name, count in zip(NAMES, frames, strict=True) for one in well_timed(name, (1, count)))
    project = make_project(shots=shots, trials=trials, machines=(Machine(name="desk", speed=speed),))
    known = fit(fit_input(project))
    return project, known, draw_film(known, project)


def test_without_dates_the_order_as_it_stands_is_first_and_others_are_told_apart_by_their_end():
    now, *others = orders_tried(*film())
    assert (now.order, now.dates) == ("film", 1.0)
    assert {other.order for other in others} == {"longest", "shortest"}
    assert others[0].worth >= others[1].worth


def test_dates_that_can_be_kept_are_kept_as_trying_all_orders_finds():
    project, known, draws = film()
    ends = finish_of(project, known, draws).shots
    first = set_shot(project, "030", due=project.start + timedelta(hours=(ends["010"].middle + ends["020"].middle) / 3))
    dated = set_shot(first, "020", due=project.start + timedelta(hours=ends["030"].middle))
    now, best, *_ = orders_tried(dated, known, draws)
    which = np.arange(TRIED_DRAWS)
    kept = []
    for queue in itertools.permutations(NAMES):
        found = finish_of(set_running(dated, order="by hand", queue=queue), known, draws, which=which)
        kept.append(np.mean([date.probability for date in found.dates]) + found.probability)
    assert best.worth > now.worth
    assert round(best.dates + best.probability, 3) == round(max(kept), 3)
    again = finish_of(best.taken(dated), known, draws, which=which)
    assert np.mean([date.probability for date in again.dates]) == best.dates
