"""``pemlo sheet``: what to enter, and command lines."""

import csv
import io
import json

import pytest

from film import make_project
from pemlo.cli.main import main
from pemlo.core.persistence.document import write_project


@pytest.fixture
def job(tmp_path):
    project = make_project()
    first, second = project.shots
    planned = first.changed(plan=first.asked.changed(samples=64, frame_step=2))
    write_project(project.changed(shots=(planned, second)), tmp_path / "job.pemlo")
    return str(tmp_path / "job.pemlo")


def test_changes_are_marked(job, capsys):
    assert main(["sheet", job]) == 0
    said = capsys.readouterr().out
    assert "010: frames 1-99x2, 50 to render" in said
    assert "* samples" in said
    assert "64  (asked 256)" in said
    assert said.count("*") == 2


def test_as_a_table_and_as_json(job, capsys):
    assert main(["sheet", job, "--csv"]) == 0
    rows = list(csv.DictReader(io.StringIO(capsys.readouterr().out)))
    assert [(row["shot"], row["setting"]) for row in rows if row["changed"]] == [("010", "step"), ("010", "samples")]
    assert main(["sheet", job, "--json"]) == 0
    found = json.loads(capsys.readouterr().out)
    assert found[0]["settings"]["samples"] == {"asked": "256", "planned": "64"}


def test_command_lines(job, capsys):
    assert main(["sheet", job, "--template", "render {shot} -s {first} -e {last} -x {step}"]) == 0
    assert capsys.readouterr().out.splitlines() == ["render 010 -s 1 -e 100 -x 2", "render 020 -s 1 -e 50 -x 1"]
