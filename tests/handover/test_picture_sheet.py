"""The picture sheet: one picture stands for each shot, every trial is there, and labels say what is known."""

import base64
import re

import pytest

from exr import write_exr
from film import make_project, make_shot
from pemlo.cli.main import main
from pemlo.core.errors import InputError
from pemlo.core.film.film import Film
from pemlo.core.persistence.document import write_project
from pemlo.core.project.settings import ShotSettings
from pemlo.core.project.trials import BAD, GOOD, Trial
from pemlo.handover.picture_page import picture_page
from pemlo.handover.picture_sheet import one_of_each, sheet_pictures, variants_of
from photographs import photograph

ASKED = ShotSettings(samples=256)
CLEAN = photograph("astronaut", (64, 40))


def trial(folder, shot, samples, seconds, frame=1, *, picture=True, **fields):
    name = f"{shot}-{frame}-{samples}.exr" if picture else ""
    if picture:
        write_exr(folder / name, CLEAN)
    settings = ASKED.replace(samples=samples).frame_fields()
    return Trial(shot=shot, frame=frame, seconds=seconds, picture=name, **{**settings, **fields})


@pytest.fixture
def film(tmp_path):
    shots = (make_shot("010"), make_shot("020"), make_shot("030", 1))
    trials = (
        trial(tmp_path, "010", 256, 100.0), trial(tmp_path, "010", 64, 30.0, mark=GOOD),
        trial(tmp_path, "010", 16, 10.0, mark=BAD), trial(tmp_path, "020", 32, 20.0),
        trial(tmp_path, "020", 128, 60.0), trial(tmp_path, "030", 256, 135.0, picture=False),
    )  # fmt: skip
    return Film(make_project(tuple(shot.replace(asked=ASKED) for shot in shots), trials), tmp_path)


def test_a_shot_is_shown_as_planned_else_as_it_passed_else_as_clean_as_can_be(film):
    folder, project = film.folder, film.project
    assert [one.index for one in one_of_each(project, folder)] == [0, 4, None]
    planned = project.replace(shots=(project.shots[0].replace(plan=ASKED.replace(samples=64)), *project.shots[1:]))
    assert one_of_each(planned, folder)[0].index == 1
    other = project.replace(shots=(project.shots[0].replace(plan=ASKED.replace(samples=99)), *project.shots[1:]))
    assert one_of_each(other, folder)[0].index == 1  # what passed
    assert [one.index for one in variants_of(project, "010", folder)] == [2, 1, 0]


def test_labels_say_settings_time_hours_of_the_whole_shot_and_the_mark(film):
    """By hand: 100 frames of 30 s are 50 minutes."""
    quick = sheet_pictures(film, variants_of(film.project, "010", film.folder))[1]
    assert quick.title == "010, frame 1"
    assert quick.words == "64 samples; 30.0 s a frame"
    minutes = int(re.match(r"whole shot (\d+) m", quick.hours)[1])
    assert minutes == pytest.approx(50, abs=6)
    assert quick.mark == GOOD
    assert quick.jpeg[:2] == b"\xff\xd8"  # a JPEG file begins so (ISO/IEC 10918-1)


def test_the_page_holds_its_pictures_ticks_marks_and_says_which_shot_has_none(film, tmp_path):
    page = picture_page(film, film.project.start)
    pictures = re.findall(r"base64,([A-Za-z0-9+/=]+)", page)
    assert len(pictures) == 2 + 3 + 2  # of 010 and 020 one each, then all
    assert all(base64.b64decode(picture)[:2] == b"\xff\xd8" for picture in pictures)
    assert page.count("☒ good enough") == 1  # in the group of 010; its own picture is as planned
    assert page.count("☒ not good enough") == 1
    assert "No picture yet." in page
    hostile = film.project.replace(title="<script>alert(1)</script>")
    assert "<script>" not in picture_page(film.with_project(hostile), film.project.start)


def test_without_a_picture_it_says_what_to_do(film):
    bare = film.with_project(film.project.replace(trials=tuple(one.replace(picture="") for one in film.project.trials)))
    with pytest.raises(InputError, match="No trial has a picture"):
        picture_page(bare, film.project.start)


def test_a_picture_that_cannot_be_read_leaves_its_label(film):
    (film.folder / "010-1-64.exr").write_bytes(b"no picture")
    broken = sheet_pictures(film, variants_of(film.project, "010", film.folder))[1]
    assert broken.jpeg == b""
    assert "010-1-64.exr" in broken.words


def test_the_command_writes_it_and_asks_where(film, tmp_path, capsys):
    path = tmp_path / "film.pemlo"
    write_project(film.project, path)
    assert main(["sheet", str(path), "--pictures", "-o", str(tmp_path / "sheet.html")]) == 0
    assert "picture sheet" in (tmp_path / "sheet.html").read_text()
    for wrong in ([], ["-o", str(tmp_path / "sheet.csv")]):
        assert main(["sheet", str(path), "--pictures", *wrong]) == 2
        assert "A picture sheet is a file: .html, .pdf." in capsys.readouterr().err
