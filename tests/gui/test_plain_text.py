"""Text from documents is shown letter by letter: a shot named like a tag opens no file, pipe or device."""

import ast
from pathlib import Path

import pytest
from PySide6.QtGui import Qt
from PySide6.QtWidgets import QAbstractItemView, QLabel, QWidget

import pemlo.gui
from film import exact_trial, make_project, make_shot
from pemlo.core.project.machines import Machine
from pemlo.gui.common.plain import as_entry, as_tip
from window import open_window, settle

SOURCES = sorted(Path(pemlo.gui.__file__).parent.rglob("*.py"))
# Where a text that widgets may take for rich is given to them: only these files may.
ALLOWED = {
    "setToolTip": {"plain.py", "enabling.py"}, "showText": {"plain.py"}, "setWhatsThis": set(), "setStatusTip": {"menus.py"},
    "setHtml": set(), "QLabel": {"labels.py", "help.py", "queue_box.py"}, "QMessageBox": {"saving.py", "project_files.py", "bug_box.py"},
}  # fmt: skip


@pytest.mark.parametrize("source", SOURCES, ids=lambda path: path.name)
def test_tips_and_labels_are_made_in_one_place(source):
    for node in ast.walk(ast.parse(source.read_text())):
        if isinstance(node, ast.Call):
            name = node.func.attr if isinstance(node.func, ast.Attribute) else getattr(node.func, "id", "")
            assert source.name in ALLOWED.get(name, {source.name}), f"line {node.lineno}: {name}"


@pytest.mark.parametrize("text", ["<img src='/dev/zero'>", "a\n<b>c</b>", "<?xml version='1.0'?>", "1 < 2 > 0", "<"])
def test_a_tip_shows_its_letters(text):
    from PySide6.QtGui import QTextDocument

    document = QTextDocument()
    document.setHtml(as_tip(text))
    assert document.toPlainText() == text


def test_what_holds_no_tag_stays_as_it_is():
    assert as_tip("24 h, 50 % & more") == "24 h, 50 % & more"
    assert as_entry("day & night") == "day && night"


EVIL = "<img src='pipe'>"


def test_no_view_takes_a_name_for_rich_text(qtbot, tmp_path, monkeypatch):
    """A pipe that is opened would never come back: the window would stand still."""
    import os

    os.mkfifo(tmp_path / "pipe")
    monkeypatch.chdir(tmp_path)
    shots = tuple(make_shot(name).replace(look=EVIL) for name in (EVIL, EVIL + "2"))
    trials = [exact_trial(EVIL, 5 + k, 16 << k, note=EVIL, machine=EVIL, denoise=EVIL) for k in range(2)]
    project = make_project(shots=shots, trials=tuple(trials), machines=(Machine(name=EVIL),)).replace(title=EVIL)
    window = open_window(qtbot, project, plots=True)
    for stage in range(4):
        window.show_stage(stage)
        settle(qtbot, window)
        for widget in window.findChildren(QWidget):
            assert not is_rich(widget.toolTip()), type(widget).__name__
            if isinstance(widget, QLabel):
                rich = widget.textFormat() != Qt.TextFormat.PlainText and Qt.mightBeRichText(widget.text())
                assert not rich, widget.text()
            if isinstance(widget, QAbstractItemView) and widget.model() is not None:
                model = widget.model()
                for row in range(model.rowCount()):
                    for column in range(model.columnCount()):
                        tip = model.index(row, column).data(Qt.ItemDataRole.ToolTipRole)
                        assert not is_rich(tip or ""), f"row {row}, column {column}"


def is_rich(tip):
    """Whether a tip would be taken for rich text, and is not the escaped one."""
    return Qt.mightBeRichText(tip) and not (tip.startswith("<qt>") and "<img" not in tip)
