"""Every command ends with 2 and a plain sentence for every kind of wrong input, and harms no file."""

import csv
import os
import subprocess
import sys
from pathlib import Path

import pytest

from command import pemlo
from film import make_project, well_timed
from pemlo.core.persistence.document import write_project

WHEN = ("--title", "Film", "--start", "2031-04-21T10:00Z", "--deadline", "2031-04-24T18:00Z", "--timezone", "UTC")


@pytest.fixture
def folder(tmp_path):
    write_project(make_project(trials=well_timed()), tmp_path / "job.pemlo")
    (tmp_path / "shots.csv").write_text("shot,first,last,samples\n010,1,100,64\n")
    (tmp_path / "wrong_shots.csv").write_text("shot,first,last,samples\n010,1,x,64\n")
    (tmp_path / "wrong_trials.csv").write_text("shot,frame,seconds\n010,1,soon\n")
    (tmp_path / "wrong_machines.csv").write_text("machine,count\ndesk,-1\n")
    (tmp_path / "notes.csv").write_text("a,b\n1,2")
    (tmp_path / "picture.exr").write_bytes(b"\x76\x2f\x31\x01 and then nothing")
    (tmp_path / "nested.pemlo").write_text("[" * 100_000)
    return tmp_path


def files_of(folder):
    return {path.name: path.read_bytes() for path in folder.iterdir() if path.is_file()}


