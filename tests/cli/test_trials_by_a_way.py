"""``pemlo way`` and ``pemlo trial``: a program that Pemlo does not know, from an empty project to a settled verdict."""

import json
import os
import signal
import subprocess
import sys
import time
from pathlib import Path

import pytest

from command import pemlo as pemlo_in
from film import make_project, make_shot
from pemlo.core.persistence.document import read_project, write_project
from pemlo.core.project.machines import Machine
from render_programs import program


def pemlo(command, path, *more):
    return pemlo_in(command, path, *more, cwd=path.parent)


@pytest.fixture
def job(tmp_path):
    """A film of two shots that nobody has timed, on this computer and with days to spare."""
    path = tmp_path / "job.pemlo"
    shots = (make_shot("010", 100, samples=64), make_shot("020", 50, samples=32))
    write_project(make_project(shots, machines=(Machine(name="desk"),), width=128, height=72), path)
    return path


def command(job, name, size=0):
    return program(job.parent, name, size)


def keep(job, name="works", *more):
    done = pemlo("way", job, "main", "--command", command(job, name), "--picture", ".png", *more)
    assert done.returncode == 0, done.stderr
    return done


def test_one_trial_lands_with_its_time_and_its_picture(job):
    keep(job)
    done = pemlo("trial", job, "--way", "main", "--shot", "010", "--frame", "5", "--samples", "64",
                 "--resolution-percent", "50", "--json")  # fmt: skip
    assert done.returncode == 0, done.stderr
    said = json.loads(done.stdout)["trials"][0]
    assert (said["shot"], said["frame"], said["settings"]["samples"], said["why"]) == ("010", 5, 64, None)
    assert 0.37 < said["seconds"] < 1.5, "by hand: 0.05 s and 64 times 0.005 s at 64 by 36"
    assert {"processor_seconds", "memory_gib", "picture"} <= said.keys()
    trial = read_project(job).trials[0]
    assert (trial.width, trial.height, trial.seconds) == (64, 36, said["seconds"])
    assert (job.parent / trial.picture).is_file()
    assert not Path(trial.picture).is_absolute()


def test_from_an_empty_project_to_a_settled_verdict_without_typing_a_time(job):
    keep(job)
    done = pemlo("trial", job, "--minutes", "2")
    assert done.returncode == 0, done.stderr
    assert "The verdict is settled: the film makes its deadline" in done.stdout
    assert len(read_project(job).trials) >= 1


def test_the_next_few_are_as_many_as_are_wanted_and_repeat_once(job):
    keep(job)
    done = pemlo("trial", job, "--next", "5", "--json")
    said = json.loads(done.stdout)["trials"]
    assert len(said) == 5
    kinds = {(one["shot"], one["frame"], str(one["settings"]), one["repeat"]) for one in said}
    assert len(kinds) == 5, "none is run twice, but for the one that is repeated"
    assert sum(one["repeat"] for one in said) == 1


def test_a_dry_run_shows_every_command_and_runs_none(job):
    keep(job)
    before = sorted(job.parent.iterdir())
    done = pemlo("trial", job, "--next", "2", "--dry-run", "--json")
    rows = json.loads(done.stdout)["commands"]
    assert [row["words"][:2] for row in rows] == [command(job, "works").split()[:2]] * 2
    assert sorted(job.parent.iterdir()) == before
    assert not read_project(job).trials


def test_a_shot_that_fails_is_said_and_ends_with_one(job):
    keep(job, "crashes")
    done = pemlo("trial", job, "--shot", "020")
    assert done.returncode == 1
    assert "no trial: The renderer failed: exit status 3. It said last: light 3 has no map" in done.stdout
    assert not read_project(job).trials


def test_one_failing_setting_does_not_stop_the_others(job):
    keep(job, "crashes")
    done = pemlo("trial", job, "--next", "6", "--json")
    said = json.loads(done.stdout)["trials"]
    assert done.returncode == 0
    assert [one for one in said if one["why"] is None]


