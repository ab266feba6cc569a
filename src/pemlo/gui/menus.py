"""The menus of the window, made from the table of actions. GUI thread."""

from collections.abc import Callable

from PySide6.QtGui import QAction, QKeySequence
from PySide6.QtWidgets import QMenu

from pemlo.app.actions import Action
from pemlo.gui.common.plain import as_entry, set_tip
from pemlo.gui.window import Window
from pemlo.gui.window_actions import MENUS


class Menus:
    """Menus that follow what can be done."""

    def __init__(self, window: Window, fill_recent: Callable[[QMenu], None]) -> None:
        self._window = window
        self.menus = {name: window.menuBar().addMenu(name) for name in MENUS}
        self.shown: list[tuple[QAction, Action]] = []
        for action in window.actions_table:
            made = QAction(action.text, window)
            set_tip(made, action.tip)
            made.setStatusTip(action.tip)
            if action.shortcut:
                made.setShortcut(QKeySequence(action.shortcut))
            made.triggered.connect(lambda _=False, action=action: window.run(action.run))
            self.menus[action.menu].addAction(made)
            self.shown.append((made, action))
        project, recent = self.menus["Project"], QMenu("Recent projects", window)
        project.insertMenu(project.actions()[3], recent)
        project.aboutToShow.connect(lambda: window.written.known(window.preferences.recent()))
        recent.aboutToShow.connect(lambda: fill_recent(recent))
        for menu in self.menus.values():
            menu.aboutToShow.connect(self.refresh)  # what Judge shows comes without a change of the document
        history = window.document.history
        for changed in (history.moved, history.clean_changed):
            changed.connect(lambda _: self.refresh())

    def refresh(self) -> None:
        """Show what can be done now, and what the window is called."""
        document = self._window.document
        named = {"undo": f"Undo: {document.history.undo_text()}", "redo": f"Redo: {document.history.redo_text()}"}
        for made, action in self.shown:
            made.setEnabled(action.enabled())
            set_tip(made, action.said)
            made.setStatusTip(action.said)
            if action.name in named:
                made.setText(as_entry(named[action.name]) if action.enabled() else action.text)
        kept = document.path.name if document.path is not None else "not saved yet"
        changed = " (changed)" if document.unsaved else ""
        self._window.setWindowTitle(f"{document.project.title} – {kept}{changed} – Pemlo")
