"""A film that begins now: its start goes on with the clock until frames are watched, or until it is typed."""

from datetime import datetime, timedelta

import pytest

from film import START, make_project, make_shot, well_timed
from pemlo.core.film.film import Film, open_film
from pemlo.core.persistence.document import write_project
from pemlo.core.project.machines import Machine
from pemlo.core.project.start import with_start_now
from pemlo.core.project.watching import Watching

AT = datetime.fromisoformat(START)


def film(**fields):
    machines = (Machine(name="desk", count=2),)
    return make_project(trials=well_timed(), machines=machines).replace(starts_now=True, **fields)


def test_two_machines_do_not_get_the_56_minutes_that_are_gone():
    """By hand: 80 hours of two machines are 160, and 56 minutes of two are 1.87 less."""
    before = Film(film()).forecast.hours_available
    later = with_start_now(film(), AT + timedelta(minutes=56, seconds=20))
    assert later.start == AT + timedelta(minutes=56)
    assert before - Film(later).forecast.hours_available == pytest.approx(2 * 56 / 60, abs=0.01)


@pytest.mark.parametrize(
    "other",
    [
        film().replace(starts_now=False), film(watching=Watching(place="r/{shot}.{frame:04}.exr")),
        film(shots=(make_shot().replace(place="r/{frame:04}.exr"), make_shot("020"))),
    ],
)  # fmt: skip
def test_a_start_that_was_typed_and_that_of_frames_that_are_watched_stay(other):
    assert with_start_now(other, AT + timedelta(hours=5)) is other


def test_the_clock_may_be_wrong_and_the_film_over():
    for now in (AT - timedelta(days=1), AT, AT + timedelta(days=9)):
        assert with_start_now(film(), now).start == AT
    assert with_start_now(film(), AT + timedelta(minutes=9), timedelta(minutes=10)).start == AT


def test_a_film_that_is_opened_later_begins_then(tmp_path):
    path = tmp_path / "film.pemlo"
    write_project(film(), path)
    assert open_film(path).project.start == AT
    assert open_film(path, now=AT + timedelta(hours=3)).project.start == AT + timedelta(hours=3)
