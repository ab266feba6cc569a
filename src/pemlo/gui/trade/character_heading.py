"""Stands above the levers that change what a picture is, and locks or frees them in the whole film. GUI thread."""

from PySide6.QtCore import Signal
from PySide6.QtWidgets import QVBoxLayout, QWidget

from pemlo.core.project.project import Project
from pemlo.core.project.settings import ALLOWABLE
from pemlo.gui.common.labels import Heading, button


class CharacterHeading(QWidget):
    """The heading.

    Signals
    -------
    wanted(bool)
        Plans may move these levers in every shot, or in none.
    """

    wanted = Signal(bool)

    def __init__(self) -> None:
        super().__init__()
        self._allowed = False
        tip = (
            "Plans may render smaller, hold frames, turn switches, and denoise frame by frame where something moves, "
            "in every shot; or in none"
        )
        self.every = button("", tip, lambda: self.wanted.emit(not self._allowed), link=True)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 4, 0, 0)
        column.addWidget(Heading("What the picture is", self.every))

    def show_project(self, project: Project) -> None:
        """Say what the button does now."""
        self._allowed = all(set(ALLOWABLE) <= set(shot.allows) for shot in project.shots)
        self.every.setText("lock in all shots" if self._allowed else "allow in all shots")
