"""Launches that others wrote: each ends in words within seconds, whatever stands in its cells."""

import json

import pytest

from command import pemlo
from film import make_project, make_shot, well_timed
from limits import limited
from pemlo.core.errors import InputError
from pemlo.core.persistence.document import write_project
from pemlo.core.preflight import check_context
from pemlo.core.preflight.check_context import plan_row, situation_of


@pytest.fixture
def job(tmp_path):
    path = tmp_path / "job.pemlo"
    write_project(make_project((make_shot("010", 60),), well_timed("010", (1, 60))), path)
    return path


def check(job, head, line):
    (job.parent / "launch.csv").write_text(f"{head}\n{line}\n")
    with limited(20):
        return pemlo("check", job, "--launch", "launch.csv", "--json", cwd=job.parent)


@pytest.mark.parametrize(
    ("head", "line", "words"),
    [
        ("shot,first,last", "010,1,9000000", "more than a million"),
        ("shot,first,last", "010,-9999999,9999999", "more than a million"),
        ("shot,first,last", "010,1," + "9" * 400, "is too large"),
        ("shot,size", "010," + "9" * 5000 + "x1", "is neither a size like 1920x1080"),
        ("shot,folder", "010,a\u202eb", "cannot be seen (U+202E)"),
        ("shot", "../x", "holds “/”"),
        ("shot,samples", "010,1e9", "1000000 or less"),
        ("shot,percentage", "010,1e400", "is too large"),
    ],
)  # fmt: skip
def test_cells_that_cannot_be_are_refused_with_their_line(job, head, line, words):
    run = check(job, head, line)
    assert run.returncode == 2
    assert words in run.stderr
    assert "launch.csv, line 2" in run.stderr


@pytest.mark.parametrize(
    ("head", "line", "name", "words"),
    [
        ("shot,first,last,pattern,folder", "010,1,60,{shot}.{frame:04}.exr," + "x" * 4000, "folders", "is not there and cannot be made"),
        ("shot,pattern", "010,{shot}.{frame:0999999999}.exr", "file names", "12 digits at most"),
        ("shot,pattern", "010,{shot}.{frame:99999999999}.exr", "file names", "12 digits at most"),
        ("shot,pattern", "010,{frame}{frame", "file names", "brace"),
    ],
)  # fmt: skip
def test_names_and_folders_that_no_disk_takes_are_wrong(job, head, line, name, words):
    run = check(job, head, line)
    assert run.returncode == 3
    (found,) = [one for one in json.loads(run.stdout)["checks"] if one["check"] == name]
    assert found["outcome"] == "wrong"
    assert words in found["words"]
    assert len(found["words"]) < 400


def test_a_launch_of_more_frames_than_can_be_held_is_refused(monkeypatch):
    monkeypatch.setattr(check_context, "MOST_PATHS", 100)
    project = make_project((make_shot("010", 60), make_shot("020", 60)))
    rows = tuple(plan_row(project, shot).replace(pattern="{shot}.{frame}.exr") for shot in project.shots)
    with pytest.raises(InputError, match="has 120 frames; 100 frames can be checked at once"):
        _ = situation_of(project, rows).paths


def test_a_first_frame_whose_header_lies_is_said(job):
    from frame_files import ramp, write

    write(
        job.parent / "a.exr",
        ramp((1920, 1080)),
        "half",
        pemlo__scene="stairs",
        pemlo__seconds="1,000",
        pemlo__samples=256,
    )
    run = pemlo("check", job, "--first-frame", "010=a.exr", cwd=job.parent)
    assert "in its header seconds: “1,000”" in run.stdout
