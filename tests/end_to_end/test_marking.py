"""Marking pictures in the real window: what passes, the ladder, what other settings would leave."""

from pathlib import Path

import pytest
from PySide6.QtCore import QPoint, Qt
from PySide6.QtGui import QImage
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QFileDialog

from judging import choose, judge_window, line, press, write_pictures
from pemlo.core.persistence.document import read_project, write_project
from pemlo.core.project.edits import remove_trials, set_shot
from pemlo.core.project.eye_marks import size_question
from pemlo.core.project.trials import BAD, GOOD
from pemlo.gui.judge.viewer.picture_row import SHOTS
from window import run_action, settle, without_advice


@pytest.fixture(scope="module")
def pictures(tmp_path_factory):
    return write_pictures(tmp_path_factory.mktemp("film"))


@pytest.fixture(autouse=True)
def _quick(monkeypatch):
    without_advice(monkeypatch)


@pytest.fixture
def window(qtbot, pictures):
    return judge_window(qtbot, pictures)


def test_marks_set_the_ceiling_and_can_be_undone(qtbot, window):
    judge = window.judge
    choose(qtbot, window, "left", "16 samples")
    press(window, Qt.Key.Key_Y, qtbot)
    marked = next(one for one in window.document.project.trials if one.mark)
    assert marked.mark == "good enough"
    assert f"Accepted up to {marked.error:.1f}" in judge.sheet.ceiling.text()
    choose(qtbot, window, "left", "4 samples")
    judge.sheet.note.setText("sparkles in the hair")
    QTest.mouseClick(judge.sheet.bad, Qt.MouseButton.LeftButton)
    settle(qtbot, window)
    assert "refused from" in judge.sheet.ceiling.text()
    assert any(one.note == "sparkles in the hair" for one in window.document.project.trials)
    assert window.rail.buttons[2].accessibleDescription() == "limits for 1 of 2"
    run_action(window, "undo")
    run_action(window, "undo")
    settle(qtbot, window)
    assert "Nothing of 010 is marked" in judge.sheet.ceiling.text()


def test_a_smaller_picture_that_passes_is_asked_about_once_and_its_size_only_passes_when_said(qtbot, window):
    halves = tuple(one.replace(resolution_percent=50, width=960, height=540) for one in window.document.project.trials)
    window.document.edit("Half the size", lambda project: project.replace(trials=halves))
    settle(qtbot, window)
    choose(qtbot, window, "left", "16 samples")
    press(window, Qt.Key.Key_Y, qtbot)
    index, marked = next((k, one) for k, one in enumerate(window.document.project.trials) if one.mark)
    assert not marked.mark_size
    assert window.problems.words == size_question(window.document.project, marked)
    window.problems.acts[-1].click()
    assert window.document.project.trials[index].mark_size
    assert window.document.history.undo_text() == "Let the size of a trial pass, too"
    settle(qtbot, window)
    press(window, Qt.Key.Key_Y, qtbot)
    assert not window.document.project.trials[index].mark_size, "another mark says nothing of the size"
    press(window, Qt.Key.Key_N, qtbot)
    assert window.problems.words == ""


