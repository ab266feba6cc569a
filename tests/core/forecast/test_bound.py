"""Work that fits only some machines: three cases by hand, and the run against a plain simulation."""

import heapq

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from by_day import cases
from film import make_project, make_shot
from pemlo.core.film.film import Film
from pemlo.core.persistence.csv_shots import read_shots, write_shots
from pemlo.core.project.machines import Machine
from pemlo.core.project.settings import ShotSettings
from pemlo.core.project.trials import Trial
from pemlo.core.units import HOUR_S

ASKED = ShotSettings(samples=256)


def film(machines, *only, frames=40, seconds=90.0, **fields):
    shots = tuple(make_shot(f"{10 * k:03d}", frames).replace(only_on=names) for k, names in enumerate(only, 1))
    trials = tuple(
        Trial(shot=shot.name, frame=frame, seconds=seconds, **ASKED.frame_fields())
        for shot in shots for frame in (1, frames)
    )  # fmt: skip
    return make_project(shots, trials, tuple(Machine(name=name) for name in machines), **fields)


def test_a_shot_that_fits_one_of_two_machines_waits_for_it():
    """By hand: 40 frames of 90 s are an hour; both machines take half an hour, one of them the whole."""
    free, bound = Film(film(("a", "b"), ())), Film(film(("a", "b"), ("a",)))
    assert free.run.film.middle == pytest.approx(0.5, rel=0.05)
    assert bound.run.film.middle == pytest.approx(1.0, rel=0.05)
    assert bound.forecast.hours_usable < free.forecast.hours_usable
    busy = {use.machine: use.busy_hours for use in bound.run.machines}
    assert busy["b"] == 0


def test_what_may_go_anywhere_goes_where_the_other_may_not():
    """By hand: an hour of work bound to a, an hour free: b takes the free one, and both end after an hour."""
    run = Film(film(("a", "b"), ("a",), ())).run
    assert run.film.middle == pytest.approx(1.0, rel=0.05)


def test_a_shot_bound_to_a_machine_that_is_not_there_never_ends_and_says_why():
    found = Film(film(("a",), ("gone",))).run
    assert found.never
    assert "none of the machines that it is bound to" in found.bottleneck


def test_denoising_that_waits_for_neighbours_goes_to_the_machines_that_it_is_bound_to():
    shot = make_shot("010", 30, denoise="neighbours")
    trials = (
        Trial(shot="010", frame=1, seconds=160.0, **shot.asked.frame_fields()),
        Trial(shot="010", frame=1, seconds=100.0, **shot.asked.replace(denoise="none").frame_fields()),
    )
    machines = (Machine(name="cards"), Machine(name="processors"))
    project = make_project((shot,), trials, machines)
    bound = project.replace(running=project.running.replace(denoise_on=("processors",)))
    run = Film(bound).run
    groups = run.farm.slot_group[run.run.trace[:, 0].astype(int)]
    parts = np.array([run.jobs[int(k)].part for k in run.work.job_of])
    assert set(groups[parts == "denoise"]) == {1}
    assert set(groups[parts == "final"]) == {0, 1}


@given(st.integers(1, 4), st.lists(st.sets(st.integers(0, 3), max_size=3), min_size=1, max_size=4), st.integers(2, 12))
@settings(max_examples=cases(25), deadline=None)
def test_it_is_what_a_plain_simulation_says(count, bound, frames):
    """Whoever is free first takes the next frame that it may: each frame 90 s, machines alike."""
    names = [f"m{k}" for k in range(count)]
    only = [tuple(names[k] for k in sorted(one) if k < count) for one in bound]
    project = film(names, *only, frames=frames)
    plain = Film(project)
    draw = plain.run.typical
    work = plain.run.work
    free = [(0.0, k) for k in range(count)]
    heapq.heapify(free)
    left = {job: list(range(work.first[job], work.first[job + 1])) for job in range(len(work.jobs))}
    end = 0.0
    trace = plain.run.run.trace
    took = trace[:, 2] - trace[:, 1]
    while free and any(left.values()):
        now, slot = heapq.heappop(free)
        mine = next(
            (job for job in range(len(only)) if left[job] and (not only[job] or names[slot] in only[job])), None
        )
        if mine is None:
            continue
        frame = left[mine].pop(0)
        end = max(end, now + took[frame])
        heapq.heappush(free, (now + took[frame], slot))
    assert not any(left.values())
    assert end == pytest.approx(trace[:, 2].max(), rel=1e-9)
    assert end / HOUR_S == pytest.approx(float(plain.run.hours[draw]), rel=1e-6)


def test_a_table_says_where_a_shot_fits_and_gets_it_back():
    (shot,) = read_shots('shot,first,last,samples,only_on\n010,1,9,64,"cards, big"\n')
    assert shot.only_on == ("cards", "big")
    project = make_project((shot,), machines=(Machine(name="cards"), Machine(name="big")))
    assert read_shots(write_shots(project))[0].only_on == ("cards", "big")
