"""Lines of somebody's own, to be ticked off before a launch. GUI thread."""

from collections.abc import Sequence

from PySide6.QtWidgets import QCheckBox, QHBoxLayout, QLineEdit, QVBoxLayout, QWidget

from pemlo.app.preferences import Preferences
from pemlo.core.project.launch import OwnCheck
from pemlo.gui.common.labels import button, label
from pemlo.gui.common.plain import set_tip
from pemlo.gui.handover.handover_edits import HandoverEdits

LONGEST = 400


class OwnLines(QWidget):
    """The lines, and a field for another."""

    def __init__(self, edits: HandoverEdits, preferences: Preferences) -> None:
        super().__init__()
        self._edits, self._preferences = edits, preferences
        self._shown: tuple[OwnCheck, ...] | None = None
        self._lines = QVBoxLayout()
        self._lines.setSpacing(1)
        self.line = QLineEdit()
        self.line.setPlaceholderText("A line of your own to tick off")
        self.line.setMaxLength(LONGEST)
        self.line.setAccessibleName("A line of your own")
        self.line.returnPressed.connect(self._add)
        self.always = QCheckBox("for all films")
        set_tip(self.always, "New films begin with this line; films you have can take it with “Usual lines”")
        self.usual = button("Usual lines", "Put in the lines that you keep for all films", self._take_usual, link=True)
        new = QHBoxLayout()
        new.setSpacing(6)
        new.addWidget(self.line, 1)
        new.addWidget(self.always)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(3)
        head = QHBoxLayout()
        head.addWidget(label("Your own lines", "title"))
        head.addStretch(1)
        head.addWidget(self.usual)
        column.addLayout(head)
        column.addLayout(self._lines)
        column.addLayout(new)

    def show_lines(self, lines: Sequence[OwnCheck]) -> None:
        lines = tuple(lines)
        kept = self._preferences.own_lines
        self.usual.setEnabled(any(words not in {line.words for line in lines} for words in kept))
        if lines == self._shown:
            return
        self._shown = lines
        while (item := self._lines.takeAt(0)) is not None:
            widget = item.widget()
            assert widget is not None
            widget.deleteLater()
        for place, one in enumerate(lines):
            self._lines.addWidget(self._row(place, one))

    def _row(self, place: int, one: OwnCheck) -> QWidget:
        made = QWidget()
        row = QHBoxLayout(made)
        row.setContentsMargins(0, 0, 0, 0)
        tick = QCheckBox(one.words)
        tick.setChecked(one.done)
        set_tip(tick, one.words)
        tick.clicked.connect(lambda done: self._edits.tick(place, done=done))
        row.addWidget(tick, 1)
        row.addWidget(button("×", f"Take out “{one.words}”", lambda: self._drop(place, one.words), link=True))
        return made

    def _drop(self, place: int, words: str) -> None:
        self._preferences.own_lines = [one for one in self._preferences.own_lines if one != words]
        self._edits.drop_line(place)

    def _add(self) -> None:
        words = self.line.text().strip()
        if not words:
            return
        self.line.clear()
        if self.always.isChecked():
            kept = [one for one in self._preferences.own_lines if one != words]
            self._preferences.own_lines = [*kept, words]
        self._edits.add_line(words)

    def _take_usual(self) -> None:
        existing = {one.words for one in self._shown or ()}
        self._edits.add_lines([words for words in self._preferences.own_lines if words not in existing])
