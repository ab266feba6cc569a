"""Beside a table: the field that filters and finds, the choice of groups, and the line of totals. GUI thread."""

from collections.abc import Callable, Sequence
from typing import Any

from PySide6.QtCore import QEvent, QObject, Qt
from PySide6.QtGui import QKeyEvent
from PySide6.QtWidgets import QLineEdit, QToolButton

from pemlo.core.units import counted
from pemlo.gui.common.choice import Choice
from pemlo.gui.common.labels import Elided
from pemlo.gui.common.plain import set_tip
from pemlo.gui.table.lines import LONGEST_FILTER, SEQUENCE, groupings
from pemlo.gui.table.view import TableView

FILTER_PX = 118
FEW = 8  # rows that are seen at once need no filter
HOW_TO = "typing sets {column} of all · Ctrl+D fills down · Ctrl+C copies with titles"
TIP = (
    "Shows only rows with all these words: quay denoise. A column can be compared: samples > 200, a frame > 5:00. "
    "Enter goes to the first row, Esc shows all again, and F3 in the table goes to the next."
)
GROUP_TIP = "Rows that have the same in a column, or the same sequence in their names, under one line each"


class FilterField(QLineEdit):
    """Filters a table as one types."""

    def __init__(self, view: TableView) -> None:
        super().__init__()
        self.view = view
        self.setPlaceholderText("Filter or find")
        self.setAccessibleName(f"Filter {view.objectName()}")
        self.setMaxLength(LONGEST_FILTER)
        self.setClearButtonEnabled(True)
        for clear in self.findChildren(QToolButton):
            clear.setAccessibleName("Show all")
            set_tip(clear, "Show all rows again (Esc)")
        self.setFixedWidth(FILTER_PX)
        set_tip(self, TIP)
        self.textChanged.connect(self._on_changed)
        self.returnPressed.connect(self._on_entered)
        view.table.modelReset.connect(self.show_where_useful)
        view.installEventFilter(self)
        self.show_where_useful()

    def show_where_useful(self) -> None:
        """Stand there where rows are more than are seen at once, or something is typed."""
        self.setVisible(len(self.view.table.rows) > FEW or bool(self.text()) or self.hasFocus())

    def begin(self) -> None:
        """Take the keyboard."""
        self.show()
        self.setFocus()
        self.selectAll()

    def _on_changed(self, text: str) -> None:
        if text.strip():
            self.view.arranging.words_sought = text
        self.view.arranging.arrange(filter=text)

    def _on_entered(self) -> None:
        self.view.setFocus()
        if not self.view.selected_lines():
            self.view.arranging.find(1)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.key() == Qt.Key.Key_Escape:
            self.clear()
            self.view.setFocus()
        else:
            super().keyPressEvent(event)

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        if isinstance(event, QKeyEvent) and event.type() == QEvent.Type.KeyPress and event.key() == Qt.Key.Key_Escape:
            self.clear()
        return super().eventFilter(watched, event)


class GroupChoice(Choice):
    """Chooses by what the rows of a table are grouped."""

    def __init__(self, view: TableView) -> None:
        super().__init__(f"Group {view.objectName()}", GROUP_TIP)
        self._view = view
        self._offered: tuple[str, ...] = ()
        self.setSizeAdjustPolicy(Choice.SizeAdjustPolicy.AdjustToContents)
        self.activated.connect(lambda number: view.arranging.group_by(self._offered[number]))
        for changed in (view.table.modelReset, view.table.dataChanged, view.table.headerDataChanged):
            changed.connect(self._show)
        self._show()

    def _show(self) -> None:
        table = self._view.table
        offered = ("", *groupings(table.rows, table.columns))
        if table.arrangement.group and table.arrangement.group not in offered:
            offered = (*offered, table.arrangement.group)
        if offered != self._offered:
            self._offered = offered
            self.clear()
            names = {"": "Not grouped", SEQUENCE: "By sequence"}
            self.addItems([names.get(title, f"By {title}") for title in offered])
        self.setCurrentIndex(offered.index(table.arrangement.group))
        self.setVisible(len(table.rows) > FEW and len(offered) > 1)


class Totals(Elided):
    """Says what the picked rows are together, or all that are shown."""

    def __init__(self, view: TableView, count: Callable[[Sequence[Any]], str] | None = None) -> None:
        super().__init__("second")
        self._view, self._count = view, count
        self.setAccessibleName(f"Totals of {view.objectName()}")
        view.picked.connect(lambda _: self.show_totals())
        view.selectionModel().currentChanged.connect(lambda *_: self.show_totals())
        for changed in (view.table.modelReset, view.table.dataChanged):
            changed.connect(self.show_totals)

    def show_totals(self) -> None:
        """Say them; without words for all rows only of some: several that are picked, or a filter shows."""
        words = totals_words(self._view, self._count)
        self.setText(words)
        if self._count is None:
            self.setVisible(bool(words))


def totals_words(view: TableView, count: Callable[[Sequence[Any]], str] | None) -> str:
    """Say how many rows are picked or shown, what they are together, and what can be done with them."""
    table, picked, shown = view.table, view.selected(), view.table.shown_rows
    rows = picked if len(picked) > 1 else shown
    if not rows:
        return ""
    if len(picked) > 1:
        words = [f"{len(picked)} of {counted(len(table.rows), table.noun)} picked"]
    elif len(shown) < len(table.rows):
        words = [f"{len(shown)} of {counted(len(table.rows), table.noun)} shown"]
    elif count is None:
        return ""
    else:
        words = [count(shown)]
    words += [
        f"{column.title} {column.total(rows)} {column.left_out}".rstrip()
        for column in table.columns
        if column.total is not None
    ]
    index = view.currentIndex()
    if len(picked) > 1 and index.isValid():
        column = table.columns[index.column()]
        words += [HOW_TO.format(column=column.title)] if column.edit is not None and not column.single else []
    return " · ".join(words)