def test_what_a_command_cannot_set_is_refused(job):
    command_line = command(job, "works").replace("{samples}", "32")
    assert pemlo("way", job, "main", "--command", command_line, "--picture", ".png").returncode == 0
    done = pemlo("trial", job, "--shot", "010", "--samples", "8")
    assert done.returncode == 2
    assert "cannot set samples" in done.stderr


def test_a_way_that_came_with_a_project_is_not_run_before_it_is_allowed(job, monkeypatch, tmp_path):
    keep(job)
    monkeypatch.setenv("XDG_CONFIG_HOME", str(tmp_path / "of somebody else"))
    done = pemlo("trial", job, "--next", "1")
    assert done.returncode == 2
    assert "was not allowed here" in done.stderr
    assert pemlo("way", job, "main", "--allow").returncode == 0
    assert pemlo("trial", job, "--next", "1").returncode == 0
    # Another command under the same name is another one.
    data = json.loads(job.read_text())
    data["render_ways"][0]["command"] += " --more"
    job.write_text(json.dumps(data))
    assert pemlo("trial", job, "--next", "1").returncode == 2


def test_a_pasted_command_is_learned_and_can_be_corrected(job):
    values = {"frame": 12, "samples": 64, "width": 128, "height": 72}
    done = pemlo("way", job, "main", "--learn", command(job, "works").format(out="/tmp/a.png", **values))
    assert done.returncode == 2
    assert "12: not recognised" in done.stdout
    assert "put {frame} where its number goes" in done.stderr
    assert not read_project(job).render_ways
    # With the frame in the picture's name all is known.
    done = pemlo("way", job, "main", "--learn", command(job, "works").format(out="/tmp/a.0012.png", **values))
    assert done.returncode == 0, done.stderr
    assert "12: {frame}, the picture's name has it" in done.stdout
    assert read_project(job).render_ways[0].command == command(job, "works")
    assert read_project(job).render_ways[0].picture == ".png"
    assert pemlo("trial", job, "--next", "1").returncode == 0


def test_a_kept_way_goes_with_the_person(job, tmp_path):
    keep(job, "works", "--mine")
    other = tmp_path / "other.pemlo"
    write_project(make_project(width=128, height=72), other)
    assert pemlo("way", other, "main", "--mine").returncode == 0
    assert read_project(other).render_ways == read_project(job).render_ways
    assert pemlo("way", other, "main", "--remove").returncode == 0
    assert read_project(other).render_ways == ()


def test_ctrl_c_keeps_what_is_done_and_the_next_call_goes_on(job):
    keep(job)
    run = subprocess.Popen(
        [sys.executable, "-m", "pemlo", "trial", str(job), "--shot", "010", "--times", "500"], stdout=subprocess.PIPE,
        stderr=subprocess.PIPE, text=True, env={**os.environ, "PYTHONPATH": os.pathsep.join(sys.path)},
        preexec_fn=lambda: signal.signal(signal.SIGINT, signal.SIG_DFL),  # noqa: PLW1509 - in the background it would be ignored
    )  # fmt: skip
    for _ in range(2):
        line = run.stdout.readline()
        assert "shot 010" in line, line or run.communicate()[1]
    run.send_signal(signal.SIGINT)
    _, said = run.communicate(timeout=60)
    assert run.returncode == 130, said
    assert "what was rendered is in the project" in said
    kept = len(read_project(job).trials)
    assert kept >= 2
    assert pemlo("trial", job, "--next", "1").returncode == 0
    assert len(read_project(job).trials) == kept + 1


