"""What others wrote, on the command line: nothing is written out of its folder, over what is there, or as a formula."""

import csv
import io
import socket

import pytest

from command import pemlo, pemlo_process
from film import make_project, make_shot, well_timed
from pemlo.core.persistence.document import to_text, write_project
from pemlo.core.project.machines import Machine
from pemlo.core.units import counted


@pytest.fixture
def job(tmp_path):
    folder = tmp_path / "film"
    folder.mkdir()
    path = folder / "job.pemlo"
    write_project(make_project((make_shot("010", 6),), well_timed(frames=(1, 6))), path)
    return path


def farm(job, *more):
    return pemlo("farm", job, "--into", job.parent / "f", "--clock", "10000", *more, cwd=job.parent)


def test_the_farm_does_not_write_over_frames(job):
    frames = job.parent / "f" / "010"
    frames.mkdir(parents=True)
    (frames / "010.0003.exr").write_bytes(b"mine")
    run = farm(job)
    assert run.returncode == 2
    assert "1 frame is in" in run.stderr
    assert "010.0003.exr" in run.stderr
    assert (frames / "010.0003.exr").read_bytes() == b"mine"
    assert [one.name for one in frames.iterdir()] == ["010.0003.exr"]


def test_the_farm_does_not_write_through_a_link(job):
    frames = job.parent / "f" / "010"
    frames.mkdir(parents=True)
    (frames / "010.0003.exr").symlink_to(job.parent / "elsewhere.exr")
    assert farm(job).returncode == 2
    assert not (job.parent / "elsewhere.exr").exists()


@pytest.mark.parametrize("name", ["small-farm.log", "small-farm.json", ".small-farm.json.part"])
def test_the_farm_writes_its_log_and_its_clock_through_no_link(job, name):
    other = job.parent / "mine.txt"
    other.write_text("mine")
    (job.parent / "f").mkdir()
    (job.parent / "f" / name).symlink_to(other)
    run = farm(job, "--log", "sheet")
    assert other.read_text() == "mine"
    assert run.returncode == (2 if name.endswith(".log") else 0), run.stderr


@pytest.mark.parametrize("place", ["../{shot}.{frame:04}.exr", "a/../../{shot}.{frame:04}.exr"])
def test_the_farm_stays_in_its_folder(job, place):
    run = farm(job, "--place", place)
    assert run.returncode == 2
    assert "leads out of the folder f" in run.stderr
    assert not list(job.parent.rglob("*.exr"))


def test_a_shot_that_is_a_path_is_refused_wherever_it_stands(job):
    job.write_text(to_text(make_project((make_shot("010"),))).replace('"010"', '"../../x"'))
    for command in (["estimate", job], ["farm", job, "--into", "f"], ["missing", job, "--shot", "../../x"]):
        run = pemlo(*command, cwd=job.parent)
        assert run.returncode == 2
        assert "holds “/”, which a file name cannot" in run.stderr


def test_a_trace_holds_no_formulas(job):
    machines = (Machine(name="=HYPERLINK(1)"), Machine(name="@x"))
    write_project(make_project((make_shot("+x", 6),), well_timed("+x", frames=(1, 6)), machines), job)
    run = pemlo("finish", job, "--trace", "--draws", "2", cwd=job.parent)
    cells = [cell for row in csv.reader(io.StringIO(run.stdout)) for cell in row]
    assert "'=HYPERLINK(1)" in cells
    assert "'+x" in cells
    assert not [cell for cell in cells if cell[:1] in ("=", "@", "+")]


def test_frames_of_a_folder_that_cannot_be_a_shot_are_said(job):
    folder = job.parent / "days"
    folder.mkdir()
    for name in ("day.20310421.exr", "day.20310422.exr", "a.0001.exr", "a.5000.exr"):
        (folder / name).write_bytes(b"")
    run = pemlo("new", "--title", "x", "--start", "2031-04-21T10:00", "--deadline", "2031-04-24T10:00", "--frames", folder,
                "-o", "new.pemlo", cwd=job.parent)  # fmt: skip
    assert run.returncode == 0, run.stderr
    assert f"1 shot, {counted(5000, 'frame')}" in run.stdout
    assert "Are they dates?" in run.stderr


def test_a_cluster_that_says_nothing_is_given_up(job):
    pytest.importorskip("distributed")
    with socket.socket() as silent:
        silent.bind(("127.0.0.1", 0))
        silent.listen()
        run = pemlo(
            "finish", job, "--draws", "2", "--on", f"dask://127.0.0.1:{silent.getsockname()[1]}", cwd=job.parent
        )
    assert run.returncode == 2
    assert "No cluster answers" in run.stderr


def test_the_terminal_gets_no_orders(job):
    """A name of a file that clears the screen or turns the writing is shown with marks in place of these."""
    frames = job.parent / "f"
    frames.mkdir()
    (frames / "a\x1b[2J\u202e.1.exr").write_bytes(b"x")
    run = pemlo_process("watch", job, "--once", "--place", "f/{shot}.{frame}.exr", cwd=job.parent)
    assert run.returncode == 0
    assert "a" in run.stdout + run.stderr
    assert not {"\x1b", "\u202e"} & set(run.stdout + run.stderr)
    run = pemlo_process("estimate", "no\x1b[31mway.pemlo", cwd=job.parent)
    assert run.returncode == 2
    assert "\x1b" not in run.stderr
    run = pemlo_process("missing", job, "--shot", "\x1b[2J", cwd=job.parent)
    assert "\x1b" not in run.stderr
