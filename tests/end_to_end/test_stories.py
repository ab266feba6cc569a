"""Stories of a technical director at the real window: clicks, keys, drops, undo, reopen."""

import json
import re
import subprocess
import sys

import pytest
from PySide6.QtCore import QMimeData, QPoint, QPointF, Qt, QUrl
from PySide6.QtGui import QDragEnterEvent, QDropEvent, QGuiApplication, QKeySequence
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QAbstractButton, QApplication, QComboBox, QFileDialog, QLineEdit, QMessageBox, QTableView

from film import make_project, make_shot, well_timed
from pemlo.app.document import Document
from pemlo.app.recovery import folder, left_behind
from pemlo.core.persistence.csv_machines import write_machines
from pemlo.core.persistence.csv_shots import write_shots
from pemlo.core.persistence.csv_trials import write_trials
from pemlo.core.persistence.document import read_project, to_text, write_project
from pemlo.demo import demo_project
from pemlo.gui.common.finder import Finder
from pemlo.gui.project_files import empty_project
from window import (
    cell,
    demo_with_few_trials,
    index_of,
    leave_cell,
    open_window,
    reason_of,
    run_action,
    settle,
    type_in_cell,
    type_in_field,
)


def test_from_nothing_to_a_verdict(qtbot, tmp_path, monkeypatch):
    """She says what is due, times two frames, reads the verdict, saves, and opens it again."""
    window = open_window(qtbot, empty_project())
    assert window.verdict.headline.text() == "Say what the film is."
    run_action(window, "add shot")
    settle(qtbot, window)
    assert window.verdict.headline.text() == "Time one frame of shot 010 to begin."
    type_in_cell(qtbot, window.brief.shots, 0, "frames", "1-240")
    type_in_cell(qtbot, window.brief.shots, 0, "samples", "64")
    type_in_field(window, "title", "First film")
    run_action(window, "trials")
    window.load_stages()
    settle(qtbot, window)
    assert not window.trials.curves.ladder.isVisible(), "axes without a curve say nothing"
    for frame, time in (("1", "2:00"), ("240", "2m10")):
        QTest.keyClicks(window.trials.entry.inputs["frame"], frame)
        QTest.keyClicks(window.trials.entry.inputs["seconds"], time)
        QTest.keyClick(window.trials.entry.inputs["seconds"], Qt.Key.Key_Return)
    settle(qtbot, window)
    assert window.trials.curves.ladder.isVisible()
    assert re.match(r"Makes .* with \d+ machine-hours to spare\.", window.verdict.headline.text())
    assert cell(window.trials.table, 1, "time") == "2 m 10 s"
    path = tmp_path / "first.pemlo"
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *_: (str(path.with_suffix("")), ""))
    run_action(window, "save")
    assert read_project(path) == window.document.project
    assert not window.document.unsaved
    again = open_window(qtbot, read_project(path), path)
    assert again.verdict.headline.text() == window.verdict.headline.text()
    assert cell(again.brief.shots, 0, "frames") == "1-240"
    assert window.preferences.recent() == [path]


def test_everything_can_be_undone_by_name(qtbot):
    """He changes this and that, thinks better of it, and gets back to where he began."""
    project = demo_with_few_trials()
    window = open_window(qtbot, project)
    type_in_cell(qtbot, window.brief.shots, 2, "samples", "300")
    type_in_cell(qtbot, window.brief.machines, 0, "count", "12")
    type_in_field(window, "deadline", "2031-04-25 12:00")
    window.brief.shots.setFocus()
    window.brief.pick(("090",))
    QTest.keyClick(window.brief.shots, Qt.Key.Key_Delete)
    assert len(window.document.project.shots) == 9
    names = []
    while window.document.history.can_undo():
        undo = next(made for made, action in window.menus.shown if action.name == "undo")
        names.append(undo.text())
        undo.trigger()
    assert names == ["Undo: Remove shot 090", "Undo: Set deadline", "Undo: Change count", "Undo: Change samples"]
    assert window.document.project == project
    run_action(window, "redo")
    assert window.document.project.shot("030").asked.samples == 300
    settle(qtbot, window)


