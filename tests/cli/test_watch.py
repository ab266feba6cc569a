"""``pemlo watch`` and ``pemlo farm``: the contract of their output."""

import json
import os
import subprocess
import sys

import pytest

from film import make_project, make_shot
from pemlo.cli.main import main
from pemlo.core.persistence.document import read_project, write_project
from pemlo.core.project.machines import Machine
from pemlo.core.project.trials import Trial
from watched import Played

PLACE = "r/{shot}/{shot}.{frame:04}.exr"


@pytest.fixture
def job(tmp_path):
    shots = (make_shot("010", 20), make_shot("020", 10))
    trials = tuple(Trial(shot=shot.name, frame=5, seconds=200.0, samples=256) for shot in shots)
    machines = (Machine(name="desk"), Machine(name="blade"))
    path = tmp_path / "job.pemlo"
    write_project(make_project(shots, trials, machines, width=320, height=180), path)
    played = Played(read_project(path), tmp_path, faults="black:010/3")
    played.play(played.at_share(0.5))
    return path, played


def test_once_as_json_it_has_every_part(job, capsys):
    path, played = job
    now = played.project.start.timestamp() + played.at_share(0.5)
    moment = played.project.start.fromtimestamp(now, played.project.start.tzinfo).isoformat()
    assert main(["watch", str(path), "--place", PLACE, "--now", moment, "--once", "--json"]) == 0
    found = json.loads(capsys.readouterr().out)
    first = found["shots"][0]
    assert (first["shot"], first["frames"], first["in"], first["broken"], first["missing"].split(",")[0]) == (
        "010", 20, first["in"], 1, "3"
    )  # fmt: skip
    assert first["seconds"]["frames"] == first["in"]
    assert first["remaining_machine_hours"]["p05"] <= first["remaining_machine_hours"]["p95"]
    assert found["finish"]["p05"] <= found["finish"]["p50"] <= found["finish"]["p95"]
    assert 0 <= found["odds"] <= 1
    assert [(one["kind"], one["frames"], one["todo"]) for one in found["alarms"]] == [
        ("frames", "3", "Render 3 again.")
    ]
    assert sum(one["in"] for one in found["shots"]) == 14
    assert (path.parent / "job.arrivals.sqlite").exists()


def test_in_words_with_the_place_of_the_project(job, capsys):
    path, played = job
    write_project(played.project, path)
    assert main(["watch", str(path), "--once", "--now", "2031-04-21T11:00"]) == 0
    said = capsys.readouterr().out
    assert "14 of 30 frames in; done " in said
    assert "1 frame of 010 is broken: 3 is black all over. Render 3 again." in said
    assert main(["missing", str(path), "--shot", "020"]) == 0
    assert capsys.readouterr().out.strip() == "1-10"


def test_without_a_place_or_with_a_wrong_one_it_says_what_to_do(job, capsys):
    path, _ = job
    assert main(["watch", str(path), "--once"]) == 2
    assert "Give --place" in capsys.readouterr().err
    assert (
        main(["watch", str(path), "--once", "--place", "nowhere/{shot}.{frame}.exr", "--now", "2031-04-21T11:00"]) == 0
    )
    assert "There is no folder nowhere" in capsys.readouterr().out


def test_the_farm_renders_and_watching_ends_when_all_is_in(job):
    path, _ = job
    environment = {**os.environ, "PYTHONUNBUFFERED": "1"}
    command = [sys.executable, "-m", "pemlo"]
    arguments = [*command, "farm", str(path), "--into", str(path.parent / "f"), "--clock", "10000"]
    with subprocess.Popen(arguments, stdout=subprocess.PIPE, text=True, env=environment) as farm:
        assert "30 frames" in farm.stdout.readline()
        watch = subprocess.run(
            [*command, "watch", str(path), "--place", "f/{shot}/{shot}.{frame:04}.exr"],
            capture_output=True, text=True, timeout=120, env=environment, check=False,
        )  # fmt: skip
        assert farm.wait(20) == 0
    assert watch.returncode == 0, watch.stderr
    lines = watch.stdout.splitlines()
    assert "30 of 30 frames in" in lines[-1]
    counts = [int(line.split(" of 30")[0].split()[-1]) for line in lines]
    assert counts == sorted(counts)


def test_where_nothing_can_be_kept_it_is_watched_all_the_same(job, capsys):
    path, played = job
    write_project(played.project, path)
    path.with_name("job.arrivals.sqlite").mkdir()
    assert main(["watch", str(path), "--once", "--now", "2031-04-21T11:00"]) == 0
    said = capsys.readouterr()
    assert "job.arrivals.sqlite is not a frame store of Pemlo" in said.err
    assert "of 30 frames in" in said.out


def test_killed_in_the_middle_nothing_is_lost(job, capsys):
    path, played = job
    write_project(played.project, path)
    command = [sys.executable, "-m", "pemlo", "watch", str(path)]
    with subprocess.Popen(command, stdout=subprocess.PIPE, text=True) as watch:
        assert "frames in" in watch.stdout.readline()
        watch.kill()
    assert main(["watch", str(path), "--once", "--now", "2031-04-21T11:00", "--json"]) == 0
    found = json.loads(capsys.readouterr().out)
    assert sum(one["in"] for one in found["shots"]) == 14
    assert sum(one["broken"] for one in found["shots"]) == 1
