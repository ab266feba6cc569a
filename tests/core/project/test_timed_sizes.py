"""A trial keeps the pixels that it was timed at, whatever size the film gets.

Common practice, no source: HD to 4K to 8K is 4 and 16 times the pixels.
"""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from film import exact_trial, make_project, make_shot
from pemlo.core.persistence.csv_trials import read_trials, write_trials
from pemlo.core.persistence.document import from_text, to_text
from pemlo.core.project.edits import add_trials, set_delivery, set_shot, set_trial
from pemlo.core.project.timed_sizes import percent_of, rendered_size


def film_at(*percents, **delivery):
    trials = tuple(exact_trial("010", 1, 64, percent) for percent in percents)
    return make_project(shots=(make_shot("010"),), trials=trials, **delivery)


def sizes(project):
    return [(trial.width, trial.height, trial.resolution_percent) for trial in project.trials]


def test_the_pixels_stay_and_the_percentage_follows():
    film = film_at(50, 100, 200)
    assert sizes(film) == [(960, 540, 50), (1920, 1080, 100), (3840, 2160, 200)]
    four_k = set_delivery(film, width=3840, height=2160)
    assert sizes(four_k) == [(960, 540, 25), (1920, 1080, 50), (3840, 2160, 100)]
    assert sizes(set_delivery(four_k, width=7680, height=4320)) == [
        (960, 540, 12.5), (1920, 1080, 25), (3840, 2160, 50),
    ]  # fmt: skip
    assert set_delivery(four_k, width=1920, height=1080) == film
    own = set_shot(film, "010", width=960, height=540)
    assert sizes(own) == [(960, 540, 100), (1920, 1080, 200), (3840, 2160, 400)]


def test_of_another_shape_pixels_count_by_their_number():
    square = set_delivery(film_at(100), width=900, height=900)
    assert sizes(square) == [(1920, 1080, 160)], "1920 x 1080 = 160 % of 900 on each side, squared"
    assert sizes(set_delivery(square, width=1920, height=1080)) == [(1920, 1080, 100)]


def test_sizes_far_from_each_other_are_kept():
    tiny = set_delivery(film_at(200), width=8, height=8)
    assert sizes(set_delivery(tiny, width=1920, height=1080)) == [(3840, 2160, 200)]


@given(st.integers(64, 70_000), st.integers(64, 70_000), st.integers(1, 400))
def test_a_percentage_that_was_typed_comes_back(width, height, percent):
    timed = rendered_size((width, height), percent)
    assert rendered_size((width, height), percent_of(timed, (width, height))) == timed


def test_records_that_need_nothing_stay_the_same_objects():
    film = set_delivery(film_at(50, 100), width=900, height=900)
    later = film.replace(title="Another")
    assert all(one is other for one, other in zip(film.trials, later.trials, strict=True))


def test_an_old_document_was_timed_at_the_delivery_that_it_was_saved_with():
    film = film_at(50)
    text = to_text(film).replace('"width": 960,', "").replace('"height": 540,', "")
    assert "960" not in text
    assert sizes(from_text(text, "old.pemlo")) == [(960, 540, 50)]


def test_a_percentage_that_is_typed_anew_changes_the_pixels():
    film = set_trial(film_at(50), 0, resolution_percent=25)
    assert sizes(film) == [(480, 270, 25)]
    assert sizes(set_trial(film, 0, width=1920)) == [(1920, 1080, 100)], "the height follows from the shape"
    assert sizes(set_trial(film, 0, height=540)) == [(960, 540, 50)]


def test_tables_of_trials_take_width_and_height():
    film = make_project(shots=(make_shot("010"),))
    read = read_trials("shot,frame,seconds,width,height\n010,1,20,3840,2160\n010,2,5,,\n010,3,5,960,\n", film)
    film = add_trials(film, read)
    assert sizes(film) == [(3840, 2160, 200), (1920, 1080, 100), (960, 540, 50)]
    pasted = add_trials(film_at(width=3840, height=2160), read_trials(write_trials(film), film_at(width=3840)))
    assert sizes(pasted) == [(3840, 2160, 100), (1920, 1080, 50), (960, 540, 25)]


@pytest.mark.parametrize("cell", ["0", "-5", "1.5", "1e99", "wide"])
def test_a_width_that_cannot_be_is_refused_with_its_place(cell):
    with pytest.raises(Exception, match=r"line 2, column width"):
        read_trials(f"shot,frame,seconds,width\n010,1,20,{cell}\n", film_at())
