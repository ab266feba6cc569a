"""Layers: each with settings and cost of its own; hours add up, time on screen counts once."""

import numpy as np
import pytest

from film import exact_seconds, make_project, make_shot
from pemlo.core.cost.draws import draw_film
from pemlo.core.cost.fit import fit
from pemlo.core.cost.fit_input import fit_input
from pemlo.core.errors import InputError
from pemlo.core.forecast.verdict import forecast
from pemlo.core.persistence.csv_shots import read_shots, write_shots
from pemlo.core.persistence.document import read_project, write_project
from pemlo.core.project.edits import add_trials, set_shot
from pemlo.core.project.layers import WHOLE, in_layers
from pemlo.core.project.settings import FrameSettings
from pemlo.core.project.trials import Trial


def timed(shot, samples, factor=1.0):
    seconds = factor * exact_seconds(FrameSettings(samples=samples))
    return Trial(shot=shot, frame=50, samples=samples, seconds=round(seconds, 1))


def layered():
    project = make_project(shots=(make_shot("010", 100), make_shot("020", 50)), trials=(timed("010", 256),))
    return in_layers(project, "010", ["background", "character", "utility"])


def test_a_shot_in_layers_is_still_one_shot_of_the_film():
    project = layered()
    assert [shot.name for shot in project.shots] == ["010 background", "010 character", "010 utility", "020"]
    assert [shot.film_name for shot in project.on_screen] == ["010", "020"]
    assert sum(map(project.screen_seconds, project.on_screen)) == pytest.approx(150 / 24)
    assert project.shot("010 utility").asked.samples == 16
    assert project.layer_counts()[[shot.name for shot in project.shots].index("010 character")] == 3
    (trial,) = project.trials
    assert (trial.shot, trial.left_out) == ("010 background", WHOLE)


def test_a_still_background_is_rendered_once_and_a_moving_character_in_every_frame():
    project = set_shot(in_layers(make_project(shots=(make_shot("010", 100),)), "010", ["background", "character"]),
                       "010 background", still=True)  # fmt: skip
    project = add_trials(project, [timed("010 background", 256), timed("010 background", 64),
                                   timed("010 character", 256, 0.5), timed("010 character", 64, 0.5)])  # fmt: skip
    known = fit(fit_input(project))
    found = forecast(project, known, draw_film(known, project))
    once = exact_seconds(FrameSettings(samples=256))
    by_hand = (1 * once + 100 * 0.5 * once) / 3600
    assert [shot.frames for shot in found.shots] == [1, 100]
    assert found.hours.middle == pytest.approx(by_hand, rel=0.08)
    assert found.hours.low < by_hand < found.hours.high
    moving = forecast(set_shot(project, "010 background", still=False), known, draw_film(known, project))
    assert moving.hours.middle == pytest.approx((100 + 50) * once / 3600, rel=0.08)


def test_what_cannot_be_layers_is_refused():
    project = layered()
    for name, layers in (("020", ["one"]), ("020", ["a", "A"]), ("010 character", ["a", "b"]), ("020", [])):
        with pytest.raises(InputError):
            in_layers(project, name, layers)
    with pytest.raises(InputError, match="still"):
        set_shot(project, "020", still=True, moves=("camera",))


def test_layers_are_kept_in_the_file_and_in_tables(tmp_path):
    project = set_shot(layered(), "010 background", still=True)
    write_project(project, tmp_path / "film.pemlo")
    assert read_project(tmp_path / "film.pemlo") == project
    again = read_shots(write_shots(project))
    assert [(shot.part_of, shot.still) for shot in again] == [
        ("010", True),
        ("010", False),
        ("010", False),
        ("", False),
    ]


def test_a_name_that_is_taken_gets_a_number():
    project = make_project(shots=(make_shot("010"), make_shot("010 background")))
    names = [shot.name for shot in in_layers(project, "010", ["background", "character"]).shots]
    assert len(set(names)) == 3
    assert np.isin("010 character", names)
