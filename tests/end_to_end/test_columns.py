"""Tables as other programs head them: what is not a column is said, asked about once, and remembered."""

from PySide6.QtCore import Qt, QTimer
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QAbstractButton, QApplication

from film import make_project, make_shot
from pemlo.core.project.machines import Machine
from pemlo.gui.common.column_form import ColumnForm
from window import open_window, settle, without_advice

OWN_MEMO = True


def paste(window, table, text):
    QApplication.clipboard().setText(text)
    QTest.keyClick(table, Qt.Key.Key_V, Qt.KeyboardModifier.ControlModifier)


def answering(form, choices):
    """Answer the step as a hand does, once it is open; with no choices, cancel."""

    def act():
        (shown,) = [one for one in QApplication.topLevelWidgets() if isinstance(one, form) and one.isVisible()]
        for title, name in (choices or {}).items():
            box = shown.boxes[title]
            box.setCurrentIndex(box.findData(name))
        wanted = "Read it so" if choices else "Cancel"
        button = next(one for one in shown.findChildren(QAbstractButton) if one.text() == wanted)
        assert button.isEnabled(), shown.says.text()
        QTest.mouseClick(button, Qt.MouseButton.LeftButton)

    QTimer.singleShot(50, act)


def press(window, text):
    button = next(one for one in window.problems.findChildren(QAbstractButton) if one.text() == text)
    QTest.mouseClick(button, Qt.MouseButton.LeftButton)


def test_shots_headed_in_another_language_are_matched_once_and_remembered(qtbot, monkeypatch):
    without_advice(monkeypatch)
    window = open_window(qtbot, make_project(shots=(make_shot("010"),)))
    table = "Einstellung\tvon\tbis\tStrahlen\tWer\n020\t1\t99\t64\tuns\n"
    answering(ColumnForm, {"Einstellung": "shot", "von": "first", "bis": "last", "Strahlen": "samples"})
    paste(window, window.brief.shots, table)
    settle(qtbot, window)
    shot = window.document.project.shot("020")
    assert (shot.first, shot.last, shot.asked.samples, shot.extra_columns) == (1, 99, 64, (("Wer", "uns"),))
    assert "Not used of What you pasted: “Wer”" in window.problems.words
    paste(window, window.brief.shots, table.replace("020", "030"))
    settle(qtbot, window)
    assert window.document.project.shot("030").last == 99, "the second time nobody is asked"


def test_who_does_not_want_to_match_is_told_what_is_missing(qtbot, monkeypatch):
    without_advice(monkeypatch)
    window = open_window(qtbot, make_project(shots=(make_shot("010"),)))
    answering(ColumnForm, None)
    paste(window, window.brief.shots, "Einstellung\tvon\tbis\n020\t1\t99\n")
    settle(qtbot, window)
    assert "What you pasted was not read: it has no column “shot”" in window.problems.words
    assert "“Einstellung”, “von”, “bis”" in window.problems.words
    assert len(window.document.project.shots) == 1


def test_columns_of_a_pasted_trial_that_were_not_used_can_be_matched_later(qtbot, monkeypatch):
    without_advice(monkeypatch)
    window = open_window(qtbot, make_project(shots=(make_shot("010"),)))
    window.show_stage(1)
    paste(window, window.trials.table, "frame\ttime\tWeg\n1\t1:00\tschnell\n")
    settle(qtbot, window)
    assert window.document.project.trials[0].way == ""
    assert "Not used of What you pasted: “Weg”" in window.problems.words
    window.document.history.undo()
    answering(ColumnForm, {"Weg": "way"})
    paste(window, window.trials.table, "frame\ttime\tWeg\n1\t1:00\tschnell\n")
    press(window, "Match columns …")
    settle(qtbot, window)
    assert "schnell" in {trial.way for trial in window.document.project.trials}


def test_rows_of_the_tables_on_screen_paste_back_as_they_were(qtbot, monkeypatch):
    without_advice(monkeypatch)
    shots = (make_shot("010", 120, denoise="frame", noise_threshold=0.02), make_shot("020", 50, way="q", way_value=2))
    project = make_project(shots=(shots[0].replace(step=2, last=119), shots[1].replace(handles=3, moves=("camera",))))
    window = open_window(qtbot, project)
    table = window.brief.shots
    table.selectAll()
    QTest.keyClick(table, Qt.Key.Key_C, Qt.KeyboardModifier.ControlModifier)
    copied = QApplication.clipboard().text()
    paste(window, table, copied)
    settle(qtbot, window)
    assert window.document.project.shots == project.shots
    assert not window.problems.words


def test_machines_on_screen_paste_back_with_all_that_a_table_of_them_holds(qtbot, monkeypatch):
    without_advice(monkeypatch)
    machine = Machine(name="desk", count=3, speed=1.5, frames_at_once=2, memory_gib=64, hours="Mon-Fri 19:00-08:00",
                      price_per_hour=2.4, loss_percent=1.5)  # fmt: skip
    project = make_project((make_shot("010", 120),), machines=(machine,))
    window = open_window(qtbot, project)
    table = window.brief.machines
    table.selectAll()
    QTest.keyClick(table, Qt.Key.Key_C, Qt.KeyboardModifier.ControlModifier)
    paste(window, table, QApplication.clipboard().text().replace("desk", "blade"))
    settle(qtbot, window)
    first, pasted = window.document.project.machines
    assert first == machine
    assert pasted.replace(extra_columns=()) == machine.replace(name="blade")
