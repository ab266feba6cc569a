"""The command line as a studio's scripts use it: with exit codes and both outputs, and once as a process."""

import json
import os
import subprocess
import sys
from datetime import datetime

import pytest

from command import pemlo, pemlo_process
from film import exact_seconds, make_project, make_shot, well_timed
from pemlo.cli import main as cli
from pemlo.core.persistence.document import read_project, write_project
from pemlo.core.project.settings import FrameSettings

SHOTS = "shot,first,last,samples,width,height,fps\n010,1,100,256,1920,1080,25\n020,1,50,256,1920,1080,25\n"
TRIALS = "shot,frame,seconds,samples,resolution_percent\n010,1,75,256,100\n010,50,1:15,256,100\n010,100,76,256,100\n010,50,22.0,16,50\n"
MACHINES = 'machine,count,hours\ndesk,2,"Mon-Fri 19:00-08:00, Sat-Sun all day"\nblade,1,always\n'


@pytest.fixture
def tables(tmp_path):
    for name, text in (("shots", SHOTS), ("trials", TRIALS), ("machines", MACHINES)):
        (tmp_path / f"{name}.csv").write_text(text)
    return tmp_path


def new(folder, *more, **changes):
    options = {
        "title": "Film",
        "start": "2031-04-21T10:00",
        "deadline": "2031-04-24T18:00",
        "timezone": "UTC",
        **changes,
    }
    named = [part for name, value in options.items() for part in (f"--{name}", value)]
    return pemlo("new", *named, "--shots", "shots.csv", *more, "-o", "job.pemlo", cwd=folder)


ALL = ("--trials", "trials.csv", "--machines", "machines.csv")


def test_a_job_from_tables_to_a_verdict(tables):
    made = new(tables, *ALL)
    assert made.returncode == 0, made.stderr
    project = read_project(tables / "job.pemlo")
    assert (project.delivery.width, project.delivery.fps) == (1920, 25)
    assert all(shot.width is None for shot in project.shots)
    run = pemlo_process("estimate", "job.pemlo", "--json", cwd=tables)
    assert run.returncode == 0
    found = json.loads(run.stdout)
    assert set(found) == {"shots", "machine_hours", "hours_available", "finish", "odds", "disagreements", "verdict"}
    first = found["shots"][0]
    assert set(first) == {"shot", "frames", "seconds_per_frame", "machine_hours"}
    assert first["frames"] == 100
    seconds = first["seconds_per_frame"]
    assert seconds["p05"] < seconds["p50"] < seconds["p95"]
    assert seconds["p50"] == pytest.approx(75, rel=0.05)
    assert first["machine_hours"]["p50"] == pytest.approx(seconds["p50"] * 100 / 3600, rel=1e-4)
    # Three nights of two desks, 13 hours each, and 80 hours of the blade.
    assert found["hours_available"] == pytest.approx(3 * 26 + 80)
    early, late = (datetime.fromisoformat(found["finish"][p]) for p in ("p05", "p95"))
    assert early < late
    assert found["odds"] > 0.99
    assert found["verdict"].startswith("Makes Thursday 18:00")


def test_the_same_seed_gives_the_same_answer(tables):
    new(tables, *ALL)
    first, second, other = (pemlo("estimate", "job.pemlo", "--json", "--seed", s, cwd=tables).stdout for s in (3, 3, 4))
    assert first == second
    assert first != other


def test_the_table_for_people(tables):
    new(tables, *ALL)
    text = pemlo("estimate", "job.pemlo", cwd=tables).stdout
    assert "Not timed: taken from the film's other shots" in text
    assert "158 are available: 153 to spare" in text
    assert "finish" in text


