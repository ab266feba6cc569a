"""The ceiling of the picked shots set by hand, and how much their error counts. GUI thread."""

from collections.abc import Callable

from PySide6.QtCore import Signal
from PySide6.QtWidgets import QHBoxLayout, QLineEdit, QWidget

from pemlo.core.project.shots import Shot
from pemlo.gui.common.labels import label
from pemlo.gui.common.plain import set_tip

FIELDS = (
    ("ceiling", "error limit, levels", "Largest error that passes, whatever is marked; empty for marks, or as asked"),
    ("weight", "weight", "How much the shot's error counts against the others', in the sum that a plan makes small"),
)


class CeilingRow(QWidget):
    """Two fields.

    Signals
    -------
    typed(str, str)
        Field of a shot, and what was typed in it.
    """

    typed = Signal(str, str)

    def __init__(self) -> None:
        super().__init__()
        self.fields: dict[str, QLineEdit] = {}
        self._shown: dict[str, str] = {}
        row = QHBoxLayout(self)
        row.setContentsMargins(0, 0, 0, 0)
        for name, words, tip in FIELDS:
            field = self.fields[name] = QLineEdit()
            field.setFixedWidth(54)
            field.setAccessibleName(words)
            set_tip(field, tip)
            field.editingFinished.connect(self._on_left(name))
            row.addWidget(label(words, "second"))
            row.addWidget(field)
        self.fields["ceiling"].setPlaceholderText("none")
        row.addStretch(1)

    def show_shot(self, shot: Shot) -> None:
        """Show what a shot has; a field that is being typed in is left alone."""
        texts = {"ceiling": "" if shot.ceiling is None else f"{shot.ceiling:g}", "weight": f"{shot.weight:g}"}
        for name, text in texts.items():
            if not (self.fields[name].hasFocus() and text == self._shown.get(name)):
                self.fields[name].setText(text)
        self._shown = texts

    def _on_left(self, name: str) -> Callable[[], None]:
        def act() -> None:
            text = self.fields[name].text().strip()
            if text != self._shown.get(name):
                self.typed.emit(name, text)

        return act
