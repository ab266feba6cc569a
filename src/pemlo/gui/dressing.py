"""Shows another theme, one step a turn: all of them together would hold the window. GUI thread."""

from collections.abc import Callable
from typing import TYPE_CHECKING

from PySide6.QtCore import QTimer
from PySide6.QtWidgets import QApplication

from pemlo.gui.common.theme import theme_steps

if TYPE_CHECKING:
    from pemlo.gui.window import Window


class Dressing:
    """Dresses a window in the theme that its preferences name."""

    def __init__(self, window: "Window") -> None:
        self._window = window
        self._steps: list[Callable[[], None]] = []

    @property
    def under_way(self) -> bool:
        """Whether another theme is being shown."""
        return bool(self._steps)

    def begin(self) -> None:
        """Show the theme that is wanted; while one is being shown, the one that is wanted last is shown in the end."""
        if self._steps:
            return
        app = QApplication.instance()
        assert isinstance(app, QApplication)
        if steps := theme_steps(app, self._window.preferences.appearance):
            self._steps = [*steps, self._dressed]
            self._window.setUpdatesEnabled(False)
            self._next()

    def _next(self) -> None:
        step = self._steps.pop(0)
        if self._steps:  # asked for before the step: one that fails does not leave the window without painting
            QTimer.singleShot(0, self._window, self._next)
        step()

    def _dressed(self) -> None:
        self._window.setUpdatesEnabled(True)
        self.begin()