def test_kill_nine_loses_no_finished_trial(job):
    """The moment between the end of a frame and its trial in the file: the next call takes it in."""
    keep(job)
    assert pemlo("trial", job, "--shot", "010", "--times", "2").returncode == 0
    whole = read_project(job)
    write_project(whole.replace(trials=whole.trials[:1]), job)
    for taken in (job.parent / "job pictures/runs").glob("*/in the project"):
        taken.unlink()
    done = pemlo("trial", job, "--shot", "020")
    assert "Taken in from an earlier call" in done.stderr
    assert [one.shot for one in read_project(job).trials].count("010") == 2, "and none of them twice"


def test_the_small_renderer_is_a_way_like_any_other(tmp_path):
    path = tmp_path / "job.pemlo"
    shot = make_shot("010", 60, samples=4)
    shot = shot.replace(extra_columns=(("scene", "stairs"),))
    write_project(make_project((shot,), width=64, height=36), path)
    done = pemlo("trial", path, "--shot", "010", "--frame", "3", "--json")
    assert done.returncode == 0, done.stderr
    said = json.loads(done.stdout)["trials"][0]
    trial = read_project(path).trials[0]
    assert said["seconds"] < said["wall_seconds"], "its header leaves out its own start"
    assert trial.trace_seconds > 0
    assert trial.noise_shape
    assert trial.left_out == ""
    assert json.loads(pemlo("trial", path, "--next", "1", "--dry-run", "--json").stdout)["commands"]


def test_two_machines_render_side_by_side_with_their_names(job):
    keep(job, "works", "--machine", "desk=env", "--machine", "blade=env MORE=1")
    began = time.monotonic()
    done = pemlo("trial", job, "--shot", "010", "--times", "4", "--samples", "50", "--json")
    assert done.returncode == 0, done.stderr
    said = json.loads(done.stdout)["trials"]
    assert {one["machine"] for one in said} == {"desk", "blade"}
    assert time.monotonic() - began < 4.5, "four times 1.05 s, two at once"
    assert all(trial.memory_gib is None for trial in read_project(job).trials), (
        "of another computer nothing is measured"
    )


def test_how_fast_a_machine_is_is_learned_at_once(job):
    """By hand: blade takes half the seconds of desk for the same frame: it is twice as fast."""
    machines = (Machine(name="desk"), Machine(name="blade"))
    write_project(read_project(job).replace(machines=machines), job)
    keep(job, "fast", "--machine", "desk=", "--machine", "blade=env SPEED=2")
    done = pemlo("trial", job, "--next", "6", "--json")
    assert done.returncode == 0, done.stderr
    project = read_project(job)
    assert {trial.machine for trial in project.trials} == {"desk", "blade"}
    blade = next(machine for machine in project.machines if machine.name == "blade")
    assert blade.speed == pytest.approx(2.0, rel=0.2), "Python takes its time to start"
    assert "Learned: blade is" in done.stderr


def test_the_same_command_in_another_folder_is_another_one(job, tmp_path):
    """What a command runs may lie where it begins: a project that brings its own program is asked about anew."""
    keep(job)
    other = tmp_path / "delivered/job.pemlo"
    other.parent.mkdir()
    write_project(read_project(job), other)
    done = pemlo("trial", other, "--next", "1")
    assert done.returncode == 2
    assert "was not allowed here" in done.stderr


def test_two_calls_at_once_lose_none_of_each_others_trials(job):
    keep(job)
    calls = [
        subprocess.Popen(
            [sys.executable, "-m", "pemlo", "trial", str(job), "--shot", shot, "--times", "3"], stdout=subprocess.DEVNULL,
            stderr=subprocess.PIPE, env={**os.environ, "PYTHONPATH": os.pathsep.join(sys.path)},
        )
        for shot in ("010", "020")
    ]  # fmt: skip
    assert [call.communicate(timeout=120) and call.returncode for call in calls] == [0, 0]
    assert sorted(trial.shot for trial in read_project(job).trials) == ["010"] * 3 + ["020"] * 3


def test_standard_input_is_no_project_to_put_trials_into(job):
    assert pemlo_in("trial", "-", "--next", "1", cwd=job.parent).returncode == 2
