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
    planned = first.replace(plan=first.asked.replace(samples=64, frame_step=2))
    write_project(project.replace(shots=(planned, second)), tmp_path / "job.pemlo")
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


def test_files_by_their_ending(job, tmp_path):
    for ending, begins in ((".html", b"<!DOCTYPE html>"), (".pdf", b"%PDF"), (".csv", b"shot,"), (".json", b"[")):
        path = tmp_path / f"sheet{ending}"
        assert main(["sheet", job, "-o", str(path)]) == 0
        assert path.read_bytes().startswith(begins)
    assert main(["sheet", job, "-o", str(tmp_path / "sheet.doc")]) == 2
    assert main(["sheet", job, "--by-machine"]) == 2  # nothing was timed


def test_cells_stay_text(tmp_path):
    project = make_project()
    first = project.shots[0].replace(name='=cmd|"x",1')
    write_project(project.replace(shots=(first,)), tmp_path / "job.pemlo")
    assert main(["sheet", str(tmp_path / "job.pemlo"), "-o", str(tmp_path / "s.csv")]) == 0
    rows = list(csv.DictReader(io.StringIO((tmp_path / "s.csv").read_text())))
    assert {row["shot"].lstrip("'") for row in rows} == {'=cmd|"x",1'}
    assert not rows[0]["shot"].startswith("=")


def test_the_case_is_written_as_a_page_and_on_paper(tmp_path, capsys):
    from film import well_timed

    write_project(make_project(trials=well_timed()), tmp_path / "job.pemlo")
    for ending, begins in ((".html", b"<!DOCTYPE html>"), (".pdf", b"%PDF")):
        path = tmp_path / f"case{ending}"
        assert main(["case", str(tmp_path / "job.pemlo"), "-o", str(path)]) == 0
        assert path.read_bytes().startswith(begins)
    assert main(["case", str(tmp_path / "job.pemlo"), "-o", str(tmp_path / "case.txt")]) == 2


def test_cards_are_asked_for_where_there_is_a_page(tmp_path, capsys):
    path = tmp_path / "film.pemlo"
    write_project(make_project(), path)
    assert main(["sheet", str(path), "--cards"]) == 2
    assert "--cards are part of a page" in capsys.readouterr().err
    page = tmp_path / "sheet.html"
    assert main(["sheet", str(path), "--cards", "-o", str(page)]) == 0
    assert page.read_text().count('<section class="shot">') == 2
