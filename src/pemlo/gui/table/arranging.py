"""How a person arranges a table: sorted, grouped, folded, searched, its columns moved and hidden. GUI thread."""

from dataclasses import replace
from typing import TYPE_CHECKING, Any

from PySide6.QtCore import QItemSelectionModel, QModelIndex

from pemlo.gui.table.lines import Arrangement, Group, filter_tests

if TYPE_CHECKING:
    from pemlo.gui.table.view import TableView


class Arranging:
    """The arranging of one table."""

    def __init__(self, view: "TableView") -> None:
        self._view = view
        self.words_sought = ""

    def find(self, by: int) -> None:
        """Go to the next row, or the one before, that has the words that were last sought."""
        view, table = self._view, self._view.table
        tests = filter_tests(self.words_sought, table.columns)
        count = len(table.lines)
        begin = view.currentIndex().row() if view.selected_lines() else -1 if by > 0 else 0
        for number in range(1, count + 1):
            line = (begin + by * number) % count
            row = table.lines[line]
            if not isinstance(row, Group) and all(test(row) for test in tests):
                index = table.index(line, max(view.currentIndex().column(), 0))
                flags = QItemSelectionModel.SelectionFlag
                view.selectionModel().setCurrentIndex(index, flags.ClearAndSelect | flags.Rows)
                view.scrollTo(index)
                return

    def go_sideways(self, by: int) -> None:
        """Go to the next column with the same rows picked; the line of a group folds and unfolds first."""
        view = self._view
        index = view.currentIndex()
        if not index.isValid():
            return
        header = view.horizontalHeader()
        visual = header.visualIndex(index.column()) + by
        line = view.table.lines[index.row()]
        if isinstance(line, Group) and index.column() == 0 and line.folded == (by > 0):
            self.fold(line)
            return
        while 0 <= visual < header.count() and header.isSectionHidden(header.logicalIndex(visual)):
            visual += by
        if 0 <= visual < header.count():
            beside = index.siblingAtColumn(header.logicalIndex(visual))
            view.selectionModel().setCurrentIndex(beside, QItemSelectionModel.SelectionFlag.NoUpdate)
            view.scrollTo(beside)

    def arrange(self, **fields: Any) -> None:  # noqa: ANN401 - of an arrangement
        """Arrange the table otherwise; the picked rows stay in view."""
        view = self._view
        view.table.arrange(replace(view.table.arrangement, **fields))
        lines = view.selected_lines()
        if lines:
            view.scrollTo(view.table.index(lines[0], max(view.currentIndex().column(), 0)))

    def sort_by(self, section: int) -> None:
        """Sort by a column: upwards, then downwards, then in the order of the film again."""
        title = self._view.table.columns[section].title
        now: Arrangement = self._view.table.arrangement
        if title and now.sort != title:
            self.arrange(sort=title, descending=False)
        elif title and not now.descending:
            self.arrange(descending=True)
        else:
            self.arrange(sort="", descending=False)

    def fold(self, group: Group[Any]) -> None:
        """Fold a group, or unfold it."""
        self.arrange(folded=self._view.table.arrangement.folded ^ {group.name})

    def fold_at(self, index: QModelIndex) -> None:
        """Fold the group of a line, or unfold it; a line of a row stays as it is."""
        line = self._view.table.lines[index.row()]
        if isinstance(line, Group):
            self.fold(line)

    def fold_all(self) -> None:
        """Fold all groups, or unfold them if all are folded."""
        table = self._view.table
        names = frozenset(line.name for line in table.lines if isinstance(line, Group))
        self.arrange(folded=frozenset() if names <= table.arrangement.folded else names)

    def group_by(self, title: str) -> None:
        self.arrange(group=title, folded=frozenset())

    def show_column(self, number: int, *, shown: bool) -> None:
        """Show a column, or hide it; what is in it stays."""
        self._view.setColumnHidden(number, not shown)

    def reset_columns(self) -> None:
        """Show all columns in their first order, as wide as what stands in them."""
        view, header = self._view, self._view.horizontalHeader()
        for number in range(header.count()):
            view.setColumnHidden(number, False)
            header.moveSection(header.visualIndex(number), number)
        view.columns_by_hand = False
        view.fit_columns()
