"""Square and upright: sizes by hand, hours by pixels, and shots that keep their times."""

import numpy as np
import pytest

from film import make_project, make_shot, well_timed
from pemlo.core.errors import InputError
from pemlo.core.film.film import Film
from pemlo.core.project.reframing import only_reframed, reframed, with_reframed
from pemlo.core.project.trials import GOOD


@pytest.mark.parametrize(
    ("size", "shape", "new", "crop", "share"),
    [
        ((1920, 1080), "square", (1080, 1080), (1080, 1080), 0.5625),
        ((1920, 1080), "upright", (1080, 1920), (608, 1080), 0.3167),
        ((1920, 1080), "tall", (1080, 1350), (864, 1080), 0.45),
        ((3840, 2160), "square", (2160, 2160), (2160, 2160), 0.5625),
        ((1080, 1920), "wide", (1920, 1080), (1080, 608), 0.3167),
        ((1080, 1080), "square", (1080, 1080), (1080, 1080), 1.0),
    ],
)
def test_sizes_and_crops_by_hand(size, shape, new, crop, share):
    found = reframed(size, shape)
    assert (found.size, found.crop) == (new, crop)
    assert found.share == pytest.approx(share, abs=1e-3)


def film():
    trials = tuple(one.replace(mark=GOOD, picture="a.exr") for one in well_timed("010"))
    return make_project((make_shot("010"),), trials)


def test_a_square_takes_hours_by_its_pixels():
    """By hand: 9 of 16 of the pixels, and the same seconds before any pixel."""
    project = film()
    whole, square = Film(project).forecast, Film(only_reframed(project, "square")).forecast
    fixed = 20.0 * 100 / 3600  # of each of a hundred frames, as the trials were made
    assert square.hours.middle - fixed == pytest.approx((whole.hours.middle - fixed) * 0.5625, rel=0.05)
    upright = Film(only_reframed(project, "upright")).forecast
    assert upright.hours.middle == pytest.approx(whole.hours.middle, rel=0.05)  # as many pixels


def test_copies_have_their_own_size_and_the_times_of_their_shots():
    grown = with_reframed(film(), "square")
    assert [shot.name for shot in grown.shots] == ["010", "010 square"]
    assert grown.size_of(grown.shots[1]) == (1080, 1080)
    mine = [trial for trial in grown.trials if trial.shot == "010 square"]
    assert [one.seconds for one in mine] == [trial.seconds for trial in film().trials]
    assert {(one.width, one.height) for one in mine} == {(trial.width, trial.height) for trial in film().trials}
    # What somebody saw was of another picture.
    assert not any(one.mark or one.picture for one in mine)
    hours = [shot.hours.middle for shot in Film(grown).forecast.shots]
    assert np.isfinite(hours).all()
    assert hours[1] < 0.75 * hours[0]


def test_a_shape_that_is_there_already_is_refused():
    grown = with_reframed(film(), "square")
    with pytest.raises(InputError, match="Every shot exists as square"):
        with_reframed(grown, "square")
    assert len(with_reframed(grown, "upright").shots) == 4
