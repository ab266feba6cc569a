"""A whole number with a button for one less and one for one more. GUI thread."""

from PySide6.QtCore import Qt, Signal
from PySide6.QtGui import QIntValidator, QKeyEvent
from PySide6.QtWidgets import QHBoxLayout, QLineEdit, QWidget

from pemlo.gui.common.enabling import enable
from pemlo.gui.common.labels import button, label
from pemlo.gui.common.plain import set_tip

BOX_PX, STEP_PX = 46, 26


class CountBox(QWidget):
    """The box.

    Parameters
    ----------
    words, tip : str
        What is counted.
    least, most : int

    Signals
    -------
    changed(int)
        Somebody chose another number.
    """

    changed = Signal(int)

    def __init__(self, words: str, tip: str, least: int, most: int) -> None:
        super().__init__()
        self._least, self._most = least, most
        self.value = least
        self.line = QLineEdit(str(least))
        self.line.setValidator(QIntValidator(least, most))
        self.line.setFixedWidth(BOX_PX)
        self.line.setAlignment(Qt.AlignmentFlag.AlignRight)
        self.line.setAccessibleName(words)
        set_tip(self.line, f"{tip}: {least} to {most}")
        self.line.editingFinished.connect(self._on_typed)
        self.less = button("\N{MINUS SIGN}", f"One less: {words}", lambda: self._choose(self.value - 1))
        self.more = button("+", f"One more: {words}", lambda: self._choose(self.value + 1))
        row = QHBoxLayout(self)
        row.setContentsMargins(0, 0, 0, 0)
        row.setSpacing(3)
        row.addWidget(label(words, "second", small=True))
        for push_button in (self.less, self.more):
            push_button.setAccessibleName(push_button.accessibleDescription())
            push_button.setFixedWidth(STEP_PX)
            push_button.setProperty("step", True)
        for widget in (self.less, self.line, self.more):
            row.addWidget(widget)

    def show_value(self, value: int) -> None:
        """Show a number that the film has."""
        self.value = value
        if self.line.text() != str(value):
            self.line.setText(str(value))
        enable(self.less, "" if value > self._least else f"{self._least} is the fewest.")
        enable(self.more, "" if value < self._most else f"{self._most} is the most.")

    def _choose(self, value: int) -> None:
        self.changed.emit(min(max(value, self._least), self._most))

    def _on_typed(self) -> None:
        if self.line.text().isdecimal() and int(self.line.text()) != self.value:
            self._choose(int(self.line.text()))

    def keyPressEvent(self, event: QKeyEvent) -> None:
        steps = {Qt.Key.Key_Up: 1, Qt.Key.Key_Down: -1}
        if event.key() in steps:
            self._choose(self.value + steps[Qt.Key(event.key())])
        else:
            super().keyPressEvent(event)