WRONG = {
    "way": [
        ("none.pemlo", "main"), ("job.pemlo", "main"), ("job.pemlo", "main", "--command", ""), ("job.pemlo", "main", "--remove"),
        ("job.pemlo", "main", "--command", "draw {frmae} {out}"), ("job.pemlo", "main", "--learn", "draw 'x"),
        ("job.pemlo", "main", "--command", "draw {frame} {out}", "--say", "denoise"), ("job.pemlo", "", "--command", "draw {frame} {out}"),
        ("job.pemlo", "main", "--command", "draw {frame} {out}", "--env", "A"), ("job.pemlo", "main", "--command", "draw {frame} {out}", "--limit", "soon"),
        ("job.pemlo", "main", "--command", "draw {frame} {out}", "--output", "took 3 s"), ("job.pemlo", "main", "--mine"),
    ],
    "trial": [
        ("none.pemlo", "--next", "1"), ("job.pemlo",), ("job.pemlo", "--way", "none", "--next", "1"), ("job.pemlo", "--minutes", "0"),
        ("job.pemlo", "--minutes", "nan"), ("job.pemlo", "--next", "0"), ("job.pemlo", "--shot", "999"), ("job.pemlo", "--shot", "010"),
        ("job.pemlo", "--next", "1", "--frame", "3"), ("-", "--next", "1"), ("job.pemlo", "--next", "1", "--minutes", "2"),
    ],
    "sheet": [
        ("none.pemlo",), ("job.pemlo", "--template", ""), ("job.pemlo", "--template", "render {shto}"),
        ("job.pemlo", "--template", "render '{shot}'"),
    ],
    "edit": [
        ("job.pemlo", "none.edl"), ("job.pemlo", "notes.csv"), ("job.pemlo", "picture.exr"), ("none.pemlo", "notes.csv"),
        ("job.pemlo", "nested.pemlo"), ("job.pemlo", "/dev/zero"), ("job.pemlo", "."), ("job.pemlo", "notes.csv", "--fps", "nan"),
    ],
    "case": [
        ("none.pemlo", "-o", "case.html"), ("job.pemlo",), ("job.pemlo", "-o", "case.doc"),
        ("job.pemlo", "-o", "no/folder/case.html"), ("job.pemlo", "-o", "no/folder/case.pdf"),
    ],
    "movie": [
        ("none.pemlo", "-o", "m.mp4"), ("job.pemlo",), ("job.pemlo", "-o", "m.mp4"), ("job.pemlo", "-o", "m.gif", "--trials"),
        ("job.pemlo", "-o", "m.mp4", "--trials"), ("job.pemlo", "-o", "m.mp4", "--place", "{shot}.exr"),
        ("job.pemlo", "-o", "m.mp4", "--place", "{frame}.exr", "--timecode", "25:00:00:00"),
        ("job.pemlo", "-o", "m.mp4", "--place", "{frame}.exr", "--view", "none.ocio", "a", "b"),
    ],
    "pack": [("none.pemlo", "out"), ("job.pemlo",), ("job.pemlo", "shots.csv"), ("job.pemlo", ".")],
    "check": [
        ("none.pemlo",), ("job.pemlo", "--launch", "none.csv"), ("job.pemlo", "--launch", "notes.csv"),
        ("job.pemlo", "--first-frame", "999=a.exr"), ("job.pemlo", "--first-frame", "a.exr"),
    ],
    "watch": [
        ("job.pemlo", "--once"), ("none.pemlo", "--once"), ("job.pemlo", "--once", "--place", "{shot}.exr"),
        ("job.pemlo", "--once", "--place", "{frame}.exr", "--now", "soon"),
        ("job.pemlo", "--once", "--place", "{frame}.exr", "--log", "a.log"),
    ],
    "farm": [
        ("job.pemlo",), ("none.pemlo", "--into", "r"), ("job.pemlo", "--into", "shots.csv"),
        ("job.pemlo", "--into", "r", "--clock", "0"), ("job.pemlo", "--into", "r", "--place", "{shot}.exr"),
        ("job.pemlo", "--into", "r", "--faults", "eaten"),
    ],
    "missing": [
        ("job.pemlo", "--shot", "999", "--place", "{frame}.exr"), ("job.pemlo", "--shot", "010"),
        ("job.pemlo", "--shot", "010", "--place", "{shot}.exr"), ("none.pemlo", "--shot", "010", "--place", "{frame}.exr"),
        ("job.pemlo", "--shot", "010", "--place", "{frame}.exr", "--split", "nobody"), (),
    ],
    "estimate": [
        ("job.pemlo", "--seed", "-1"), ("job.pemlo", "--seed", "9223372036854775808"), ("none.pemlo",), (".",),
        ("/dev/zero",), ("shots.csv",), ("picture.exr",), ("nested.pemlo",), ("",),
    ],
    "predict": [
        ("job.pemlo", "--shot", "010", "--frame", "5", "--samples", "1" + "0" * 400),
        ("job.pemlo", "--shot", "010", "--frame", "5", "--noise-threshold", "nan"),
        ("job.pemlo", "--shot", "010", "--frame", "5", "--resolution-percent", "inf"),
        ("job.pemlo", "--shot", "010", "--frame", "99999999999999999999"),
        ("job.pemlo", "--shot", "999", "--frame", "5"),
        ("/dev/zero", "--shot", "010", "--frame", "5"),
    ],
    "plan": [("none.pemlo",), ("/dev/zero",), ("nested.pemlo",), ("job.pemlo", "--goal", "luck")],
    "compare": [
        ("none.pemlo", "asked", "plan"), ("/dev/zero", "asked", "plan"), ("nested.pemlo", "asked", "plan"),
        ("job.pemlo", "asked", "luck"), ("job.pemlo", "--shot", "999", "asked", "plan"), ("job.pemlo", "", ""),
    ],
    "finish": [
        ("none.pemlo",), ("/dev/zero",), ("nested.pemlo",), ("job.pemlo", "--draws", "0"),
        ("job.pemlo", "--order", "luck"),
    ],
    "measure": [
        ("picture.exr",), ("none.exr",), (".",), ("/dev/zero",), ("picture.exr", "--exposure", "5000"),
        ("picture.exr", "--exposure", "nan"), ("picture.exr", "--seen-at", "1e999"),
    ],
    "render": [
        ("--scene", "stairs", "-o", "a.exr", "--seed", "-1"), ("--scene", "none", "-o", "a.exr"),
        ("--scene", "stairs", "-o", "a.exr", "--size", "16x9", "--samples", "1", "--row", "notes.csv"),
        ("--scene", "stairs", "-o", "a.exr", "--size", "16x9", "--samples", "1", "--row", "."),
        ("--scene", "stairs", "-o", "a.exr", "--size", "16x9", "--samples", "1", "--row", "picture.exr"),
        ("--scene", "stairs", "-o", "no/folder/a.exr"), ("--scene", "stairs", "-o", ".exr/"),
    ],
    "new": [
        (*WHEN, "--shots", "shots.csv", "-o", "shots.csv"), (*WHEN, "--shots", "shots.csv", "-o", "notes.csv"),
        (*WHEN, "--shots", "shots.csv", "-o", "."), (*WHEN, "--shots", "shots.csv", "-o", "/"),
        (*WHEN, "--shots", "shots.csv", "-o", ""), (*WHEN, "--shots", "/dev/zero", "-o", "new.pemlo"),
        (*WHEN, "--shots", "wrong_shots.csv", "-o", "new.pemlo"),
        (*WHEN, "--shots", "shots.csv", "-o", "new.pemlo", "--confidence", "nan"),
        (*WHEN, "--shots", "shots.csv", "-o", "new.pemlo", "--timezone", "../etc/passwd"),
    ],
}  # fmt: skip
CASES = [(command, arguments) for command, cases in WRONG.items() for arguments in cases]


