"""What passes by eye where no error was measured: said, and marked for the shot as its levers stand. GUI thread."""

from PySide6.QtCore import Signal
from PySide6.QtWidgets import QHBoxLayout, QLineEdit, QVBoxLayout, QWidget

from pemlo.core.project.eye_marks import (
    carried_words,
    contradiction_sentence,
    contradictions,
    deciding,
    eye_marks_of,
    next_look,
    passing_words,
    verdict,
)
from pemlo.core.project.project import Project
from pemlo.core.project.shots import Shot
from pemlo.core.project.trials import BAD, GOOD
from pemlo.gui.common.labels import button, label
from pemlo.gui.common.plain import set_tip

NOT_MARKED_YET = (
    "Error not measured. Mark what you saw - here as the levers stand, or trials in Trials - and plans take what "
    "passes."
)
SAID = {
    "passes": "As the levers stand, {shot} passes by eye.",
    "does not pass": "As the levers stand, {shot} was refused by eye.",
    "look first": "As the levers stand, nobody has looked at {shot} yet: render a frame so, and look.",
}


class ByEye(QWidget):
    """The box.

    Signals
    -------
    marked(str, str)
        How the shot is marked as its levers stand, and a note.
    """

    marked = Signal(str, str)

    def __init__(self) -> None:
        super().__init__()
        self.says, self.rule = label("", wrap=True), label("", "second", wrap=True)
        self.contradiction = label("", "limit", wrap=True)
        self.note = QLineEdit()
        self.note.setPlaceholderText("Note: what you saw, and where")
        self.note.setAccessibleName("Note of the mark")
        set_tip(self.note, "Kept with the mark")
        self.good = button("Good enough", "The shot passes as its levers stand", lambda: self._mark(GOOD))
        self.bad = button("Not good enough", "It does not pass as its levers stand", lambda: self._mark(BAD))
        marks = QHBoxLayout()
        marks.addWidget(self.good)
        marks.addWidget(self.bad)
        marks.addStretch(1)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(4)
        for one in (self.says, self.rule, self.contradiction):
            column.addWidget(one)
        column.addLayout(marks)
        column.addWidget(self.note)

    def show_shot(self, project: Project, shot: Shot) -> None:
        """Say what is known by eye of a shot as it is planned."""
        marks = deciding(eye_marks_of(project, shot.name))
        self.says.setText(SAID[verdict(shot.settings, marks)].format(shot=shot.name) if marks else NOT_MARKED_YET)
        look = next_look(marks)
        first = "" if look is None else f" Look first at {look.words}: it would decide."
        self.rule.setText(f"{passing_words(marks)}{first} {carried_words(marks)}".strip() if marks else "")
        self.rule.setVisible(bool(marks))
        self.contradiction.setText(contradiction_sentence(contradictions(marks)))
        self.contradiction.setVisible(bool(self.contradiction.text()))

    def _mark(self, what: str) -> None:
        self.marked.emit(what, self.note.text().strip())
        self.note.clear()
