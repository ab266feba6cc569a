"""What a plan changes: shots that change alike are one row, with what they save and cost to the eye. GUI thread."""

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QGridLayout, QLabel, QVBoxLayout, QWidget

from pemlo.core.units import counted
from pemlo.gui.common.labels import Heading, label, rule
from pemlo.gui.trade.presenter import PlanChanges

MOST_ROWS = 30  # further ones stand in the settings sheet


class PlanChangesList(QWidget):
    """The list."""

    def __init__(self) -> None:
        super().__init__()
        self.heading = Heading("Changes")
        self.rest = label("", "second", small=True, wrap=True)
        self._grid = QGridLayout()
        self._grid.setHorizontalSpacing(8)
        self._grid.setVerticalSpacing(3)
        self._grid.setColumnStretch(0, 1)
        self._next_row = 0
        self._shown: PlanChanges | None = None
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(4)
        column.addWidget(self.heading)
        column.addLayout(self._grid)
        column.addWidget(self.rest)

    def text(self) -> str:
        """Return all that it says, a line for each row."""
        if self._shown is None:
            return ""
        rows = [f"{row.shots}: {row.what}; {row.hours}, {row.error}" for row in self._shown.rows]
        return "\n".join([*self._shown.running, *rows, *self._shown.rest])

    def show_changes(self, changes: PlanChanges | None) -> None:
        """Show what a plan changes; nothing while there is none."""
        self.setVisible(changes is not None)
        if changes is None or changes == self._shown:
            return
        self._shown = changes
        count = sum(row.count for row in changes.rows)
        beside = "machine-hours, error" if changes.rows else ""
        self.heading.say(beside, f"{counted(count, 'shot')} changed" if count else "No shot is changed")
        while (item := self._grid.takeAt(0)) is not None:
            if (old := item.widget()) is not None:
                old.hide()
                old.deleteLater()
        self._next_row = 0
        for words in changes.running:
            self._add(words)
        for row in changes.rows[:MOST_ROWS]:
            self._add(row.shots, row.what, row.hours, row.error)
        if len(changes.rows) > MOST_ROWS:
            self._add(f"and {len(changes.rows) - MOST_ROWS} more, all in the settings sheet of Hand-over")
        self.rest.setText("\n".join(changes.rest))

    def _add(self, first: str, what: str = "", hours: str = "", error: str = "") -> None:
        """Add a row: a sentence, or shots with hours and error and below them what changes."""
        grid = self._grid
        row = self._next_row
        self._next_row += 3
        shots = label(first, "title" if what else "", small=True, wrap=True)
        grid.addWidget(shots, row, 0, 1, 1 if what else 3, Qt.AlignmentFlag.AlignTop)
        if what:
            shots.setAccessibleDescription(f"{what}; {hours}, {error}")
            self._put(label(hours, "time", small=True), row, 1)
            self._put(label(error, "picture", small=True), row, 2)
            grid.addWidget(label(what, "second", small=True, wrap=True), row + 1, 0, 1, 3)
        grid.addWidget(rule(), row + 2, 0, 1, 3)

    def _put(self, cell: QLabel, row: int, column: int) -> None:
        self._grid.addWidget(cell, row, column, Qt.AlignmentFlag.AlignTop | Qt.AlignmentFlag.AlignRight)