def test_nothing_timed_is_null(tables):
    assert "one reference machine" in new(tables).stdout
    found = json.loads(pemlo("estimate", "job.pemlo", "--json", cwd=tables).stdout)
    assert found["odds"] is None
    assert found["finish"] is None
    assert found["machine_hours"] is None
    assert found["shots"][0]["seconds_per_frame"] is None
    assert found["hours_available"] == pytest.approx(80)
    assert "Time one frame of shot 010" in found["verdict"]
    assert pemlo("estimate", "job.pemlo", cwd=tables).returncode == 0
    refused = pemlo("predict", "job.pemlo", "--shot", "010", "--frame", "5", cwd=tables)
    assert refused.returncode == 2
    assert "Nothing has been timed yet" in refused.stderr


def test_predicts_settings_that_were_never_timed(tmp_path):
    write_project(make_project(trials=well_timed()), tmp_path / "job.pemlo")
    for options, wanted in (
        (("--samples", "128"), FrameSettings(samples=128)),
        (("--samples", "32", "--resolution-percent", "75"), FrameSettings(samples=32, resolution_percent=75)),
    ):
        run = pemlo("predict", "job.pemlo", "--shot", "010", "--frame", "50", *options, "--json", cwd=tmp_path)
        seconds = json.loads(run.stdout)["seconds"]
        assert set(seconds) == {"p05", "p50", "p95"}
        assert seconds["p05"] < exact_seconds(wanted) < seconds["p95"]
        assert seconds["p50"] == pytest.approx(exact_seconds(wanted), rel=0.05)
    whole, kept = (
        json.loads(
            pemlo("predict", "job.pemlo", "--shot", "010", "--frame", "50", *keep, "--json", cwd=tmp_path).stdout
        )
        for keep in ((), ("--keep", "prepare,light"))
    )
    # The 20 s that these frames spend before the first sample are mostly kept.
    assert whole["seconds"]["p50"] - 20 < kept["seconds"]["p50"] < whole["seconds"]["p50"] - 10
    words = pemlo("predict", "job.pemlo", "--shot", "010", "--frame", "50", cwd=tmp_path).stdout
    assert words.startswith("1 m 1")
    costlier = pemlo(
        "predict", "job.pemlo", "--shot", "010", "--frame", "50", "--denoise", "new", "--json", cwd=tmp_path
    )
    assert json.loads(costlier.stdout)["seconds"]["p50"] > exact_seconds(FrameSettings(samples=256))


@pytest.mark.parametrize(
    ("arguments", "words"),
    [
        (("--shot", "999", "--frame", "1"), "there is no shot 999"),
        (("--shot", "010", "--frame", "101"), "101 is not in shot 010 (1-100)"),
        (("--shot", "010", "--frame", "1", "--samples", "0"), "samples: must be 1 or more"),
        (("--shot", "010", "--frame", "1", "--resolution-percent", "nan"), "is not a number"),
        (("--shot", "010", "--frame", "x"), "is not a whole number"),
        (("--shot", "010", "--frame", "1", "--keep", "trace"), "“trace” cannot be kept"),
        (("--shot", "010"), "required: --frame"),
    ],
)
def test_wrong_questions_are_refused(tmp_path, arguments, words):
    write_project(make_project(trials=well_timed()), tmp_path / "job.pemlo")
    run = pemlo("predict", "job.pemlo", *arguments, cwd=tmp_path)
    assert run.returncode == 2
    assert words in run.stderr
    assert run.stdout == ""


def test_wrong_jobs_are_refused_and_nothing_is_written(tables):
    for changes, words in (
        ({"deadline": "2031-04-20T10:00"}, "deadline is not after the start"),
        ({"deadline": "soon"}, "--deadline: “soon” is not a date and time"),
        ({"confidence": "2"}, "confidence: must be 0.999 or less"),
        ({"timezone": "Mars/North"}, "“Mars/North” is not a time zone"),
        ({"title": ""}, "title: is empty"),
    ):
        run = new(tables, *ALL, **changes)
        assert run.returncode == 2
        assert words in run.stderr
    (tables / "shots.csv").write_text(SHOTS + "030,9,1,8,,,\n040,1,2,oops,,,\n")
    run = new(tables)
    assert "line 5, column samples: “oops” is not a number" in run.stderr
    assert "line 4: the last frame (1) is before the first (9)" in run.stderr
    assert not (tables / "job.pemlo").exists()


