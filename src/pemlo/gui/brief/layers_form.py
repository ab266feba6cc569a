"""Asks into which layers a shot is parted. GUI thread."""

from collections.abc import Callable

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QDialog, QHBoxLayout, QLineEdit, QVBoxLayout, QWidget

from pemlo.gui.common.labels import button, label

USUAL = "background, character, utility"


class LayersForm(QDialog):
    """Names of layers, and what becomes of the shot."""

    def __init__(self, parent: QWidget, shot: str, has_trials: bool, part: Callable[[list[str]], bool]) -> None:  # noqa: FBT001 - a fact of the shot
        super().__init__(parent)
        self.setWindowTitle(f"Layers of {shot}")
        self.setModal(False)
        self.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        self._part = part
        self.names = QLineEdit(USUAL)
        self.names.setAccessibleName("Names of the layers")
        self.names.returnPressed.connect(self._on_part)
        tip = "Each layer gets a row, with trials, levers and a plan of its own"
        self.go = button("Part the shot", tip, self._on_part, main=True)
        column = QVBoxLayout(self)
        column.setContentsMargins(18, 14, 18, 14)
        column.setSpacing(8)
        column.addWidget(label(f"Layers that {shot} is rendered in, with commas between", "title"))
        column.addWidget(self.names)
        words = (
            "Hours and disk of layers add up; time on screen counts once. A layer in which nothing moves and the "
            "camera stands is rendered once: write yes in its column “still”. A utility layer begins with few samples."
        )
        if has_trials:
            words += " Trials of the whole shot are kept with the first layer, and left out."
        column.addWidget(label(words, "second", wrap=True))
        row = QHBoxLayout()
        row.addWidget(self.go)
        row.addStretch(1)
        column.addLayout(row)
        self.resize(460, 190)
        self.names.selectAll()
        self.names.setFocus(Qt.FocusReason.OtherFocusReason)

    def _on_part(self) -> None:
        if self._part(self.names.text().split(",")):
            self.accept()
