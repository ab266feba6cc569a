"""A way that was never timed, tried on paper: settings over what was asked, and a guess of their time. GUI thread."""

from PySide6.QtCore import Signal
from PySide6.QtWidgets import QHBoxLayout, QLineEdit, QVBoxLayout, QWidget

from pemlo.gui.common.labels import button, label
from pemlo.gui.common.plain import set_tip


class ManualEstimateRow(QWidget):
    """Two fields and a button.

    Signals
    -------
    wanted(str, str)
        Settings over what was asked, and what they take.
    """

    wanted = Signal(str, str)

    def __init__(self) -> None:
        super().__init__()
        self.settings, self.takes = QLineEdit(), QLineEdit()
        self.settings.setPlaceholderText("denoise=frame, samples=64")
        self.settings.setAccessibleName("A way that was never timed")
        set_tip(
            self.settings, "Settings over what was asked: a denoiser, a threshold, switches=none, with commas between"
        )
        self.takes.setPlaceholderText("a third, ~4:02")
        self.takes.setAccessibleName("What it is guessed to take")
        set_tip(self.takes, "A guess: seconds of a frame, or a share of those as asked. Its interval is wide")
        self.go = button("Try", "Adds a guess to the trials of this shot; levers then reach it. One step to undo",
                         self._on_go)  # fmt: skip
        row = QHBoxLayout()
        row.setSpacing(4)
        row.addWidget(self.settings, 3)
        row.addWidget(self.takes, 2)
        row.addWidget(self.go)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 4, 0, 0)
        column.setSpacing(2)
        column.addWidget(label("Try a way on paper", "second"))
        column.addLayout(row)
        for field in (self.settings, self.takes):
            field.returnPressed.connect(self._on_go)

    def _on_go(self) -> None:
        self.wanted.emit(self.settings.text().strip(), self.takes.text().strip())

    def clear(self) -> None:
        """Empty both fields: the guess was taken."""
        self.settings.clear()
        self.takes.clear()
