"""A project as one folder: it opens elsewhere, with its pictures."""

import shutil

import pytest

from film import make_project
from pemlo.cli.main import main
from pemlo.core.errors import FileError
from pemlo.core.files.trial_pictures import small_beside
from pemlo.core.handover.whole_project import pack_of, write_pack
from pemlo.core.persistence.document import read_project, write_project
from pemlo.core.progress import Cancelled
from pemlo.core.project.trials import Trial


@pytest.fixture
def film(tmp_path):
    here, there = tmp_path / "film", tmp_path / "elsewhere"
    here.mkdir()
    there.mkdir()
    (here / "a.exr").write_bytes(b"a" * 1000)
    (here / "a.small.png").write_bytes(b"small")
    (there / "A.exr").write_bytes(b"other" * 100)
    trials = [
        Trial(shot="010", frame=k, samples=64, seconds=1, picture=name, error_against=against)
        for k, name, against in ((1, "a.exr", str(there / "A.exr")), (2, str(there / "A.exr"), ""), (3, "gone.exr", ""))
    ]
    project = make_project(trials=tuple(trials))
    write_project(project, here / "job.pemlo")
    return project, here


def test_it_weighs_what_it_will_weigh_and_opens_elsewhere(film, tmp_path):
    project, here = film
    pack = pack_of(project, here)
    assert (pack.bytes, pack.missing) == (1505, ("gone.exr",))
    written = write_pack(pack, tmp_path / "out", "job.pemlo")
    weight = sum(one.stat().st_size for one in (tmp_path / "out" / "pictures").iterdir())
    assert weight == pack.bytes
    moved = tmp_path / "moved"
    shutil.move(tmp_path / "out", moved)
    shutil.rmtree(here)
    again = read_project(moved / written.name)
    assert [(moved / trial.picture).is_file() for trial in again.trials] == [True, True, False]
    assert (moved / again.trials[0].error_against).read_bytes() == b"other" * 100
    assert (moved / again.trials[0].picture).with_suffix(".small.png").is_file()
    assert again.changed(trials=()) == project.changed(trials=())


def test_small_copies_go_along_where_their_picture_is_gone(film, tmp_path):
    project, here = film
    (here / "gone.small.jpg").write_bytes(b"seen")
    written = write_pack(pack_of(project, here), tmp_path / "out", "job.pemlo")
    gone = read_project(written).trials[2].picture
    assert small_beside(written.parent / gone)[0].read_bytes() == b"seen"
    assert pack_of(project, here).missing == ("gone.exr",)


def test_a_folder_that_is_there_is_left_alone(film, tmp_path):
    project, here = film
    (tmp_path / "out").mkdir()
    (tmp_path / "out" / "mine.txt").write_text("mine")
    with pytest.raises(FileError, match="not empty"):
        write_pack(pack_of(project, here), tmp_path / "out", "job.pemlo")
    assert [one.name for one in (tmp_path / "out").iterdir()] == ["mine.txt"]


def test_stopping_leaves_nothing(film, tmp_path):
    project, here = film

    class Stop:
        def step(self, fraction, text):
            if fraction > 0.3:
                raise Cancelled

    before = set(tmp_path.iterdir())
    with pytest.raises(Cancelled):
        write_pack(pack_of(project, here), tmp_path / "out", "job.pemlo", Stop())
    assert set(tmp_path.iterdir()) == before


def test_a_picture_that_vanishes_meanwhile_is_said(film, tmp_path):
    project, here = film
    pack = pack_of(project, here)
    (here / "a.exr").unlink()
    with pytest.raises(FileError, match="cannot be written"):
        write_pack(pack, tmp_path / "out", "job.pemlo")
    assert not (tmp_path / "out").exists()


def test_from_the_command_line(film, tmp_path, capsys):
    _, here = film
    assert main(["pack", str(here / "job.pemlo"), str(tmp_path / "out"), "--weigh"]) == 0
    assert not (tmp_path / "out").exists()
    assert main(["pack", str(here / "job.pemlo"), str(tmp_path / "out")]) == 0
    said = capsys.readouterr()
    assert "3 picture files" in said.out
    assert "1 picture not there: gone.exr" in said.err
    assert main(["pack", str(here / "job.pemlo"), str(tmp_path / "out")]) == 2
