"""Kept data live on each machine: the first frame that each takes is worked out whole."""

import numpy as np
import pytest

from film import make_project, make_shot
from pemlo.core.cost.draws import draw_film
from pemlo.core.cost.fit import fit
from pemlo.core.cost.fit_input import fit_input
from pemlo.core.forecast.needs import shot_hours, whole_share
from pemlo.core.forecast.verdict import forecast
from pemlo.core.project.machines import Machine
from pemlo.core.project.settings import ShotSettings
from pemlo.core.project.trials import Trial

FULL, KEPT = 77.0, 8.0  # seconds, in the proportion of a case as people report it (common practice, no source)


def film(frames, machines):
    """A shot whose geometry and light are kept, well timed both ways."""
    plain = ShotSettings(samples=64)
    kept = plain.replace(keep=("prepare", "light"))
    trials = []
    for frame in (1, 5, 9):
        stages = {"trace_seconds": 6.0, "denoise_seconds": 0.0, "write_seconds": 1.0}
        trials.append(
            Trial(shot="010", frame=frame, samples=64, seconds=FULL, prepare_seconds=43.0, light_seconds=27.0, **stages)
        )
        trials.append(
            Trial(
                shot="010",
                frame=frame,
                samples=64,
                seconds=KEPT,
                prepare_seconds=0.7,
                light_seconds=0.3,
                keep=kept.keep,
                **stages,
            )
        )
    shot = make_shot("010", frames).replace(asked=kept)
    return make_project((shot,), tuple(trials), machines)


@pytest.mark.parametrize(("count", "at_once", "frames"), [(1, 1, 10), (3, 1, 10), (2, 2, 100), (30, 1, 10)])
def test_hours_are_those_of_full_frames_on_each_machine_and_kept_ones_after(count, at_once, frames):
    project = film(frames, (Machine(name="a", count=count, frames_at_once=at_once),))
    known = fit(fit_input(project))
    hours = float(np.median(shot_hours(known, draw_film(known, project), project, project.shots[0])))
    first = min(count * at_once, frames)
    assert hours * 3600 == pytest.approx(first * FULL + (frames - first) * KEPT, rel=0.06)


def test_without_kept_data_nothing_changes():
    project = film(10, (Machine(name="a"),))
    shot = project.shots[0]
    assert whole_share(project, shot, shot.asked.replace(keep=())) == 0.0
    assert whole_share(project.replace(machines=()), shot, shot.asked) == pytest.approx(0.1)


def test_the_forecast_counts_them_too():
    project = film(10, (Machine(name="a", count=3),))
    known = fit(fit_input(project))
    found = forecast(project, known, draw_film(known, project))
    assert found.hours.middle * 3600 == pytest.approx(3 * FULL + 7 * KEPT, rel=0.06)
