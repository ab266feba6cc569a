"""Tells of alarms and of the end where somebody will see it: on the desktop, or in the window. GUI thread.

On this desktop the tray's messages go over the session bus to whatever shows notifications there.
"""

from typing import TYPE_CHECKING

from PySide6.QtWidgets import QApplication, QSystemTrayIcon

from pemlo.app.watcher import Watched, Watcher

if TYPE_CHECKING:
    from pemlo.gui.window import Window

MOST_WORDS = 3


class News:
    """Listens to what is watched; tells each thing once.

    Attributes
    ----------
    told : list of str
        What was told, the newest last.
    """

    def __init__(self, window: "Window", watcher: Watcher) -> None:
        self._window = window
        self._done = False
        self._tray: QSystemTrayIcon | None = None
        self.told: list[str] = []
        watcher.looked.connect(self._on_looked)
        watcher.changed.connect(self._on_changed)

    def _on_changed(self) -> None:
        self._done = False

    def _on_looked(self, watched: Watched) -> None:
        live = watched.live_forecast
        words = [alarm.words for alarm in watched.fresh if alarm.kind != "look"][:MOST_WORDS]
        if live.done and not self._done:
            words.append(f"All {live.snapshot.wanted} frames are in.")
        self._done = live.done
        if words:
            self.tell("\n".join(words), sound=live.snapshot.project.watching.sound)

    def tell(self, words: str, *, sound: bool) -> None:
        """Tell something."""
        self.told.append(words)
        title = self._window.document.project.title
        if not self._by_tray(title, words):
            self._window.problems.tell(words)
        if sound:
            QApplication.beep()

    def _by_tray(self, title: str, words: str) -> bool:
        if not QSystemTrayIcon.isSystemTrayAvailable() or not QSystemTrayIcon.supportsMessages():
            return False
        if self._tray is None:
            self._tray = QSystemTrayIcon(self._window.windowIcon(), self._window)
            self._tray.show()
        self._tray.showMessage(title, words)
        return True
