"""A project as one folder: it opens elsewhere, with its pictures."""

import os
import shutil
from pathlib import Path

import pytest

from film import make_project
from pemlo.cli.main import main
from pemlo.core.errors import FileError
from pemlo.core.files.trial_pictures import small_beside
from pemlo.core.persistence.document import read_project, write_project
from pemlo.core.progress import Cancelled
from pemlo.core.project.trials import Trial
from pemlo.handover.whole_project import pack_of, write_pack

EXR, PNG, JPEG = b"\x76\x2f\x31\x01", b"\x89PNG\r\n\x1a\n", b"\xff\xd8\xff\xe0"


@pytest.fixture
def film(tmp_path):
    here, there = tmp_path / "film", tmp_path / "elsewhere"
    here.mkdir()
    there.mkdir()
    (here / "a.exr").write_bytes(EXR + b"a" * 996)
    (here / "a.small.png").write_bytes(PNG)
    (there / "A.exr").write_bytes(EXR + b"o" * 496)
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
    assert (pack.bytes, pack.missing) == (1508, ("gone.exr",))
    written = write_pack(pack, tmp_path / "out", "job.pemlo")
    weight = sum(one.stat().st_size for one in (tmp_path / "out" / "pictures").iterdir())
    assert weight == pack.bytes
    moved = tmp_path / "moved"
    shutil.move(tmp_path / "out", moved)
    shutil.rmtree(here)
    again = read_project(moved / written.name)
    assert [(moved / trial.picture).is_file() for trial in again.trials] == [True, True, False]
    assert (moved / again.trials[0].error_against).read_bytes() == EXR + b"o" * 496
    assert (moved / again.trials[0].picture).with_suffix(".small.png").is_file()
    assert again.replace(trials=()) == project.replace(trials=())


def test_small_copies_go_along_where_their_picture_is_gone(film, tmp_path):
    project, here = film
    (here / "gone.small.jpg").write_bytes(JPEG)
    written = write_pack(pack_of(project, here), tmp_path / "out", "job.pemlo")
    gone = read_project(written).trials[2].picture
    assert small_beside(written.parent / gone)[0].read_bytes() == JPEG
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


def test_only_pictures_go_along_whatever_a_document_names(tmp_path, capsys):
    secret = tmp_path / "secret"
    secret.write_text("secret words")
    (tmp_path / "link.exr").symlink_to(secret)
    (tmp_path / "fake.exr").write_text("no picture")
    os.mkfifo(tmp_path / "pipe.exr")
    named = ("/etc/passwd", str(secret), "link.exr", "fake.exr", "/dev/zero", "pipe.exr")
    trials = tuple(Trial(shot="010", frame=1, samples=64, seconds=1, picture=name) for name in named)
    write_project(make_project(trials=trials), tmp_path / "job.pemlo")
    assert main(["pack", str(tmp_path / "job.pemlo"), str(tmp_path / "out")]) == 0
    said = capsys.readouterr()
    assert "0 picture files" in said.out
    assert "4 files left out, not pictures: /etc/passwd" in said.err
    assert sorted(one.name for one in (tmp_path / "out").rglob("*")) == ["job.pemlo", "pictures"]


def test_what_lies_beside_is_left_alone_and_odd_folders_are_refused(film, tmp_path, monkeypatch):
    project, here = film
    mine = tmp_path / ".out.pemlo-packing"
    mine.mkdir()
    (mine / "kept.txt").write_text("mine")
    write_pack(pack_of(project, here), tmp_path / "out", "job.pemlo")
    assert (mine / "kept.txt").read_text() == "mine"
    monkeypatch.chdir(here)
    with pytest.raises(FileError, match="not empty"):
        write_pack(pack_of(project, here), Path(), "job.pemlo")
    with pytest.raises(FileError, match="cannot be written"):
        write_pack(pack_of(project, here), tmp_path / ("x" * 300), "job.pemlo")
    assert not [one for one in tmp_path.iterdir() if one.name.startswith(".pemlo")]


def test_long_names_of_pictures_are_cut_and_stay_apart(tmp_path):
    names = [f"{'ö' * 115}{k}.exr" for k in "ab"]
    for name in names:
        (tmp_path / name).write_bytes(EXR)
    trials = tuple(Trial(shot="010", frame=1, samples=64, seconds=1, picture=name) for name in names)
    written = write_pack(pack_of(make_project(trials=trials), tmp_path), tmp_path / "out", "job.pemlo")
    packed = [trial.picture for trial in read_project(written).trials]
    assert len(set(packed)) == 2
    assert all((written.parent / one).is_file() and len(one.encode()) < 230 for one in packed)
