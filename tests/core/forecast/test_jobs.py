"""The jobs of a film and their order: passes, dates, priorities, layers, what waits for what. By hand."""

from datetime import timedelta

import numpy as np
import pytest

from film import make_project, make_shot, well_timed
from pemlo.core.cost.draws import draw_film
from pemlo.core.cost.fit import fit
from pemlo.core.cost.fit_input import fit_input
from pemlo.core.errors import InputError
from pemlo.core.forecast.finish import finish_of
from pemlo.core.forecast.jobs import jobs_of, needs_of, order_of
from pemlo.core.forecast.queue import queue_of
from pemlo.core.project.edits import apply_set, keep_set, remove_shots, set_running, set_shot
from pemlo.core.project.machines import Machine
from pemlo.core.project.running import FirstPass
from pemlo.core.project.settings import ShotSettings

NAMES = ("010", "020", "030", "040")
HOURS = {"010": 2.0, "020": 8.0, "030": 1.0, "040": 4.0}


def film(**fields):
    return make_project(shots=tuple(make_shot(name, 20) for name in NAMES), **fields)


def order(project):
    jobs = jobs_of(project)
    return [jobs[k].name for k in order_of(project, jobs, HOURS)]


def day(number):
    return f"2031-04-{21 + number}T18:00Z"


@pytest.mark.parametrize(
    ("rules", "expected"),
    [
        ({"order": "film"}, "010 020 030 040"),
        ({"order": "longest"}, "020 040 010 030"),
        ({"order": "shortest"}, "030 010 040 020"),
        ({"order": "by hand", "queue": ("040", "020")}, "040 020 010 030"),
    ],
)
def test_the_order_is_as_the_film_says(rules, expected):
    assert order(set_running(film(), **rules)) == expected.split()


def test_the_earliest_due_comes_first_and_a_priority_before_that():
    project = set_running(film(), order="due")
    project = set_shot(set_shot(project, "040", due=day(2)), "030", due=day(1))
    assert order(project) == ["030", "040", "010", "020"]
    assert order(set_shot(project, "020", priority=1)) == ["020", "030", "040", "010"]


def test_frames_again_come_last_but_those_of_a_shot_with_a_date_at_once():
    project = set_shot(film(retake_share=0.1), "020", due=day(1))
    assert order(project) == ["010", "020", "020 again", "030", "040", "010 again", "030 again", "040 again"]


def test_of_a_shot_in_layers_the_still_one_comes_first_and_its_place_is_the_shots():
    project = film()
    shots = [
        make_shot("020 man", 20).replace(part_of="020"),
        make_shot("020 back", 20).replace(part_of="020", still=True),
    ]
    project = project.replace(shots=(project.shots[0], *shots, *project.shots[2:]))
    assert order(project)[:3] == ["010", "020 back", "020 man"]


def test_a_first_pass_of_all_comes_before_the_rest_and_approved_shots_need_none():
    project = keep_set(film(), "review", ShotSettings(samples=8, resolution_percent=50, frame_step=2))
    project = set_running(project, first_pass=FirstPass(settings="review", due=day(1)))
    project = set_shot(project, "020", approval="approved")
    assert order(project) == ["010 first pass", "030 first pass", "040 first pass", *NAMES]
    first = jobs_of(project)[0]
    assert (len(first.frames), first.settings.samples, first.due_h) == (10, 8, 32.0)


def test_denoising_that_looks_around_waits_and_costs_what_it_costs_together():
    shot = make_shot("010", 20, denoise="neighbours")
    trials = well_timed(frames=(1, 20))
    trials += tuple(trial.replace(denoise="neighbours", seconds=trial.seconds + 9.0) for trial in trials)
    project = make_project(shots=(shot,), trials=trials)
    known = fit(fit_input(project))
    queue = queue_of(project, known, draw_film(known, project))
    assert queue.work.jobs == ("010", "010 denoise")
    assert queue.work.beside.tolist() == [-1, 0]
    whole = make_project(shots=(shot.replace(still=True, moves=()),), trials=trials)
    together = queue_of(whole, known, draw_film(known, project)).work
    assert together.jobs == ("010",)
    assert queue.work.full.sum(axis=1) == pytest.approx(together.full[:, 0])
    assert 5 < np.median(queue.work.full[:, 1]) < 25


def test_a_sheet_waits_for_all_of_its_kind():
    project = film()
    for name in ("010", "020"):
        project = set_shot(project, name, look="turntable")
    project = set_shot(project, "030", after=("turntable",))
    jobs = jobs_of(project)
    assert [job.name for job in jobs] == list(NAMES)
    assert needs_of(project, jobs) == ((), (), (0, 1), ())


def test_waiting_for_nothing_or_in_a_ring_is_refused():
    with pytest.raises(InputError, match="neither a shot nor a look"):
        set_shot(film(), "030", after=("props",))
    project = set_shot(set_shot(film(), "020", after=("010",)), "030", after=("020",))
    with pytest.raises(InputError, match="wait for each other: 010, 020, 030"):
        set_shot(project, "010", after=("030",))


def test_names_in_rules_follow_a_shot_that_is_renamed_or_removed():
    project = set_running(set_shot(film(), "030", after=("010",)), order="by hand", queue=("010", "040"))
    renamed = set_shot(project, "010", name="011")
    assert renamed.shot("030").after == ("011",)
    assert renamed.running.queue == ("011", "040")
    assert remove_shots(project, ["010"]).shot("030").after == ()


def test_a_set_of_settings_is_taken_by_shots_and_leaves_what_belongs_to_them():
    shots = (make_shot("010", keep=("prepare",)), make_shot("020"))
    project = keep_set(make_project(shots=shots), "preview", ShotSettings(samples=4, resolution_percent=25))
    changed = apply_set(project, "preview", ["010"])
    settings = changed.shot("010").settings
    assert (settings.samples, settings.resolution_percent, settings.keep) == (4, 25, ("prepare",))
    assert changed.shot("020").plan is None
    with pytest.raises(InputError, match="none called"):
        apply_set(project, "final", ["010"])
    with pytest.raises(InputError, match="no set"):
        set_running(project, first_pass=FirstPass(settings="final"))


def test_each_date_has_its_own_chance():
    shots = tuple(make_shot(name, 60) for name in ("010", "020"))
    project = make_project(
        shots=shots,
        trials=well_timed("010", (1, 60)) + well_timed("020", (1, 60)),
        machines=(Machine(name="desk", speed=0.2),),
    )
    known = fit(fit_input(project))
    draws = draw_film(known, project)
    ends = finish_of(project, known, draws).shots
    between = project.start + timedelta(hours=(ends["010"].high + ends["020"].low) / 2)
    dated = set_shot(set_shot(project, "010", due=between), "020", due=between)
    assert [round(date.probability) for date in finish_of(dated, known, draws).dates] == [1, 0]
    swapped = set_running(dated, order="by hand", queue=("020", "010"))
    assert [date.what for date in finish_of(swapped, known, draws).dates if date.probability > 0.5] == ["020"]
