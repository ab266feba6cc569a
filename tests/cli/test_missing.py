"""``pemlo missing``: the contract of its output, and what is refused."""

import json
from pathlib import Path

import pytest

from film import make_project, make_shot, well_timed
from frame_files import ramp, write
from pemlo.cli.main import main
from pemlo.core.persistence.document import write_project
from pemlo.core.project.machines import Machine

PLACE = "renders/{shot}/{shot}.{frame:04}.exr"


@pytest.fixture
def job(tmp_path):
    machines = (Machine(name="desk"), Machine(name="blade", speed=2.0))
    path = tmp_path / "job.pemlo"
    write_project(make_project((make_shot("010", 60),), well_timed("010", (1, 60)), machines), path)
    home = tmp_path / "renders" / "010"
    home.mkdir(parents=True)
    for frame in (*range(1, 21), *range(41, 57), 58, 59, 60):
        (home / f"010.{frame:04d}.exr").write_bytes(b"x")
    return str(path)


def test_ranges_that_can_be_copied(job, capsys):
    assert main(["missing", job, "--shot", "010", "--place", PLACE]) == 0
    assert capsys.readouterr().out == "21-40, 57\n"
    assert main(["missing", job, "--shot", "010", "--place", PLACE, "--split", "desk,blade"]) == 0
    first, desk, blade = capsys.readouterr().out.splitlines()
    assert desk.startswith("desk: 21-")
    assert blade.startswith("blade: ")
    assert blade.split(";")[0].endswith("57")


def test_as_json_it_has_every_part(job, capsys):
    assert main(["missing", job, "--shot", "010", "--place", PLACE, "--split", "desk, blade", "--json"]) == 0
    found = json.loads(capsys.readouterr().out)
    assert (found["shot"], found["frames"], found["missing"]) == ("010", 60, "21-40,57")
    assert [one["machine"] for one in found["ranges"]] == ["desk", "blade"]


@pytest.mark.parametrize(
    ("more", "words"),
    [(["--shot", "999", "--place", PLACE], "no shot called 999"),
     (["--shot", "010", "--place", PLACE, "--split", "rented"], "no machine called rented")],
)  # fmt: skip
def test_what_is_not_there_is_said(job, capsys, more, words):
    assert main(["missing", job, *more]) == 2
    assert words in capsys.readouterr().err


def test_a_place_that_is_none_is_refused_and_one_that_is_not_there_leaves_all_missing(job, capsys):
    with pytest.raises(SystemExit):
        main(["missing", job, "--shot", "010", "--place", "{shot}.exr"])
    assert "no {frame}" in capsys.readouterr().err
    assert main(["missing", job, "--shot", "010", "--place", "elsewhere/{frame}.exr"]) == 0
    said = capsys.readouterr()
    assert said.out == "1-60\n"
    assert "There is no folder elsewhere" in said.err


def test_a_frame_that_is_half_written_is_missing_and_said(job, capsys):
    home = Path(job).parent / "renders" / "010"
    whole = write(home / "010.0021.exr", ramp(), "half").read_bytes()
    (home / "010.0022.exr").write_bytes(whole[: len(whole) // 2])
    assert main(["missing", job, "--shot", "010", "--place", PLACE, "--json"]) == 0
    said = capsys.readouterr()
    assert json.loads(said.out)["missing"] == "22-40,57"
    assert "not whole, and missing therefore: 22" in said.err
