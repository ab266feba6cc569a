"""Memory from one small test is mostly fixed; a frame that was timed on a machine shows that it fits there.

Common practice, no source: what fills the memory is the scene, and the picture adds little.
"""

import pytest

from film import exact_trial, make_project, make_shot
from pemlo.core.film.film import Film
from pemlo.core.forecast.disk_memory import disk_memory_of, may_not_fit, shown_to_fit, too_small
from pemlo.core.project.machines import Machine
from pemlo.core.project.trials import Trial
from pemlo.core.units import HOUR_S
from pemlo.words.unknowns import unknowns


def film(*trials, memory=20.0, at_once=1):
    machine = Machine(name="blade", memory_gib=memory, frames_at_once=at_once)
    return make_project(shots=(make_shot("010"),), trials=trials, machines=(machine,))


def of(project):
    shot = project.shots[0]
    found = disk_memory_of(project, shot, shot.settings).memory_gib
    return found, too_small(project, shot, shot.settings, found), may_not_fit(project, shot, shot.settings, found)


def test_six_gib_at_a_quarter_of_the_size_may_not_fit_into_twenty():
    """16 times the pixels: 6 GiB if all of it is the scene, 96 if all of it is the picture."""
    small_test = exact_trial("010", 1, 64, 25, memory_gib=6.0)
    project = film(small_test)
    found, never, unsure = of(project)
    assert found.low < 6 < found.middle < 20
    assert 96 < found.high < 130
    assert (never, unsure) == ((), ("blade",))
    assert Film(project).forecast.never == ""


def test_what_cannot_fit_whatever_is_fixed_is_said():
    full = exact_trial("010", 1, 64, 100, memory_gib=32.0)
    found, never, unsure = of(film(full))
    assert found.middle == pytest.approx(32)
    assert (never, unsure) == (("blade",), ())


def test_a_frame_that_was_timed_there_fits_there():
    """A trial says 32 GiB, and the machine of 20 rendered it: spilled or not, it was rendered."""
    there = exact_trial("010", 1, 64, 100, memory_gib=32.0, machine="blade")
    project = film(there)
    found, never, unsure = of(project)
    assert found.middle == pytest.approx(32)
    assert (never, unsure) == ((), ())
    assert Film(project).forecast.never == ""
    smaller = film(there.replace(resolution_percent=50))
    assert shown_to_fit(smaller, smaller.shots[0], smaller.shots[0].settings) == float("inf")


def test_what_fitted_alone_is_not_shown_to_fit_beside_another():
    alone = exact_trial("010", 1, 64, 100, memory_gib=15.0, machine="blade")
    _, never, _ = of(film(alone, at_once=2))
    assert never == ("blade",), "15 GiB twice do not go into 20"
    beside = alone.replace(frames_at_once=2)
    _, never, _ = of(film(beside, at_once=2))
    assert never == ()


def test_two_sizes_tell_how_much_is_fixed():
    trials = (exact_trial("010", 1, 64, 25, memory_gib=6.0), exact_trial("010", 1, 64, 50, memory_gib=6.6))
    found, never, unsure = of(film(*trials))
    # By hand: 0.6 GiB for 12/64 of the frame, so 3.2 for all of it, and 5.8 whatever the size.
    assert found.middle == pytest.approx(9.0, rel=0.02)
    assert (never, unsure) == ((), ())


def spilling_film(*more):
    """A frame takes 100 s with enough memory, and 300 s on a machine of 20 GiB that it does not fit into."""
    timed = Trial(shot="010", frame=1, samples=256, seconds=100.0, memory_gib=32.0, machine="big")
    slow = timed.replace(seconds=300.0, memory_gib=None, machine="small")
    machines = (Machine(name="big", memory_gib=64.0), Machine(name="small", memory_gib=20.0))
    return make_project(shots=(make_shot("010"),), trials=(timed, slow, *more), machines=machines)


def test_a_machine_whose_memory_is_too_small_is_as_slow_as_a_trial_there_shows():
    """By hand: 100 frames, of which the large machine ends one in 100 s and the small one in 300 s: 75 × 100 s."""
    project = spilling_film()
    film = Film(project)
    assert film.forecast.kind != "disagree"
    assert film.forecast.shots[0].seconds.middle == pytest.approx(100, rel=0.02)
    assert film.run.film.middle * HOUR_S == pytest.approx(7500, rel=0.06)
    alone = Film(project.replace(machines=project.machines[1:]))
    assert alone.run.film.middle * HOUR_S == pytest.approx(30_000, rel=0.06)
    assert any("larger than its memory" in words for words in unknowns(project, project.shots[0]))


def test_a_frame_that_fits_at_a_smaller_size_is_not_slowed():
    half = spilling_film().shots[0].asked.replace(resolution_percent=25.0)
    fits = Trial(shot="010", frame=1, samples=256, resolution_percent=25.0, seconds=8.0, memory_gib=6.0, machine="big")
    project = spilling_film(fits)
    project = project.replace(shots=(project.shots[0].replace(plan=half),), machines=project.machines[1:])
    film = Film(project)
    assert film.run.film.middle * HOUR_S == pytest.approx(100 * film.forecast.shots[0].seconds.middle, rel=0.1)


def test_where_nothing_else_was_timed_a_frame_that_spilled_counts():
    slow = spilling_film().trials[1].replace(memory_gib=32.0)
    film = Film(spilling_film().replace(trials=(slow,)))
    assert film.forecast.shots[0].seconds.middle == pytest.approx(300, rel=0.05)
