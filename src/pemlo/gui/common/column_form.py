"""The step that matches columns: theirs, with their first rows, and ours; what was said is remembered. GUI thread."""

from collections.abc import Callable, Mapping

from PySide6.QtWidgets import QComboBox, QDialog, QGridLayout, QHBoxLayout, QScrollArea, QVBoxLayout, QWidget

from pemlo.app.preferences import Preferences
from pemlo.app.table_reader import Unmatched
from pemlo.core.errors import InputError, PemloError
from pemlo.core.foreign import shown
from pemlo.core.persistence.column_names import WORKED_OUT, key_of, matched
from pemlo.core.persistence.table import first_cells, missing_of, titles_of
from pemlo.gui.common.enabling import enable
from pemlo.gui.common.labels import button, label
from pemlo.gui.common.plain import set_tip
from pemlo.gui.common.problem_bar import Offer

NOT_USED = "not used"
ROWS, LONGEST, MOST_LISTED = 3, 60, 8
MOST_SAID = 500  # titles that are remembered


class ColumnForm(QDialog):
    """Asks which column each title is, for a table of one kind."""

    def __init__(self, parent: QWidget | None, table: Unmatched, said: Mapping[str, str]) -> None:
        super().__init__(parent)
        self.setWindowTitle("Match columns")
        self._table = table
        self.boxes: dict[str, QComboBox] = {}
        scroll = QScrollArea()
        scroll.setWidget(self._rows(said))
        scroll.setWidgetResizable(True)
        scroll.setFrameShape(QScrollArea.Shape.NoFrame)
        self.says = label("", "limit", wrap=True)
        buttons = QHBoxLayout()
        buttons.addStretch(1)
        buttons.addWidget(button("Cancel", "Leave the table as it was read", self.reject))
        self.go = button("Read it so", "Read the table with these columns, and remember them", self.accept, main=True)
        buttons.addWidget(self.go)
        column = QVBoxLayout(self)
        words = f"Say what the columns of {table.name} hold. It is remembered for other tables."
        column.addWidget(label(words, wrap=True))
        column.addWidget(scroll, 1)
        column.addWidget(self.says)
        column.addLayout(buttons)
        self.resize(620, 460)
        self._say()

    def _rows(self, said: Mapping[str, str]) -> QWidget:
        """Return a row for each of their columns: its title, its first cells, and a choice of ours."""
        columns = [column.name for column in self._table.columns]
        titles = titles_of(self._table.text)
        cells = first_cells(self._table.text, ROWS)
        inside = QWidget()
        grid = QGridLayout(inside)
        grid.setContentsMargins(0, 0, 8, 0)
        grid.setHorizontalSpacing(14)
        for number, words in enumerate(("in the table", "its first rows", "is read as")):
            grid.addWidget(label(words, "second", small=True), 0, number)
        for place, (title, name) in enumerate(zip(titles, matched(titles, columns, said), strict=True)):
            if key_of(title) in WORKED_OUT:
                continue
            box = self.boxes[title] = QComboBox()
            box.addItem(NOT_USED, "")
            for column in columns:
                box.addItem(column.replace("_", " "), column)
            box.setCurrentIndex(max(0, box.findData(name)))
            box.setAccessibleName(f"Column {title}")
            set_tip(box, f"What the column “{title}” holds")
            box.currentIndexChanged.connect(self._say)
            first = ", ".join(row[place] for row in cells if place < len(row) and row[place])
            grid.addWidget(label(shown(title, LONGEST)), place + 1, 0)
            grid.addWidget(label(shown(first, LONGEST), "second"), place + 1, 1)
            grid.addWidget(box, place + 1, 2)
        grid.setRowStretch(len(titles) + 1, 1)
        return inside

    def said(self) -> dict[str, str]:
        """Return which column each title is, by its key; empty for one that is not used."""
        return {key_of(title): str(box.currentData()) for title, box in self.boxes.items()}

    def _say(self) -> None:
        """Say what is still missing, or chosen twice."""
        chosen = [name for name in self.said().values() if name]
        missing = missing_of(self._table.columns, chosen)
        twice = sorted({name for name in chosen if chosen.count(name) > 1})
        words = [f"Still needed: {', '.join(missing)}."] if missing else []
        self.says.setText(" ".join([*words, *(f"{name} is chosen twice." for name in twice)]))
        enable(self.go, self.says.text())


class ColumnStep:
    """What a window does where titles of a table are not all columns."""

    def __init__(
        self, parent: QWidget, preferences: Preferences, report: Callable[[PemloError], None], offer: Offer
    ) -> None:
        self._parent, self._preferences, self._report, self._offer = parent, preferences, report, offer

    def on_unmatched(self, table: Unmatched) -> None:
        """Ask at once where the table could not be read; else say what was not used, and offer to ask."""
        listed = ", ".join(f"“{shown(title, LONGEST)}”" for title in table.not_used[:MOST_LISTED])
        more = f" and {len(table.not_used) - MOST_LISTED} more" if len(table.not_used) > MOST_LISTED else ""
        if not table.missing:
            words = f"Not used of {table.name}: {listed}{more}. They are kept with their rows."
            self._offer(words, "", "Match columns …", lambda: self._match(table))
        elif not self._ask(table):
            missing = ", ".join(f"“{name}”" for name in table.missing)
            self._report(
                InputError(
                    f"{table.name} was not read: it has no column {missing}, and {listed}{more} are not known.",
                    "Name its columns so, or bring it in again and match them.",
                )
            )

    def _match(self, table: Unmatched) -> None:
        self._ask(table)

    def _ask(self, table: Unmatched) -> bool:
        said = self.ask(table)
        if said is None:
            return False
        kept = {**self._preferences.column_names, **said}
        self._preferences.column_names = dict(list(kept.items())[-MOST_SAID:])
        table.again()
        return True

    def ask(self, table: Unmatched) -> dict[str, str] | None:
        """Ask which columns titles are; None if the person does not want to say."""
        form = ColumnForm(self._parent, table, self._preferences.column_names)
        return form.said() if form.exec() else None
