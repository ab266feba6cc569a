"""The small farm's schedule: against counting by hand, and the exact run of the same film."""

import math

import numpy as np
import pytest

from film import make_project, make_shot, well_timed
from pemlo.core.arrivals.farm_faults import Fault, chance_faults, faults_of
from pemlo.core.cost.draws import draw_film
from pemlo.core.cost.fit import fit
from pemlo.core.cost.fit_input import fit_input
from pemlo.core.errors import InputError
from pemlo.core.forecast.finish import finish_of
from pemlo.core.project.machines import Machine
from pemlo.demo import demo_project
from pemlo_simulators.farm.logs import STYLES, log_lines
from pemlo_simulators.farm.schedule import deliveries
from pemlo_simulators.farm.truth import Truth, truth_of

HOUR = 3600.0


def even(project, seconds=100.0, loss=0.0):
    count = len(project.machines)
    return Truth({shot.name: np.full(shot.frame_count, seconds) for shot in project.shots},
                 np.ones(count), np.full(count, loss))  # fmt: skip


def film(*machines, trials=(), **more):
    shots = make_shot("010", 10), make_shot("020", 6)
    return make_project(shots, trials, machines or (Machine(name="desk"),), **more)


def test_one_machine_renders_one_frame_after_another_in_film_order():
    found = deliveries(film(), even(film()))
    assert [(one.shot, one.frame) for one in found] == [
        *(("010", k) for k in range(1, 11)),
        *(("020", k) for k in range(1, 7)),
    ]
    assert [one.at for one in found] == [100.0 * k for k in range(1, 17)]


def test_a_machine_twice_as_fast_brings_two_of_three():
    project = film(Machine(name="desk"), Machine(name="blade", speed=2.0))
    found = deliveries(project, even(project))
    assert sum(one.machine == "blade" for one in found) in {10, 11}  # both may be free at once
    assert max(one.at for one in found) == pytest.approx(16 / 3 * 100, rel=0.15)


def test_nights_are_kept_and_frames_go_on_in_the_next():
    project = film(Machine(name="desk", hours="Mon-Fri 11:00-11:05"))  # three frames a day
    found = deliveries(project, even(project))
    assert [round(one.at / HOUR, 2) for one in found[:4]] == [1.03, 1.06, 1.08, 25.03]


def test_it_is_the_exact_run_of_the_same_costs():
    project = make_project((make_shot("010", 60), make_shot("020", 30).replace(after=("010",))),
                           (*well_timed("010", (1, 30, 60)), *well_timed("020", (1, 30))),
                           (Machine(name="desk"), Machine(name="blade", speed=1.7)))  # fmt: skip
    made = fit(fit_input(project))
    exact = finish_of(project, made, draw_film(made, project)).film
    ends = [max(one.at for one in deliveries(project, truth_of(project, seed), (), seed)) / HOUR for seed in range(5)]
    assert exact.middle == pytest.approx(np.median(ends), rel=0.15)


def test_losses_cost_what_the_chance_says():
    project = film()
    many = [max(one.at for one in deliveries(project, even(project, loss=0.3), (), seed)) for seed in range(200)]
    # Each frame is lost 0.3 / 0.7 times in the mean, half of it each time.
    assert np.mean(many) == pytest.approx(1600 * (1 + 0.5 * 0.3 / 0.7), rel=0.05)


def test_what_is_done_is_left_out_and_time_goes_on():
    project = film()
    done = {("010", k, False) for k in range(1, 9)}
    found = deliveries(project, even(project), (), 0, done, 5000.0)
    assert (len(found), found[0].frame, found[0].at) == (8, 9, 5100.0)


@pytest.mark.parametrize(
    ("fault", "check"),
    [
        (Fault("slow", machine="desk", at=500.0), lambda found: found[-1].at == pytest.approx(500 + 11 * 300)),
        (Fault("dead", machine="desk", at=550.0), lambda found: len(found) == 5),
        (Fault("power", at=550.0), lambda found: found[5].at == pytest.approx(550 + 2 * HOUR + 100)),
        (Fault("full", at=450.0), lambda found: [one.disk_full for one in found[:6]] == [False] * 4 + [True] * 2),
        (Fault("order"), lambda found: [one.frame for one in found[:10]] != list(range(1, 11))),
    ],
)
def test_what_goes_wrong_with_machines(fault, check):
    assert check(deliveries(film(), even(film()), (fault,)))


def test_the_same_seed_is_the_same_run():
    project = film(trials=well_timed("010", (1, 5, 10)))
    one, other = (deliveries(project, truth_of(project, 5), chance_faults(project, 5), 5) for _ in range(2))
    assert one == other
    assert one != deliveries(project, truth_of(project, 6), (), 6)


def test_faults_are_read_and_what_cannot_be_is_named():
    project = demo_project()
    found = faults_of("lost:070/12, slow:old tower@10h, power@1h30, order", project)
    assert found == (Fault("lost", "070", 12), Fault("slow", machine="old tower", at=36_000.0),
                     Fault("power", at=5400.0), Fault("order"))  # fmt: skip
    assert {one.kind for one in faults_of("chance", project, 3)} & {"lost", "truncated", "size", "black"}
    with pytest.raises(InputError) as caught:
        faults_of("lost:070, eaten, slow:nobody, dead:desk@soon", project)
    assert len(caught.value.problems) == 4


@pytest.mark.parametrize("style", STYLES)
def test_logs_say_the_frame_and_what_it_took(style):
    project = film()
    one = deliveries(project, even(project))[3]
    lines = log_lines(style, one, project.start, 256)
    assert all("4" in line and "\n" not in line for line in lines)
    assert len(lines) == (2 if style == "pairs" else 1)
    assert math.isclose(one.seconds, 100.0)
