"""Draws that are made when they are looked at are those that were there at once; and counts of changed levers."""

import numpy as np

from pemlo.core.film.film import Film
from pemlo.core.trade.hour_draws import HourDraws
from pemlo.core.trade.levers import changed_levers, count_changed
from pemlo.core.trade.options import mean_hours
from pemlo.demo import DEMO_FILE, demo_project

ROWS = np.arange(40, dtype=np.float32).reshape(10, 4)


def hour_draws():
    asked = []

    def make(places):
        asked.append(list(places))
        return ROWS[list(places)]

    return HourDraws(make, np.median(ROWS, axis=1)), asked


def test_rows_are_those_of_the_whole_and_are_made_once():
    made, asked = hour_draws()
    assert (made[3] == ROWS[3]).all()
    assert (made[np.array([3, 0])] == ROWS[[3, 0]]).all()
    assert (made[np.arange(10) > 7] == ROWS[8:]).all()
    assert asked == [[3], [0], [8, 9]]
    assert made[np.array([], int)].shape[0] == 0


def test_one_more_and_some_of_them():
    made, _ = hour_draws()
    more = made.and_one(np.array([9.0, 9.0, 9.0, 9.0]))
    assert (len(more), float(more.middle[-1])) == (11, 9.0)
    assert (more[10] == 9).all()
    some = more.only([10, 2])
    assert (some[np.array([1, 0])] == np.stack([ROWS[2], np.full(4, 9, np.float32)])).all()
    assert len(made) == 10


def test_options_of_the_demo_have_the_draws_of_a_weighing_of_all():
    film = Film(demo_project(), DEMO_FILE.parent)
    options, shot = film.options("070"), film.project.shot("070")
    places = [0, 1, len(options.settings) // 2, len(options.settings) - 1]
    whole = mean_hours(film.project, *film.known, shot, list(options.settings))[0].astype(np.float32)
    assert np.allclose(options.hours[np.array(places)], whole[places], rtol=1e-6)
    assert np.allclose(options.middle_hours, np.median(whole, axis=1), rtol=1e-6)
    counted = count_changed(shot.asked, options.settings)
    assert counted.tolist() == [len(changed_levers(shot.asked, settings)) for settings in options.settings]
