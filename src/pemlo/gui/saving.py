"""Saving a project in the background, with the questions that go with it. GUI thread."""

from collections.abc import Callable
from functools import partial
from pathlib import Path
from typing import TYPE_CHECKING

from PySide6.QtCore import QEventLoop, Qt
from PySide6.QtWidgets import QFileDialog, QMessageBox, QWidget

from pemlo.app.document import ChangedOnDiskError
from pemlo.core.progress import Monitor

if TYPE_CHECKING:
    from pemlo.gui.window import Window

ENDING = ".pemlo"
SAVING = "saving"
FILTER = "Pemlo projects (*.pemlo);;All files (*)"


def question(parent: QWidget, title: str, words: str, more: str = "") -> QMessageBox:
    """Return a box that asks, without buttons yet."""
    box = QMessageBox(parent)
    box.setIcon(QMessageBox.Icon.NoIcon)
    box.setWindowTitle(title)
    box.setTextFormat(Qt.TextFormat.PlainText)
    box.setText(words)
    box.setInformativeText(more)
    return box


class SavingFiles:
    """How a window saves its project."""

    def __init__(self, window: "Window") -> None:
        self._window = window
        self._next: Callable[[], None] | None = None  # what is saved after what is being saved
        window.jobs.busy_changed.connect(self._on_busy)

    def save(self) -> None:
        path = self._window.document.path
        if path is None:
            self.save_as()
        else:
            self.save_to(path)

    def save_as(self) -> None:
        title = self._window.document.project.title
        start = str(self._window.document.path or f"{title}{ENDING}")
        name, _ = QFileDialog.getSaveFileName(self._window, "Save the project", start, FILTER)
        if not name:
            return
        path = Path(name)
        if path.suffix.lower() != ENDING:
            path = path.with_name(path.name + ENDING)
            # The dialog asked about the name that was typed, not about this one.
            if path.exists() and not self.ask_replace(path):
                return
        self.save_to(path, over=True)

    def save_to(self, path: Path, *, over: bool = False) -> None:
        """Save in the background, as a disk may be slow; one after the other, so that the last one stands."""
        if SAVING in self._window.jobs.running:
            self._next = partial(self.save_to, path, over=over)
            return
        save = self._window.document.to_save(path, over=over)

        def work(_: Monitor) -> str | ChangedOnDiskError:
            try:
                return save.write()
            except ChangedOnDiskError as error:
                return error

        def done(found: str | ChangedOnDiskError) -> None:
            if isinstance(found, ChangedOnDiskError):
                self._save_changed(path, found)
            else:
                self._window.document.on_saved(save, found)
                self._window.preferences.add_recent(path)

        again = partial(self.save_to, path, over=over)
        self._window.jobs.submit(SAVING, f"Saving {path.name}", work, done, waited_for=True, quiet=True, again=again)

    def _save_changed(self, path: Path, error: ChangedOnDiskError) -> None:
        """Save what somebody else changed meanwhile, as the person wants it."""
        answer = self.ask_changed(error)
        if answer == QMessageBox.StandardButton.Save:
            self.save_to(path, over=True)
        elif answer == QMessageBox.StandardButton.Open:
            self.save_as()

    def _on_busy(self) -> None:
        if self._next is not None and SAVING not in self._window.jobs.running:
            then, self._next = self._next, None
            self._window.run(then)

    def wait_until_saved(self) -> None:
        """Wait for what is being saved; the window goes on being drawn."""
        jobs, loop = self._window.jobs, QEventLoop()
        jobs.busy_changed.connect(loop.quit)
        while SAVING in jobs.running:
            loop.exec(QEventLoop.ProcessEventsFlag.ExcludeUserInputEvents)
        jobs.busy_changed.disconnect(loop.quit)

    def ask_replace(self, path: Path) -> bool:
        """Ask whether a file is to be written over."""
        box = question(self._window, "The file exists", f"{path.name} exists already. Write over it?")
        box.addButton("Write over it", QMessageBox.ButtonRole.AcceptRole)
        box.addButton(QMessageBox.StandardButton.Cancel)
        box.exec()
        return box.buttonRole(box.clickedButton()) == QMessageBox.ButtonRole.AcceptRole

    def ask_changed(self, error: ChangedOnDiskError) -> QMessageBox.StandardButton:
        """Ask what to do about a file that somebody else changed: Save over it, Open another name, or Cancel."""
        box = question(self._window, "Changed by somebody else", error.message, error.hint)
        other = box.addButton("Save under another name …", QMessageBox.ButtonRole.AcceptRole)
        over = box.addButton("Write over it", QMessageBox.ButtonRole.DestructiveRole)
        box.addButton(QMessageBox.StandardButton.Cancel)
        box.setDefaultButton(other)
        box.exec()
        buttons = QMessageBox.StandardButton
        clicked = box.clickedButton()
        return buttons.Open if clicked is other else buttons.Save if clicked is over else buttons.Cancel