def test_wrong_files_are_refused(tables):
    (tables / "job.pemlo").write_text("{")
    for arguments in (
        ("estimate", "job.pemlo"),
        ("estimate", "none.pemlo"),
        ("predict", "job.pemlo", "--shot", "a", "--frame", "1"),
    ):
        run = pemlo(*arguments, cwd=tables)
        assert run.returncode == 2
        assert run.stderr.startswith("pemlo: ")
    assert pemlo("estimate", "job.pemlo", "--seed", "-1", cwd=tables).returncode == 2
    assert pemlo("new", cwd=tables).returncode == 2


def test_notices_go_to_standard_error(tables):
    (tables / "trials.csv").write_text(
        TRIALS.replace("resolution_percent\n", "resolution_percent,machine\n").replace("100\n", "100,ghost\n")
    )
    new(tables, *ALL)
    run = pemlo("estimate", "job.pemlo", "--json", cwd=tables)
    assert "“ghost” is not in the brief" in run.stderr
    json.loads(run.stdout)


def test_a_bug_has_its_own_exit_code(monkeypatch, capsys, tmp_path):
    write_project(make_project((make_shot("bug"),)), tmp_path / "job.pemlo")
    monkeypatch.setattr("pemlo.core.film.values.fit", lambda given, monitor: 1 / 0)
    assert cli.main(["estimate", str(tmp_path / "job.pemlo")]) == 1
    assert "this is a bug in Pemlo" in capsys.readouterr().err


def test_help_and_version(tmp_path):
    assert "estimate" in pemlo_process("--help", cwd=tmp_path).stdout
    assert pemlo_process("--version", cwd=tmp_path).stdout.startswith("pemlo 0.")


def test_the_command_line_loads_no_qt(tmp_path):
    write_project(make_project(trials=well_timed()), tmp_path / "job.pemlo")
    code = (
        "import sys; from pemlo.cli.main import main; main(['estimate', 'job.pemlo']);"
        "sys.exit(any(name.startswith('PySide6') for name in sys.modules))"
    )
    env = {**os.environ, "PYTHONPATH": os.pathsep.join(sys.path)}
    assert subprocess.run([sys.executable, "-c", code], cwd=tmp_path, env=env, check=False).returncode == 0


APART = """shot,frame,seconds,samples,resolution_percent
010,50,16.3,16,50
010,50,40,64,50
010,50,2:30,128,50
"""


def test_times_that_do_not_agree_are_said_by_every_command(tables):
    (tables / "trials.csv").write_text(APART)
    assert new(tables, "--trials", "trials.csv").returncode == 0
    said = "The trials of shot 010 do not agree with each other."
    for command in (["estimate"], ["predict", "--shot", "010", "--frame", "50"], ["plan"]):
        run = pemlo(command[0], "job.pemlo", *command[1:], cwd=tables)
        assert run.returncode == 0, run.stderr
        assert said in run.stdout
        assert "chance to make it" not in run.stdout
        assert "to make it;" not in run.stdout
        (found,) = json.loads(pemlo(command[0], "job.pemlo", *command[1:], "--json", cwd=tables).stdout)[
            "disagreements"
        ]
        assert (found["shot"], found["kind"], sorted(found["trials"])) == ("010", "open", [1, 2, 3])
        assert found["factor"] > 1.4
    assert json.loads(pemlo("estimate", "job.pemlo", "--json", cwd=tables).stdout)["odds"] is None
    before = (tables / "job.pemlo").read_bytes()
    refused = pemlo("plan", "job.pemlo", "--adopt", cwd=tables)
    assert refused.returncode == 2
    assert "Fix the trials first" in refused.stderr
    assert (tables / "job.pemlo").read_bytes() == before