def test_more_machines_and_a_later_deadline_move_the_verdict(qtbot):
    window = open_window(qtbot, demo_with_few_trials())
    assert window.verdict.headline.text().startswith("Likely done ")
    before = window.state.answer
    type_in_cell(qtbot, window.brief.machines, 0, "hours", "always")
    type_in_cell(qtbot, window.brief.machines, 0, "count", "40")
    settle(qtbot, window)
    assert window.verdict.headline.text().startswith("Makes Thursday 18:00")
    assert window.state.answer.fit is before.fit, "machines and hours ask for no new fit"
    run_action(window, "undo")
    type_in_field(window, "deadline", "2031-05-24 18:00")
    settle(qtbot, window)
    assert "24 May 18:00" in window.verdict.headline.text()
    assert window.tape.reading().startswith("50 % by")


def test_the_advised_trial_is_timed_and_narrows_its_shot(qtbot):
    window = open_window(qtbot, demo_with_few_trials(), plots=True)
    run_action(window, "trials")
    window.pick(("090",))
    qtbot.waitUntil(lambda: window.trials.card.advice is not None and window.trials.card.advice.shot == "090")
    advice = window.trials.card.advice
    assert "Shot 090" in window.trials.card.what.text()
    before = window.state.answer.forecast.shots[8].hours
    button = next(b for b in window.trials.card.findChildren(QAbstractButton) if b.text() == "Type its time")
    QTest.mouseClick(button, Qt.MouseButton.LeftButton)
    QTest.keyClicks(window.trials.card.time, "quick")
    QTest.keyClick(window.trials.card.time, Qt.Key.Key_Return)
    assert "“quick” is not a duration" in window.problems.words
    window.trials.card.time.clear()
    QTest.keyClicks(window.trials.card.time, "9:40")
    QTest.keyClick(window.trials.card.time, Qt.Key.Key_Return)
    assert window.problems.words == ""
    settle(qtbot, window)
    trial = window.document.project.trials[-1]
    assert (trial.shot, trial.frame, trial.seconds, trial.samples) == (
        "090",
        advice.frame,
        580,
        advice.settings.samples,
    )
    after = window.state.answer.forecast.shots[8].hours
    assert after.high / after.low < 0.8 * before.high / before.low
    another = next(b for b in window.trials.card.findChildren(QAbstractButton) if b.text() == "another")
    shown = window.trials.card.advice.shot
    QTest.mouseClick(another, Qt.MouseButton.LeftButton)
    assert window.trials.card.advice.shot != shown
    assert window.picked == (window.trials.card.advice.shot,)


def test_trials_are_pasted_edited_and_removed(qtbot):
    window = open_window(qtbot, make_project(shots=(make_shot(),)))
    run_action(window, "trials")
    QGuiApplication.clipboard().setText("1\t4:02\n50\t4:10\n100\t40:00")
    table = window.trials.table
    table.setFocus()
    QTest.keySequence(table, QKeySequence(QKeySequence.StandardKey.Paste))
    assert len(window.document.project.trials) == 3
    type_in_cell(qtbot, table, 2, "time", "4m00")
    assert window.document.project.trials[2].seconds == 240
    type_in_cell(qtbot, table, 2, "time", "never")
    assert "“never” is not a duration" in reason_of(table)
    leave_cell(table)
    assert window.document.project.trials[2].seconds == 240
    type_in_cell(qtbot, table, 0, "note", "with fog")
    settle(qtbot, window)
    assert cell(table, 2, "off fit").endswith("%")
    table.selectRow(0)
    QTest.keyClick(table, Qt.Key.Key_Delete)
    assert len(window.document.project.trials) == 2
    assert cell(table, 1, "off fit") == "–", "the old fit knew of other trials"
    run_action(window, "undo")
    assert window.document.project.trials[0].note == "with fog"
    QGuiApplication.clipboard().setText("what, is, this, here")
    QTest.keySequence(table, QKeySequence(QKeySequence.StandardKey.Paste))
    assert "has no header" in window.problems.words
    settle(qtbot, window)


