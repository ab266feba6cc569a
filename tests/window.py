"""Driving the real window in tests."""

from contextlib import contextmanager

import pytest
from PySide6.QtCore import QEvent, Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication, QLineEdit
from pytestqt.qtbot import QtBot

from pemlo.app.document import Document
from pemlo.app.error_centre import ErrorCentre
from pemlo.app.preferences import Preferences
from pemlo.demo import demo_project
from pemlo.gui.main_window import make_window
from pemlo.gui.stages import TRADE


def demo_with_few_trials():
    """The demo film without the small trials that only tell how shots look: fits of it take half the time."""
    project = demo_project()
    return project.replace(trials=tuple(trial for trial in project.trials if trial.resolution_percent >= 50))


def without_advice(monkeypatch):
    """Let nobody weigh which trial to run next: stories that do not look at it need not wait for it."""
    monkeypatch.setattr("pemlo.core.film.values.advise", lambda fit, project, shots: ())


def open_window(qtbot, project, path=None, *, plots=False, wall=None):
    """Show a window on a project and wait until it has its forecast and advice."""
    window = make_window(Document(project, path), ErrorCentre(), Preferences())
    if wall is not None:
        window.watcher.wall = wall
    qtbot.addWidget(window, before_close_func=lambda w: w.document.history.set_clean())
    window.show()
    if plots:
        window.load_stages()
    settle(qtbot, window)
    return window


def settle(qtbot, window):
    """Wait until nothing runs in the background, and what it found is shown."""

    def still():
        traded = window.stack.has(TRADE) and window.trade.waits
        return not (window.jobs.running or window.dressing or traded) and window.state.rests

    qtbot.waitUntil(still, timeout=90_000)


def save_now(document, path, *, over=False):
    """Save a document without a window, as its jobs do."""
    save = document.to_save(path, over=over)
    document.on_saved(save, save.write())


def type_in_cell(qtbot, table, row, title, text):
    """Double-click a cell, type, and press Enter, as a person does."""
    index = index_of(table, row, title)
    table.scrollTo(index)
    where = table.visualRect(index).center()
    QTest.mouseClick(table.viewport(), Qt.MouseButton.LeftButton, pos=where)
    QTest.mouseDClick(table.viewport(), Qt.MouseButton.LeftButton, pos=where)
    editor = table.viewport().findChild(QLineEdit)
    assert editor is not None, f"cell {title} of row {row} is not edited by a double click"
    editor.selectAll()
    QTest.keyClicks(editor, text)
    QTest.keyClick(editor, Qt.Key.Key_Return)
    QApplication.processEvents()  # the editor is read once the key is done with, and then goes
    QApplication.sendPostedEvents(None, QEvent.Type.DeferredDelete)


def pick_lines(table, lines):
    """Pick lines of a table."""
    rows = [row for line in lines for row in table.table.rows_at(line)]
    table.pick(lambda row: row in rows)


def reason_of(table):
    """What stands below an open cell whose text was refused."""
    return table.itemDelegate()._reason.text()


def leave_cell(table):
    """Leave an open cell as it was, with Esc."""
    QTest.keyClick(table.viewport().findChild(QLineEdit), Qt.Key.Key_Escape)
    QApplication.processEvents()
    QApplication.sendPostedEvents(None, QEvent.Type.DeferredDelete)


def index_of(table, row, title):
    """Where a cell is."""
    return table.model().index(row, [c.title for c in table.model().columns].index(title))


def cell(table, row, title):
    """What a cell says."""
    return index_of(table, row, title).data()


def type_in_field(window, name, text):
    """Type in a field of the form and leave it with Enter."""
    field = window.brief.form.inputs[name]
    line = field if isinstance(field, QLineEdit) else field.lineEdit()
    line.setFocus()
    line.selectAll()
    QTest.keyClicks(line, text)
    QTest.keyClick(line, Qt.Key.Key_Return)


def run_action(window, name):
    """Run an action from the table."""
    window.run(next(action for action in window.actions_table if action.name == name).run)
    window.files.saving.wait_until_saved()


@contextmanager
def shared_window(folder, project, path=None):
    """A window for many tests of a module, so that its film is fitted and weighed once; its files go to a folder."""
    with pytest.MonkeyPatch.context() as patch:
        patch.setenv("PEMLO_STATE_FOLDER", str(folder / "state"))
        for name in ("CONFIG", "CACHE", "DATA"):
            patch.setenv(f"XDG_{name}_HOME", str(folder / name))
        without_advice(patch)
        window = make_window(Document(project, path), ErrorCentre(), Preferences())
        window.resize(1280, 800)
        window.show()
        window.load_stages()
        settle(QtBot(None), window)
        yield window
        window.document.history.set_clean()
        window.close()
        window.deleteLater()


def undo_all(window):
    """Bring a shared window's film back to where it began; what is known of it stays known."""
    while window.document.history.can_undo():
        window.document.history.undo()
    window.document.history.clear()


def forget(window, *names):
    """Forget what was made of some kinds, as if it was never asked for."""
    memo = window.state.memo
    for key in [key for key in memo._made if key[0] in names]:
        del memo._made[key]
