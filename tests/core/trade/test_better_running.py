"""What costs no picture comes first and unasked: frames in parallel that were timed, and a better order of the shots."""

import numpy as np
import pytest

from film import make_project, make_shot
from pemlo.core.film.film import Film
from pemlo.core.project.edits import set_machine, set_running
from pemlo.core.project.machines import Machine
from pemlo.core.project.settings import ShotSettings
from pemlo.core.project.trials import Trial
from pemlo.core.trade.better_running import BetterRunning

ASKED = ShotSettings(samples=64)


def trial(shot, seconds, frame=1, **fields):
    return Trial(shot=shot, frame=frame, seconds=seconds, **ASKED.frame_fields(), **fields)


def beside_others(contention=1 / 6, **machine):
    """A frame takes 6 s alone and 9 s beside three: 1 + 3 c = 1.5."""
    shot = make_shot("010", 1200).replace(asked=ASKED)
    trials = (trial("010", 6.0, machine="desk"), trial("010", 9.0, machine="desk", frames_at_once=4))
    return make_project((shot,), trials, (Machine(name="desk", contention=contention, **machine),))


def long_and_short():
    """By hand: a hundred frames of a minute and then three of an hour on two machines take 50 + 120 minutes in the
    order of the film; the three first, the rest fills up: 140."""
    shots = (make_shot("010", 100).replace(asked=ASKED), make_shot("020", 3).replace(asked=ASKED))
    trials = [trial("010", 60.0, frame) for frame in (1, 50, 100)]
    trials += [trial("020", 3600.0, frame) for frame in (1, 2, 3)]
    return make_project(shots, tuple(trials), (Machine(name="desk", count=2),), deadline="2031-04-21T13:00Z")


def end_minutes(project):
    return 60 * float(np.median(Film(project).run.hours))


def test_frames_in_parallel_that_were_timed_are_taken_unasked():
    """By hand: 4 frames in 9 s are one in 2.25 s instead of 6: 2.67 times the work."""
    project = beside_others()
    found = Film(project).plan("hours")
    assert found.running.at_once == (("desk", 4, pytest.approx(8 / 3)),)
    assert found.running.words == ("desk: 4 frames in parallel, 2.7 times the work, as timed",)
    now, then = end_minutes(project), end_minutes(found.taken(project))
    assert now == pytest.approx(120.0, rel=0.05)
    assert then == pytest.approx(45.0, rel=0.05)
    assert found.is_taken(found.taken(project))
    assert not found.is_taken(project)


def test_frames_in_parallel_that_nobody_timed_or_that_do_not_fit_stay():
    assumed = set_machine(beside_others(), "desk", contention=0.3)
    assert Film(assumed).plan("hours").running == BetterRunning()
    # Four frames of the first shot were seen to fit; the second takes 10 GiB of 16.
    small = beside_others(memory_gib=16.0)
    shots = (*small.shots, make_shot("020", 10).replace(asked=ASKED))
    heavy = small.replace(shots=shots, trials=(*small.trials, trial("020", 60.0, memory_gib=10.0)))
    assert Film(heavy).plan("hours").running.at_once == ()


def test_a_better_order_is_taken_unasked():
    project = long_and_short()
    found = Film(project).plan("picture")
    assert found.running.order == "longest"
    assert end_minutes(project) == pytest.approx(170.0, rel=0.06)
    assert end_minutes(found.taken(project)) == pytest.approx(140.0, rel=0.06)
    assert found.running.words[0].startswith("Shots the longest first: ends ")
    assert found.taken(project).running.order == "longest"


def test_an_order_that_somebody_chose_stays():
    by_hand = set_running(long_and_short(), order="by hand", queue=("010", "020"))
    assert Film(by_hand).plan("picture").running.order is None
    shortest = set_running(long_and_short(), order="shortest")
    assert Film(shortest).plan("picture").running.order is None


def test_an_order_that_gives_next_to_nothing_stays():
    shots = (make_shot("010", 50).replace(asked=ASKED), make_shot("020", 50).replace(asked=ASKED))
    trials = tuple(trial(shot.name, 60.0, frame) for shot in shots for frame in (1, 50))
    assert Film(make_project(shots, trials)).plan("picture").running == BetterRunning()


@pytest.mark.parametrize("goal", ["picture", "hours", "missing"])
def test_a_plan_is_never_less_likely_than_as_it_is_run_now(goal):
    project = long_and_short()
    found = Film(project).plan(goal)
    stays = BetterRunning().taken(project)
    assert Film(found.taken(project)).run.probability >= Film(stays).run.probability