def test_a_forecast_that_comes_in_leaves_what_is_being_typed(qtbot):
    window = open_window(qtbot, demo_with_few_trials())
    table = window.brief.shots
    table.setCurrentIndex(index_of(table, 0, "samples"))
    table.edit(table.currentIndex())
    editor = table.viewport().findChild(QLineEdit)
    editor.selectAll()
    QTest.keyClicks(editor, "12")
    window.state.ask()
    settle(qtbot, window)
    QTest.keyClicks(editor, "8")
    QTest.keyClick(editor, Qt.Key.Key_Return)
    QApplication.processEvents()
    assert window.document.project.shots[0].asked.samples == 128
    settle(qtbot, window)


def drop(qtbot, window, *paths):
    data = QMimeData()
    data.setUrls([QUrl.fromLocalFile(str(path)) for path in paths])
    enter = QDragEnterEvent(
        QPoint(9, 9), Qt.DropAction.CopyAction, data, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier
    )
    window.dragEnterEvent(enter)
    assert enter.isAccepted()
    event = QDropEvent(
        QPointF(9, 9), Qt.DropAction.CopyAction, data, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier
    )
    window.dropEvent(event)
    QApplication.processEvents()
    settle(qtbot, window)
    QApplication.processEvents()


@pytest.mark.filterwarnings("ignore:Function. .QDragEnterEvent:DeprecationWarning")
def test_files_are_dropped(qtbot, tmp_path):
    window = open_window(qtbot, make_project())
    shots, trials = tmp_path / "shots.csv", tmp_path / "trials.csv"
    shots.write_text("shot,first,last,samples\n020,1,99,64\n030,1,20,64\n")
    trials.write_text("shot,frame,seconds\n030,5,1:00\n")
    drop(qtbot, window, shots, trials)
    assert [shot.name for shot in window.document.project.shots] == ["010", "020", "030"]
    assert window.document.project.shot("020").last == 99
    assert len(window.document.project.trials) == 1
    before = window.document.project
    for name, text in (("s", write_shots(before)), ("t", write_trials(before)), ("m", write_machines(before))):
        (tmp_path / f"{name}.csv").write_text(text)
    drop(qtbot, window, tmp_path / "s.csv", tmp_path / "m.csv")
    assert not window.problems.words, "its own tables are known for what they are"
    drop(qtbot, window, tmp_path / "t.csv")
    assert len(window.document.project.trials) == 1, "the same row is one measurement"
    assert "already here (frame 5 of 030 in 1 m 00 s)" in window.problems.words
    again = next(b for b in window.problems.findChildren(QAbstractButton) if b.text() == "Add as timed again")
    QTest.mouseClick(again, Qt.MouseButton.LeftButton)
    assert [trial.repeat for trial in window.document.project.trials] == [0, 1]
    assert window.document.history.undo_text() == "Add a trial timed again"
    assert [shot.name for shot in window.document.project.shots] == [shot.name for shot in before.shots]
    bad, odd, broken = tmp_path / "bad.csv", tmp_path / "odd.csv", tmp_path / "broken.pemlo"
    bad.write_text("shot,frame,seconds\n030,5,soon\n999,1,4\n")
    odd.write_text("a,b\n1,2\n")
    broken.write_text("{")
    drop(qtbot, window, bad)
    assert "bad.csv, line 2, column seconds" in window.problems.words
    assert "bad.csv, line 3, column shot" in window.problems.words
    drop(qtbot, window, odd)
    assert "neither a project nor a table" in window.problems.words
    window.document.history.set_clean()
    drop(qtbot, window, broken)
    assert "broken.pemlo cannot be read" in window.problems.words
    assert len(window.document.project.shots) == 3
    film = tmp_path / "film.pemlo"
    write_project(demo_project(), film)
    drop(qtbot, window, film)
    assert window.document.project.title == "The Tide Clock"
    settle(qtbot, window)
    assert window.verdict.headline.text().startswith("Likely done")


