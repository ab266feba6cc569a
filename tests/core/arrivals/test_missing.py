"""What is missing of a shot, and how it is shared out so that all machines end together. By hand, and against the run."""

import numpy as np
import pytest

from film import make_project, make_shot, well_timed
from pemlo.core.arrivals.place import FrameName
from pemlo.core.arrivals.scan import Arrival
from pemlo.core.arrivals.what_is_missing import expected_seconds, missing_frames, next_ranges, wanted_frames
from pemlo.core.cost.draws import draw_film
from pemlo.core.cost.fit import fit
from pemlo.core.cost.fit_input import fit_input
from pemlo.core.errors import InputError
from pemlo.core.farm.capacity import capacity
from pemlo.core.frames import format_frames
from pemlo.core.project.machines import Machine

MACHINES = (Machine(name="desk"), Machine(name="blade", speed=3.0), Machine(name="night", hours="Mon-Sun 20:00-08:00"))


def arrival(frame, shot="010", size=5):
    return Arrival(FrameName(shot, frame), f"{shot}.{frame}", size, 0.0)


@pytest.fixture(scope="module")
def film():
    project = make_project((make_shot("010", 100),), well_timed("010", (1, 34, 67, 100)), MACHINES)
    known = fit(fit_input(project))
    return project, known, draw_film(known, project)


def test_what_is_there_is_not_missing_but_empty_files_and_other_shots_are(film):
    shot = film[0].shots[0].replace(last=10)
    there = [arrival(k) for k in (1, 2, 3, 7)] + [arrival(5, size=0), arrival(8, shot="020"), arrival(99)]
    assert format_frames(missing_frames(shot, there)) == "4-6,8-10"
    assert missing_frames(shot, [arrival(k) for k in range(1, 11)]) == ()
    stepped = shot.replace(plan=shot.asked.replace(frame_step=3))
    assert wanted_frames(stepped) == (1, 4, 7, 10)
    assert wanted_frames(shot.replace(still=True, moves=())) == (1,)


def test_machines_end_together_by_what_frames_take_and_not_by_their_number(film):
    project, known, draws = film
    shot, frames = project.shots[0], tuple(range(21, 101))
    desk, blade = next_ranges(project, known, draws, shot, frames, ["desk", "blade"])
    assert (*desk.frames, *blade.frames) == frames
    # One frame more or less is all that they may differ by.
    longest = float(expected_seconds(project, known, draws, shot, frames).max()) / 3600
    assert abs(desk.hours - blade.hours) <= longest
    seconds = expected_seconds(project, known, draws, shot, frames).sum() / 3600
    assert max(desk.hours, blade.hours) == pytest.approx(seconds / 4, rel=0.06)


def test_a_machine_that_begins_at_night_takes_what_it_can_do_until_then(film):
    project, known, draws = film
    dear = project.replace(machines=tuple(one.replace(speed=one.speed * 0.05) for one in project.machines))
    shot, frames = dear.shots[0], tuple(range(1, 101))
    ranges = next_ranges(dear, known, draws, shot, frames, ["desk", "night"])
    work = [float(expected_seconds(dear, known, draws, shot, one.frames).sum()) / 3600 for one in ranges]
    for one, hours, machine in zip(ranges, work, (dear.machines[0], dear.machines[2]), strict=True):
        curve = capacity((machine,), "UTC", dear.start, 60)
        assert curve.work_by(one.hours) == pytest.approx(hours, rel=1e-6)
    assert work[1] < work[0]


@pytest.mark.parametrize(("names", "words"), [(["desk", "gone"], "no machine called gone"), ([], "None of these")])
def test_machines_that_cannot_share_are_refused(film, names, words):
    project, known, draws = film
    with pytest.raises(InputError, match=words):
        next_ranges(project, known, draws, project.shots[0], (1, 2, 3), names)


def test_no_frames_and_one_frame_are_shared_out_too(film):
    project, known, draws = film
    none = next_ranges(project, known, draws, project.shots[0], (), ["desk", "blade"])
    assert [one.frames for one in none] == [(), ()]
    one = next_ranges(project, known, draws, project.shots[0], (7,), ["desk", "blade"])
    assert sum((part.frames for part in one), ()) == (7,)
    assert np.isfinite([part.hours for part in one]).all()