def test_a_mark_can_hold_for_all_shots_of_a_look(qtbot, window):
    judge = window.judge
    choose(qtbot, window, "left", "16 samples")
    QTest.mouseClick(judge.sheet.for_look, Qt.MouseButton.LeftButton, pos=QPoint(6, judge.sheet.for_look.height() // 2))
    assert judge.sheet.for_look.isChecked()
    judge.commands.mark_good()
    assert window.rail.buttons[2].accessibleDescription() == "limits for 2 of 2"


def test_marks_that_contradict_each_other_are_named(qtbot, window):
    choose(qtbot, window, "left", "4 samples")
    window.judge.commands.mark_good()
    choose(qtbot, window, "left", "16 samples")
    window.judge.commands.mark_bad()
    assert "A noisier one was accepted" in window.judge.sheet.contradiction.text()


def test_blind_hides_names_and_numbers_until_a_mark_is_set(qtbot, window):
    judge = window.judge
    choose(qtbot, window, "left", "4 samples")
    judge.sheet.blind.setChecked(True)
    settle(qtbot, window)
    assert judge.sheet.lines.shown == ()
    assert not judge.row.left.isEnabled()
    assert "samples" not in judge.canvas._words["left"]
    shown = judge.reader.request.left.name
    judge.commands.mark_good()
    settle(qtbot, window)
    assert not judge.sheet.blind.isChecked()
    marked = next(one for one in window.document.project.trials if one.mark)
    assert Path(marked.picture).name == shown
    assert marked.error is not None  # whichever it was
    assert judge.row.left.isEnabled()


def test_what_is_missing_is_offered_as_a_trial(qtbot, window):
    judge = window.judge
    wanted = []
    judge.trial_wanted.disconnect()
    judge.trial_wanted.connect(wanted.append)
    window.document.edit("scene", lambda project: set_shot(project, "010", extra_columns=(("scene", "stairs"),)))
    window.document.edit("one seed", lambda project: remove_trials(project, [4]))
    settle(qtbot, window)
    choose(qtbot, window, "left", "16 samples, frame")
    assert line(window, "softening") == "needs another seed"
    assert judge.sheet.again.isVisible()
    QTest.mouseClick(judge.sheet.again, Qt.MouseButton.LeftButton)
    assert (wanted[0].shot, wanted[0].frame, wanted[0].settings.denoise) == ("010", 10, "frame")


def test_the_ladder_sheet(qtbot, window, tmp_path, monkeypatch):
    judge = window.judge
    press(window, Qt.Key.Key_L, qtbot)
    sheet = judge.ladder.sheet
    assert len(sheet.tiles) == 5
    assert any("reference" in tile.second for tile in sheet.tiles)
    assert all("levels" in tile.second or "reference" in tile.second for tile in sheet.tiles)
    out = tmp_path / "sheet.png"
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *_: (str(out), ""))
    QTest.mouseClick(judge.controls.export, Qt.MouseButton.LeftButton)
    assert QImage(str(out)).width() == sheet.width()
    paths = [one.path for one in judge.ladder._of]
    for number in (0, 3):
        QTest.mouseClick(sheet, Qt.MouseButton.LeftButton, pos=sheet.rect_of(number).center())
    settle(qtbot, window)
    assert judge.canvas.isVisible()
    assert (judge.pair.left.path, judge.pair.right.path) == (paths[0], paths[3])


def test_marks_are_kept_in_the_file(qtbot, window, pictures, tmp_path):
    choose(qtbot, window, "left", "4 samples")
    window.judge.commands.mark_good()
    path = tmp_path / "kept.pemlo"
    write_project(window.document.project, path)
    kept = next(one for one in read_project(path).trials if one.mark)
    assert kept.error > 1
    assert Path(kept.error_against).name == "n256.exr"


def test_what_other_settings_would_leave_is_predicted(qtbot, window):
    judge = window.judge
    choose(qtbot, window, "left", "16 samples, frame, seed 1")
    error = float(line(window, "error").split()[0])
    press(window, Qt.Key.Key_E, qtbot)
    page = judge.errors
    assert page.isVisible()
    assert not judge.canvas.isVisible()
    page.samples.setText("16")
    page.denoise.setCurrentText("frame")
    page.denoise.activated.emit(0)
    settle(qtbot, window)
    words = page.words.text()
    # Both seeds were measured; what is predicted for their own settings lies between the two.
    assert float(words.split()[1]) == pytest.approx(error, rel=0.03)
    assert "softening" in words
    assert "a frame" in words
    page.samples.setText("64")
    settle(qtbot, window)
    assert float(page.words.text().split()[1]) < error


def test_the_plot_of_errors_leads_back_to_the_pictures(qtbot, window):
    judge = window.judge
    choose(qtbot, window, "left", "16 samples")
    press(window, Qt.Key.Key_Y, qtbot)
    press(window, Qt.Key.Key_E, qtbot)
    page = judge.errors
    marked = next(one for one in window.document.project.trials if one.mark)
    assert page.plot is not None
    page.plot.picked.emit(window.document.project.trials.index(marked))
    settle(qtbot, window)
    assert judge.canvas.isVisible()
    assert judge.pair.left.trial == marked


NO_SETTINGS = (
    *(("threshold", typed, "not a noise threshold") for typed in ("often", "-1", "0", "inf")),
    ("samples", "", "not a number of samples"),
    ("samples", "2.5", "samples"),
    ("samples", "99999999", "samples"),
    ("percent", "none", "not a percentage"),
    ("percent", "4000", "resolution"),
)


def test_settings_that_are_none_say_so(qtbot, window):
    choose(qtbot, window, "left", "16 samples")
    press(window, Qt.Key.Key_E, qtbot)
    page = window.judge.errors
    for name, typed, said in NO_SETTINGS:
        field = getattr(page, name)
        before = field.text()
        field.setText(typed)
        assert said in page.words.text(), (name, typed)
        field.setText(before)
    settle(qtbot, window)
    assert page.words.text().startswith("Error ")


def test_a_file_predicts_nothing_and_says_why(qtbot, window, pictures):
    judge = window.judge
    judge.choosing.show_pair(judge.row.take_file(pictures / "run.0001.exr"), None)
    settle(qtbot, window)
    press(window, Qt.Key.Key_E, qtbot)
    assert "no trial" in judge.errors.about.text()
    assert not judge.errors.words.text()


def test_every_shot_and_every_trial_are_marked_where_they_stand(qtbot, window):
    judge = window.judge
    press(window, Qt.Key.Key_S, qtbot)
    page = judge.marking
    assert page.isVisible()
    assert not judge.sheet.isVisible()
    qtbot.waitUntil(lambda: len(page.trials) == 2)
    assert page.sheet.tiles[1].second == "no picture yet"
    assert page.sheet.tiles[0].first.startswith("010, frame 10: 256 samples")
    page.sheet.setFocus()
    QTest.keyClick(page.sheet, Qt.Key.Key_Y)
    QTest.keyClick(page.sheet, Qt.Key.Key_Y)  # before the first has settled: the mark is gone again
    settle(qtbot, window)
    assert not any(one.mark for one in window.document.project.trials)
    QTest.keyClick(page.sheet, Qt.Key.Key_Y)
    settle(qtbot, window)
    assert window.document.project.trials[2].mark == GOOD
    assert "good enough" in page.sheet.tiles[0].second
    press(window, Qt.Key.Key_S, qtbot)  # every trial of the shot
    qtbot.waitUntil(lambda: len(page.trials) == 5)
    page.sheet.setFocus()
    for _ in range(2):
        QTest.keyClick(page.sheet, Qt.Key.Key_Right)
    at = page.sheet.at
    assert at == 2
    QTest.mouseClick(page.bad, Qt.MouseButton.LeftButton)
    settle(qtbot, window)
    marked = page.trials[at].index
    assert window.document.project.trials[marked].mark == BAD
    assert page.sheet.at == at, "the frame stays where it stood"
    QTest.keyClick(page.sheet, Qt.Key.Key_Return)
    settle(qtbot, window)
    assert judge.canvas.isVisible()
    assert judge.sheet.isVisible()
    assert judge.pair.left.index == marked
    window.document.history.undo()
    window.document.history.undo()
    assert window.document.project.trials[marked].mark == ""


def test_a_shot_without_pictures_is_left_for_the_page_of_every_shot_and_back(qtbot, window, tmp_path):
    judge = window.judge
    window.pick(("020",))
    settle(qtbot, window)
    assert judge.nothing.isVisible()
    judge.pages.show(SHOTS)
    judge.show_sheet()
    qtbot.waitUntil(lambda: len(judge.marking.trials) == 2)
    assert judge.marking.isVisible()
    assert judge.marking.sheet.at == 1, "the shot that is picked is framed"
    judge.marking.sheet.setFocus()
    QTest.keyClick(judge.marking.sheet, Qt.Key.Key_Left)
    QTest.keyClick(judge.marking.sheet, Qt.Key.Key_Return)  # 010 has one
    settle(qtbot, window)
    assert judge.shot == "010"
    assert judge.pair.left.path.name == "n256.exr"