def test_a_shot_picked_anywhere_is_picked_everywhere(qtbot):
    window = open_window(qtbot, demo_with_few_trials())
    left, width = window.strip.places()[4]
    QTest.mouseClick(window.strip, Qt.MouseButton.LeftButton, pos=QPoint(int(left + width / 2), 15))
    assert window.picked == ("050",)
    assert window.brief.shots.selected_lines() == [4]
    QTest.keyClick(window.brief.shots, Qt.Key.Key_Down)
    run_action(window, "trials")
    assert window.trials._table_heading._title.text() == f"Trials of {window.picked[0]}"
    run_action(window, "later")
    settle(qtbot, window)


def test_the_keyboard_is_enough(qtbot):
    window = open_window(qtbot, demo_with_few_trials())
    window.activateWindow()
    QTest.keyClick(window, Qt.Key.Key_2, Qt.KeyboardModifier.AltModifier)
    assert window.stack.currentIndex() == 1
    QTest.keyClick(window, Qt.Key.Key_1, Qt.KeyboardModifier.AltModifier)
    assert window.stack.currentIndex() == 0
    QTest.keyClick(window, Qt.Key.Key_K, Qt.KeyboardModifier.ControlModifier)
    finder = window.findChild(Finder)
    assert finder is not None
    QTest.keyClicks(finder.line, "dim")
    QTest.keyClick(finder.line, Qt.Key.Key_Return)
    assert window.preferences.appearance.theme == "Dim"
    run_action(window, "day")
    QTest.keyClick(window, Qt.Key.Key_F1)
    run_action(window, "keys")
    QApplication.processEvents()
    dialogs = [d for d in window.children() if type(d).__name__ == "QDialog" and d.isVisible()]
    assert {d.windowTitle() for d in dialogs} == {"Help", "Shortcuts"}
    for dialog in dialogs:
        dialog.reject()
    table = window.brief.shots
    table.setFocus()
    table.setCurrentIndex(index_of(table, 0, "samples"))
    QTest.keyClick(table, Qt.Key.Key_Return)
    editor = table.viewport().findChild(QLineEdit)
    QTest.keyClicks(editor, "99")
    QTest.keyClick(editor, Qt.Key.Key_Return)
    QApplication.processEvents()
    assert window.document.project.shots[0].asked.samples == 99
    settle(qtbot, window)


def test_every_control_has_a_name_and_says_what_it_does(qtbot):
    window = open_window(qtbot, demo_with_few_trials(), plots=True)
    kinds = (QAbstractButton, QLineEdit, QComboBox, QTableView)
    for kind in kinds:
        for control in window.findChildren(kind):
            # Parts that Qt makes itself, inside a control that has a name, are told by that one.
            inner = control.objectName().startswith("qt_") or isinstance(control.parent(), (QComboBox, QTableView))
            if inner or control.parent() is None:
                continue
            if type(control.parent()).__name__ == "QMenuBar":
                continue
            assert control.accessibleName() or control.toolTip(), f"{control} of {control.parent()} has no name"
            if kind is not QTableView:
                assert control.toolTip(), f"{control.accessibleName()} does not say what it does"
    for action in window.actions_table:
        assert action.tip


def test_closing_asks_about_unsaved_work(qtbot, monkeypatch, tmp_path):
    path = tmp_path / "film.pemlo"
    write_project(make_project(), path)
    window = open_window(qtbot, read_project(path), path)
    asked = []
    answers = iter([QMessageBox.StandardButton.Cancel, QMessageBox.StandardButton.Save])
    monkeypatch.setattr(window.files, "ask_unsaved", lambda: asked.append(1) or next(answers))
    type_in_field(window, "title", "Changed")
    assert not window.close()
    assert window.isVisible()
    assert window.close()
    assert len(asked) == 2
    assert read_project(path).title == "Changed"


