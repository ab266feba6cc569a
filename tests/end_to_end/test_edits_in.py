"""Edits in the real window: shown before they are taken, taken in one step, forgotten, refused."""

from PySide6.QtTest import QTest
from PySide6.QtWidgets import QFileDialog, QPushButton

from film import make_project
from handing_over import hand, quick_checks
from window import open_window, run_action, settle

__all__ = ["hand", "quick_checks"]


LIST = """TITLE: REEL
001  A1  V  C  00:00:00:00 00:00:02:00 01:00:00:00 01:00:02:00
* FROM CLIP NAME: 010
002  A2  V  C  00:00:00:00 00:00:01:00 01:00:02:00 01:00:03:00
* FROM CLIP NAME: 030
"""


def dropped(qtbot, hand, tmp_path):
    """Drop the edit on the window, and return the form that shows it."""
    path = tmp_path / "reel.edl"
    path.write_text(LIST)
    hand.window.dropped.take([str(path)])
    qtbot.waitUntil(lambda: hand.window.edits.form is not None, timeout=20_000)
    return hand.window.edits.form


def test_a_changed_edit_is_shown_before_it_is_taken_and_undone_in_one_step(qtbot, hand, tmp_path):
    before, form = hand.project, dropped(qtbot, hand, tmp_path)
    settle(qtbot, hand.window)
    assert form.words.text() == "reel.edl: 1 new, 1 gone, 1 longer; 2 frames more."
    cells = [[form.table.item(row, column).text() for column in range(5)] for row in range(form.table.rowCount())]
    assert cells == [["010", "▸ longer", "1-40", "1-48", "+8"], ["030", "+ new", "", "1-24", "+24"],
                     ["020", "× gone", "1-30", "", "−30"]]  # fmt: skip
    assert "Machine-hours:" in form.effect.text()
    assert hand.project == before
    form.handles.line.setText("4")
    form.handles.line.editingFinished.emit()
    form.keep.setChecked(True)
    settle(qtbot, hand.window)
    form.go.click()
    settle(qtbot, hand.window)
    assert [shot.name for shot in hand.project.shots] == ["010", "030", "020"]
    assert hand.project.edited.name == "reel.edl"
    assert {shot.handles for shot in hand.project.shots} == {4}
    hand.wait()
    assert [row.row.shot for row in hand.panel.launch.model.rows] == ["010", "030", "020"]
    assert hand.window.answer.project is hand.project
    run_action(hand.window, "undo")
    hand.wait()
    assert hand.project == before
    assert [row.row.shot for row in hand.panel.launch.model.rows] == ["010", "020"]


def test_an_edit_that_is_not_taken_is_forgotten(qtbot, hand, tmp_path):
    before, gone = hand.project, dropped(qtbot, hand, tmp_path)
    gone.reject()
    QTest.qWait(20)
    assert hand.window.edits.form is None
    hand.window.brief.add_shot()
    hand.wait()
    assert len(hand.panel.launch.model.rows) == len(before.shots) + 1


def test_a_film_begins_with_an_edit(qtbot, tmp_path, monkeypatch):
    path = tmp_path / "reel.edl"
    path.write_text(LIST)
    window = open_window(qtbot, make_project(()))
    monkeypatch.setattr(QFileDialog, "getOpenFileName", lambda *_: (str(path), ""))
    (offer,) = (one for one in window.brief.start.findChildren(QPushButton) if one.text() == "Open an edit…")
    offer.click()
    qtbot.waitUntil(lambda: window.edits.form is not None, timeout=20_000)
    settle(qtbot, window)
    assert window.edits.form.words.text() == "reel.edl: 2 new; 72 frames more."
    assert "Time one frame" in window.edits.form.effect.text()
    window.edits.form.go.click()
    settle(qtbot, window)
    assert [(shot.name, shot.first, shot.last) for shot in window.document.project.shots] == [
        ("010", 1, 48),
        ("030", 1, 24),
    ]
    assert not window.brief.start.isVisible()


def test_a_broken_edit_says_its_line(qtbot, hand, tmp_path):
    path = tmp_path / "reel.edl"
    path.write_text(LIST.replace("00:00:02:00", "00:00:02:99", 1))
    hand.window.dropped.take([str(path)])
    settle(qtbot, hand.window)
    assert "reel.edl, line 2" in hand.window.problems.words
    assert hand.window.edits.form is None
