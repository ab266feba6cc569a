"""The forms of Watch: where frames arrive, how a log is read, and the small farm."""

from pathlib import Path

import pytest
from PySide6.QtGui import QTextCursor

from film import make_project, make_shot
from pemlo.core.errors import InputError
from pemlo.core.project.machines import Machine
from pemlo.gui.watch.farm_form import FarmForm
from pemlo.gui.watch.log_form import LogForm
from pemlo.gui.watch.place_form import PlaceForm, header_names, pattern_from


def select(form, line, text):
    block = form.text.document().findBlockByNumber(line)
    at = block.position() + block.text().rindex(text)
    cursor = QTextCursor(form.text.document())
    cursor.setPosition(at)
    cursor.setPosition(at + len(text), QTextCursor.MoveMode.KeepAnchor)
    form.text.setTextCursor(cursor)


@pytest.fixture
def log(tmp_path):
    path = tmp_path / "night.log"
    lines = [f"node {k % 3} finished shot 070 image {k:04d} [4m{k % 60:02d}s]" for k in range(200)]
    path.write_text("\n".join(["night run, two scenes", *lines, "bye"]) + "\n")
    return path


def test_a_line_is_marked_and_it_says_at_once_how_many_are_read(qtbot, log):
    form = LogForm(None, log, "night.log")
    qtbot.addWidget(form)
    form.fields["frame"].click()
    assert "Select characters" in form.wrong.text()
    select(form, 5, "0004")
    form.fields["frame"].click()
    assert "mark which characters are the frame, and which the seconds" in form.found.text()
    assert not form.take.isEnabled()
    select(form, 5, "4m04s")
    form.fields["seconds"].click()
    assert form.found.text().startswith("200 of 202 lines are read.")
    assert "night run, two scenes" in form.found.text()
    select(form, 5, "070")
    form.fields["shot"].click()
    assert "✓" in form.fields["shot"].text()
    form.take.click()
    assert form.log.path == "night.log"
    assert {mark.field for mark in form.log.examples[0].marks} == {"frame", "seconds", "shot"}


def test_marks_can_be_taken_back_and_wrong_ones_are_said(qtbot, log):
    form = LogForm(None, log, "night.log")
    qtbot.addWidget(form)
    select(form, 5, "image")
    form.fields["frame"].click()
    select(form, 5, "4m04s")
    form.fields["seconds"].click()
    assert "cannot be read" in form.found.text()
    form._clear()
    assert form.found.text() == "Nothing is marked yet."
    assert form.fields["frame"].text() == "frame"


def test_a_place_is_made_from_a_frame_that_is_there():
    project = make_project((make_shot("070"), make_shot("07")))
    root = Path("/films")
    assert pattern_from(Path("/films/r/070/070.0012.exr"), root, project) == "r/{shot}/{shot}.{frame:04}.exr"
    assert pattern_from(Path("/other/070_v3_00012.png"), root, project) == "/other/{shot}_v3_{frame:05}.png"
    assert pattern_from(Path("/films/x/a1.exr"), root, project) == "x/a{frame:01}.exr"


def test_the_place_shows_an_example_and_refuses_what_is_none(qtbot, tmp_path):
    form = PlaceForm(None, make_project(), tmp_path, lambda path, shown: None)
    qtbot.addWidget(form)
    form.place.setText("r/{shot}/{frame:04}.exr")
    assert form.example.text() == "such as r/010/0001.exr"
    form.place.setText("r/{shot}.exr")
    assert "no {frame}" in form.example.text()
    form.take.click()
    assert "no {frame}" in form.wrong.text()
    assert form.result() == 0
    form.place.setText("r/{shot}/{frame:04}.exr")
    form.launched.setText("yesterday")
    form.take.click()
    assert "is not a date and time" in form.wrong.text()
    form.launched.setText("2031-04-21 19:00")
    form.headers.setText("seconds=renderTime, machine=host")
    form.take.click()
    assert form.result() == 1
    found = form.watching()
    assert found.header_names == (("seconds", "renderTime"), ("machine", "host"))
    assert found.launched.isoformat() == "2031-04-21T19:00:00+00:00"


@pytest.mark.parametrize("text", ["seconds", "speed=x", "seconds="])
def test_names_of_headers_that_are_none_are_refused(text):
    with pytest.raises(InputError, match="says no attribute"):
        header_names(text)


def test_the_small_farm_is_asked_for_what_can_be(qtbot, tmp_path):
    project = make_project(machines=(Machine(name="desk"),))
    form = FarmForm(None, project, tmp_path)
    qtbot.addWidget(form)
    form.speed.setText("fast")
    form.begin.click()
    assert "are numbers" in form.wrong.text()
    form.speed.setText("600")
    form.faults.setText("slow:nobody")
    form.begin.click()
    assert "names no machine" in form.wrong.text()
    form.faults.setText("slow:desk@1h")
    form.begin.click()
    assert (form.wanted.speed, form.wanted.faults, form.wanted.folder) == (600.0, "slow:desk@1h", tmp_path)


def test_shots_may_lie_elsewhere(qtbot, tmp_path):
    form = PlaceForm(None, make_project(), tmp_path, lambda path, shown: None)
    qtbot.addWidget(form)
    form.own.setText("999=x/{frame}.exr")
    form.take.click()
    assert "names no shot" in form.wrong.text()
    form.own.setText("020=other/{frame:04}.exr")
    form.take.click()
    assert form.result() == 1
    assert form.own_places() == {"020": "other/{frame:04}.exr"}