def test_work_is_recovered_after_a_kill(qtbot):
    kept = folder() / "99999999-1.kept"
    kept.parent.mkdir(parents=True)
    lost = make_project(trials=well_timed()).replace(title="Nearly lost")
    kept.write_text(json.dumps({"path": "", "text": to_text(lost)}))
    window = open_window(qtbot, make_project())
    window.files.offer_recovery()
    assert "ended without saving “Nearly lost”" in window.problems.words
    button = next(b for b in window.problems.findChildren(QAbstractButton) if b.text() == "Open the copy")
    QTest.mouseClick(button, Qt.MouseButton.LeftButton)
    assert window.document.project == lost
    assert window.document.unsaved
    settle(qtbot, window)
    assert not kept.exists()
    assert window.recovery.file.exists(), "what was recovered is kept until it is saved"


EDITOR = """
import sys
from PySide6.QtWidgets import QApplication
from pemlo.app.document import Document
from pemlo.app.error_centre import ErrorCentre
from pemlo.app.preferences import Preferences
from pemlo.demo import demo_project
from pemlo.gui.main_window import make_window
app = QApplication([])
window = make_window(Document(demo_project()), ErrorCentre(), Preferences())
window.show()
window.document.edit("Set film", lambda project: project.replace(title="Written just now"))
while not window.recovery.file.exists():
    app.processEvents()
print("kept", flush=True)
app.exec()
"""


@pytest.mark.slow
def test_a_killed_program_offers_its_work_at_the_next_start(qtbot):
    run = subprocess.Popen([sys.executable, "-c", EDITOR], stdout=subprocess.PIPE, text=True)
    assert run.stdout.readline() == "kept\n"
    assert left_behind() == [], "it is still alive"
    run.kill()
    run.wait()
    run.stdout.close()
    assert [kept.project.title for kept in left_behind()] == ["Written just now"]


def test_a_bug_is_shown_with_its_details_and_keeps_the_project(qtbot):
    window = open_window(qtbot, make_project())
    before = window.document.project
    window.errors.bug.emit("Traceback of something")
    boxes = [w for w in QApplication.topLevelWidgets() if isinstance(w, QMessageBox) and w.isVisible()]
    assert len(boxes) == 1
    copy = next(b for b in boxes[0].buttons() if b.text() == "Copy details")
    copy.click()
    assert QGuiApplication.clipboard().text() == "Traceback of something"
    boxes[0].close()
    assert window.document.project is before


@pytest.mark.slow
def test_a_huge_film_does_not_freeze_the_window(qtbot):
    """100 000 frames in 200 shots with 500 trials: the window answers while it computes."""
    shots = tuple(make_shot(f"{n:04d}", 500) for n in range(200))
    project = make_project(shots=shots)
    trials = tuple(well_timed("0000", (1, 250, 500))[n % 12].replace(shot=shots[n % 200].name) for n in range(500))
    window = open_window(qtbot, project.replace(trials=trials))
    type_in_field(window, "deadline", "2031-05-24 18:00")
    settle(qtbot, window)
    assert len(window.strip.places()) == 200
    assert window.state.answer.forecast.hours.middle > 0


def test_wide_and_narrow_windows_cut_nothing_off(qtbot):
    window = open_window(qtbot, demo_with_few_trials())
    for width, height in ((1100, 700), (1280, 800), (1920, 1080)):
        window.resize(width, height)
        QApplication.processEvents()
        assert (window.width(), window.height()) == (width, height)
        assert window.verdict.headline.width() >= window.verdict.headline.sizeHint().width()
        for button in window.findChildren(QAbstractButton):
            if button.isVisible() and button.text() and type(button).__name__ == "QPushButton":
                assert button.width() >= button.minimumSizeHint().width(), button.text()


def test_documents_open_beside_each_other(qtbot):
    first, second = Document(make_project()), Document(demo_project())
    first.edit("Set", lambda project: project.replace(title="Other"))
    assert second.project.title == "The Tide Clock"
