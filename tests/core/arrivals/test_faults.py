"""Every fault of the small farm is found, named, and leads to the right range; without faults nothing is called broken."""

import numpy as np
import pytest

from film import make_project, make_shot
from pemlo.core.arrivals.alarms import of_files
from pemlo.core.arrivals.arrival_snapshot import arrival_snapshot
from pemlo.core.arrivals.states import FrameState
from pemlo.core.project.edits import set_handles
from pemlo.core.project.machines import Machine
from pemlo.core.project.trials import Trial
from pemlo_simulators.farm.truth import Truth
from watched import Played

HOUR = 3600.0
MACHINES = (Machine(name="desk"), Machine(name="blade", speed=1.6), Machine(name="old tower", speed=0.4))


def film(machines=MACHINES):
    shots = (make_shot("010", 60), make_shot("020", 40), make_shot("030", 50))
    trials = tuple(
        Trial(shot=shot.name, frame=shot.last // 2, seconds=seconds, **_asked(shot))
        for shot, seconds in zip(shots, (400.0, 700.0, 300.0), strict=True)
    )
    return make_project(shots, trials, machines, width=640, height=360)


def _asked(shot):
    return {name: value for name, value in shot.asked.frame_fields().items() if name != "switches"}


def truth(project, seed=0, loss=0.0, pace=None):
    """Costs that run along the shots, with scatter; speeds as the brief says unless given."""
    random = np.random.default_rng(seed)
    seconds = {}
    for shot, level in zip(project.shots, (410.0, 680.0, 310.0), strict=True):
        at = np.linspace(0, 1, shot.frame_count)
        seconds[shot.name] = level * np.exp(0.1 * np.sin(3 * at + random.uniform(0, 6))
                                            + 0.03 * random.standard_normal(len(at)))  # fmt: skip
    count = len(project.machines)
    return Truth(seconds, np.ones(count) if pace is None else np.array(pace), np.full(count, loss))


def played(tmp_path, faults="", project=None, **more):
    project = project or film()
    return Played(project, tmp_path, faults=faults, truth=truth(project, **more))


@pytest.mark.parametrize(
    ("fault", "state", "why"),
    [
        ("lost:010/20", FrameState.LOST, "never came"),
        ("truncated:010/20", FrameState.BROKEN, "cannot be read"),
        ("size:010/20", FrameState.BROKEN, "80×45 px, and 160×90 are planned"),
        ("black:010/20", FrameState.BROKEN, "black all over"),
    ],
)
def test_a_frame_that_went_wrong_is_named_and_to_be_rendered_again(fault, state, why, tmp_path):
    found = played(tmp_path, fault).seen(9 * HOUR)
    mine = found.snapshot.of("010")
    assert mine.of(FrameState.LOST, FrameState.BROKEN) == (20,)
    assert mine.of(state) == (20,)
    alarms = [alarm for alarm in found.alarms if alarm.kind == "frames"]
    assert [(alarm.shot, alarm.frames, alarm.todo) for alarm in alarms] == [("010", (20,), "Render 20 again.")]
    assert why in alarms[0].words
    assert mine.missing == (20,)


def test_a_full_disk_leaves_files_without_bytes(tmp_path):
    found = played(tmp_path, "full@2h").seen(6 * HOUR)
    empty = [frame for one in found.snapshot.states for frame in one.of(FrameState.BROKEN)]
    assert len(empty) > 5
    assert all("has no bytes" in alarm.words for alarm in found.alarms if alarm.kind == "frames")


def test_a_machine_that_dies_is_silent_and_counts_as_off(tmp_path):
    run = played(tmp_path, "dead:blade@3h")
    before = run.seen(2.9 * HOUR)
    assert not any(alarm.kind == "machine" for alarm in before.alarms)
    after = run.seen(6 * HOUR)
    assert [alarm.machine for alarm in after.alarms if alarm.kind == "machine"] == ["blade"]
    assert "brought nothing since" in after.alarms[0].words
    assert after.finish_h.middle > before.finish_h.high


def test_a_machine_that_slows_down_is_named_with_its_factor_and_the_finish_follows(tmp_path):
    run = played(tmp_path, "slow:blade@3h")
    before, after = run.seen(3 * HOUR), run.seen(7 * HOUR)
    alarms = [alarm for alarm in after.alarms if alarm.kind == "machine"]
    assert [alarm.machine for alarm in alarms] == ["blade"]
    assert "slower" in alarms[0].words
    assert after.machines[1].pace.low < 1 / 3 < after.machines[1].pace.high
    assert after.finish_h.middle > before.finish_h.middle
    end = run.run.coming[-1].at / HOUR
    assert after.finish_h.low <= end <= after.finish_h.high + 0.2


def test_a_machine_that_was_slower_than_typed_from_the_start_is_named(tmp_path):
    found = played(tmp_path, pace=[1.0, 0.45, 1.0]).seen(8 * HOUR)
    alarms = [alarm for alarm in found.alarms if alarm.kind == "machine"]
    assert [(alarm.machine, alarm.todo) for alarm in alarms] == [("blade", "Set its speed in the brief.")]
    assert found.machines[1].pace.low < 0.45 < found.machines[1].pace.high


def test_a_clock_that_is_off_is_named_and_does_not_move_the_finish(tmp_path):
    right, wrong = played(tmp_path / "a"), played(tmp_path / "b", "clock:blade")
    for hours in np.arange(0.5, 6, 0.5):
        one, other = right.seen(hours * HOUR), wrong.seen(hours * HOUR)
    said = [alarm for alarm in other.alarms if alarm.kind == "machine"]
    assert [alarm.machine for alarm in said] == ["blade"]
    assert "clock" in said[0].words
    assert "ahead" in said[0].words
    assert other.finish_h.middle == pytest.approx(one.finish_h.middle, abs=0.5)


def test_a_power_cut_loses_nothing_that_was_written(tmp_path):
    run = played(tmp_path, "power@4h")
    found = run.seen(8 * HOUR)
    assert not [alarm for alarm in found.alarms if alarm.kind == "frames"]
    end = run.run.coming[-1].at / HOUR
    last = run.seen(end * HOUR + 60)
    assert last.done
    assert found.finish_h.low - 0.5 <= end <= found.finish_h.high + 0.5


def test_frames_out_of_order_are_not_called_lost(tmp_path):
    run = played(tmp_path, "order")
    for hours in (1, 2, 4):
        found = run.seen(hours * HOUR)
        assert not [alarm for alarm in found.alarms if alarm.kind == "frames"]


@pytest.mark.parametrize("seed", range(6))
def test_without_faults_nothing_is_broken_and_nothing_alarms(seed, tmp_path):
    random = np.random.default_rng(seed)
    run = played(tmp_path, seed=seed, loss=0.02, pace=np.exp(0.1 * random.standard_normal(3)))
    for share in (0.1, 0.3, 0.6, 0.9, 1.0):
        found = run.seen(run.at_share(share))
        assert [alarm.words for alarm in found.alarms if alarm.kind != "look"] == []
        assert all(one.count(FrameState.BROKEN, FrameState.LOST) == 0 for one in found.snapshot.states)
    assert found.done


def test_a_test_setting_that_was_left_on_is_said_once_for_all_frames(tmp_path):
    project = film()
    run = played(tmp_path, project=project)
    few = tuple(shot.replace(asked=shot.asked.replace(samples=16)) for shot in project.shots)
    run.run.project = run.project.replace(shots=few)  # what the farm renders is not what is planned
    found = run.seen(1 * HOUR)
    alarms = [alarm for alarm in found.alarms if "not as planned" in alarm.words]
    assert len(alarms) == 1
    assert "samples 16, planned 256" in alarms[0].words


def test_the_deadline_in_doubt_is_told_once_it_was_safe(tmp_path):
    project = film().replace(delivery=film().delivery.replace(deadline="2031-04-21T18:00Z", confidence=0.9))
    run = played(tmp_path, "dead:blade@4h", project=project)
    assert run.seen(2 * HOUR).probability > 0.9
    assert run.seen(7 * HOUR).alarms[0].kind == "finish"


def dearer(project, factor, shot, frames=slice(None)):
    """What is true, but that frames of a shot cost so many times as much."""
    made = truth(project)
    made.seconds[shot][frames] *= factor
    return made


def test_a_shot_that_costs_far_more_than_predicted_is_told_in_minutes(tmp_path):
    project = film()
    found = Played(project, tmp_path, truth=dearer(project, 5.0, "010")).seen(20 * HOUR)
    said = [alarm for alarm in found.alarms if alarm.kind == "shot"]
    assert [one.shot for one in said] == ["010"]
    assert "takes more than predicted" in said[0].words
    assert "m " in said[0].words.split("predicted: ")[1].split(" a frame")[0]  # half an hour, and not in seconds
    cheap = Played(project, tmp_path / "other", truth=truth(project)).seen(5 * HOUR)
    assert not [alarm for alarm in cheap.alarms if alarm.kind == "shot"]


def test_a_frame_that_took_far_longer_than_its_neighbours_is_one_to_look_at(tmp_path):
    project = film()
    found = Played(project, tmp_path, truth=dearer(project, 4.0, "010", 19)).seen(9 * HOUR)
    said = [alarm for alarm in found.alarms if alarm.kind == "look" and "times what is expected" in alarm.words]
    assert [(one.shot, one.frames) for one in said] == [("010", (20,))]


def test_what_is_said_of_a_lost_frame_reads_well(tmp_path):
    found = played(tmp_path, "lost:010/20").seen(9 * HOUR)
    said = [alarm.words for alarm in found.alarms if alarm.kind == "frames"]
    assert said == ["1 frame of 010 is lost: 20 never came, though later frames are in."]


def test_file_times_alone_tell_what_frames_took(tmp_path):
    project = film((Machine(name="desk"),))
    run = Played(project, tmp_path, truth=truth(project), headers=False)
    found = run.seen(10 * HOUR)
    frames = found.snapshot.frames
    assert set(found.snapshot.sources.values()) == {"file times", ""}
    true = {(one.shot, one.frame): one.seconds for one in run.run.coming}
    for shot, frame, seconds in zip(frames.shot, frames.frame, frames.seconds, strict=True):
        if np.isfinite(seconds):
            assert seconds == pytest.approx(true[project.shots[shot].name, frame], rel=0.02)
    assert np.isfinite(frames.seconds).mean() > 0.9
    end = run.run.coming[-1].at / HOUR
    assert found.finish_h.low <= end <= found.finish_h.high


def test_handles_are_waited_for_and_nothing_alarms(tmp_path):
    project = set_handles(film(), 6)
    run = Played(project, tmp_path, truth=with_ends(truth(project), 6))
    half, end = run.seen(9 * HOUR), run.seen(60 * HOUR)
    assert half.snapshot.of("010").missing == ()
    assert half.snapshot.of("010").frames.tolist() == list(range(-5, 67))
    assert not half.alarms
    assert half.finish_h.low <= run.run.coming[-1].at / HOUR <= half.finish_h.high + 0.2
    assert all(not one.missing for one in end.snapshot.states)
    assert not end.alarms


def with_ends(truth, handles):
    """Costs of frames beyond the ends: those of the ends."""
    return Truth(
        {name: np.pad(one, handles, mode="edge") for name, one in truth.seconds.items()}, truth.pace, truth.loss
    )


def test_frames_beyond_a_range_that_was_taken_too_short_are_told(tmp_path):
    project = film()
    look = played(tmp_path, project=project).seen(9 * HOUR).snapshot.look
    short = project.replace(shots=(project.shots[0].replace(last=20), *project.shots[1:]))
    (alarm,) = of_files(arrival_snapshot(short, look, 9 * HOUR))
    there = max(row.frame for row in look.rows["010"])
    assert there > 21
    assert alarm.words == f"{there - 20} frames of 010 came beyond its range 1-20: 21-{there}."
    assert f"Give 010 the frames 1-{there} in the brief" in alarm.todo
    assert of_files(arrival_snapshot(project, look, 9 * HOUR)) == ()