@pytest.mark.parametrize(("command", "arguments"), CASES, ids=[f"{c} {' '.join(a)[:60]}" for c, a in CASES])
def test_wrong_input_ends_with_two_and_harms_nothing(folder, command, arguments):
    before = files_of(folder)
    done = pemlo(command, *arguments, cwd=folder)
    assert done.returncode == 2, done.stderr
    assert done.stderr.strip()
    assert files_of(folder) == before


def test_every_command_is_tried():
    from pemlo.cli.main import COMMANDS

    assert set(WRONG) == set(COMMANDS)


def test_what_is_wrong_with_three_tables_is_said_together(folder):
    tables = ("--shots", "wrong_shots.csv", "--trials", "wrong_trials.csv", "--machines", "wrong_machines.csv")
    done = pemlo("new", *WHEN, *tables, "-o", "new.pemlo", cwd=folder)
    assert done.returncode == 2
    for table in tables[1::2]:
        assert f"{table}, line 2, column" in done.stderr
    assert not (folder / "new.pemlo").exists()


def test_rows_are_added_as_the_table_has_them(folder):
    from pemlo.core.persistence.csv_trials import read_trials
    from pemlo.core.persistence.table import read_table_file, write_rows

    render = ("render", "--scene", "stairs", "--size", "16x9", "--samples", "1", "--row", "tests/rows.csv")
    (folder / "tests").mkdir()
    assert pemlo(*render, "-o", "tests/a.exr", cwd=folder).returncode == 0
    table = folder / "tests" / "rows.csv"
    header, row = csv.reader(table.read_text().splitlines())
    # Another order, a column of one's own, and no end of line after the last row.
    other = write_rows(["mine", *reversed(header)], [["x", *reversed(row)]])
    table.write_text(other.rstrip())
    assert pemlo(*render, "-o", "b.exr", cwd=folder).returncode == 0
    text = read_table_file(table)
    trials = read_trials(text.replace("stairs", "010"), make_project())
    assert [trial.picture for trial in trials] == ["a.exr", str(folder / "b.exr")]
    assert [trial.extra_columns[0] for trial in trials] == [("mine", "x"), ("mine", "")]
    assert trials[0].frame == trials[1].frame == 1


@pytest.mark.slow
def test_a_narrow_terminal_and_a_full_disk_are_no_bugs(folder):
    run = [sys.executable, "-m", "pemlo", "estimate", "job.pemlo"]
    environment = {**os.environ, "PYTHONPATH": os.pathsep.join(sys.path)}
    narrow = subprocess.run(
        run, cwd=folder, env={**environment, "PYTHONIOENCODING": "latin-1"}, capture_output=True, check=False
    )
    assert (narrow.returncode, narrow.stderr) == (0, b"")
    with Path("/dev/full").open("w") as full:
        done = subprocess.run(run, cwd=folder, env=environment, stdout=full, stderr=subprocess.PIPE, check=False)
    assert done.returncode == 2
    assert done.stderr == b"pemlo: there is no room for what is to be written.\n"
