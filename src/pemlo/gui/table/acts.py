"""What can be done in any table: copy, paste, fill, find, fold, sort, and columns moved and hidden. GUI thread."""

from collections.abc import Callable
from dataclasses import dataclass, replace
from typing import TYPE_CHECKING, Any

from PySide6.QtCore import QItemSelectionModel, QPoint, Qt
from PySide6.QtGui import QAction, QGuiApplication, QKeyEvent, QKeySequence
from PySide6.QtWidgets import QMenu

from pemlo.core.errors import InputError, PemloError
from pemlo.core.units import counted
from pemlo.gui.common.plain import as_entry
from pemlo.gui.table.clipboard import Records, copied_records, copy_rows
from pemlo.gui.table.lines import SEQUENCE, Arrangement, Group, filter_tests, groupings
from pemlo.gui.table.model import typed_text

if TYPE_CHECKING:
    from pemlo.gui.table.view import TableView


@dataclass(frozen=True)
class Act:
    """An entry of the menu: its text, its keys, what it does, and whether it can be done now."""

    text: str
    keys: str
    run: Callable[[], None]
    can: Callable[[], bool]


class Acts:
    """The acts of one table."""

    def __init__(self, view: "TableView") -> None:
        self._view = view
        self.records: Records[Any, Any] | None = None  # where rows can be copied whole
        self.report: Callable[[PemloError], None] = lambda _: None
        self.can_remove = self.can_duplicate = False
        self.more: tuple[Act, ...] = ()  # what the stage adds
        self.words_sought = ""
        picked, edited = self._some_picked, self._can_fill
        self.acts: tuple[Act, ...] = (
            Act("Edit", "F2", self._edit, self._can_edit),
            Act("Fill down", "Ctrl+D", self.fill_down, edited),
            Act("Cut", "Ctrl+X", self.cut, lambda: self.can_remove and picked()),
            Act("Copy", "Ctrl+C", self.copy, picked),
            Act("Paste", "Ctrl+V", self.paste, lambda: True),
            Act("Select all", "Ctrl+A", view.selectAll, lambda: bool(view.table.rows)),
            Act("Duplicate", "Ctrl+Shift+D", self._duplicate, lambda: self.can_duplicate and picked()),
            Act("Delete", "Del", self._remove, lambda: self.can_remove and picked()),
            Act("Find next", "F3", lambda: self.find(1), lambda: bool(self.words_sought)),
            Act("Find previous", "Shift+F3", lambda: self.find(-1), lambda: bool(self.words_sought)),
        )

    # Which acts there are now

    def _some_picked(self) -> bool:
        return bool(self._view.selected_lines())

    def _can_edit(self) -> bool:
        index = self._view.currentIndex()
        return index.isValid() and bool(self._view.table.flags(index) & Qt.ItemFlag.ItemIsEditable)

    def _can_fill(self) -> bool:
        return len(self._view.selected()) > 1 and self._can_edit()

    def on_key(self, event: QKeyEvent) -> bool:
        """Do what a key means, and tell whether it meant anything."""
        for act in self.acts:
            keys = QKeySequence(act.keys)
            if act.keys not in ("F2", "Del") and keys == QKeySequence(event.keyCombination()):
                self._guarded(act.run) if act.can() else None
                return True
        return False

    def _guarded(self, act: Callable[[], None]) -> None:
        try:
            act()
        except PemloError as error:
            self.report(error)

    # Rows

    def _edit(self) -> None:
        self._view.edit(self._view.currentIndex())

    def _remove(self) -> None:
        self._view.removal_asked.emit(self._view.selected())

    def _duplicate(self) -> None:
        self._view.duplicates_asked.emit(self._view.selected())

    def copy(self) -> None:
        """Put the picked rows on the clipboard, under the titles of all columns."""
        copy_rows(self._view.table.columns, self._view.selected(), self.records)

    def cut(self) -> None:
        self.copy()
        self._remove()

    def paste(self) -> None:
        """Take rows, or values for the column of the current cell."""
        records = copied_records(self.records)
        if records and self.records is not None:
            self.records.put(records)
            return
        text = QGuiApplication.clipboard().text()
        values = text.rstrip("\r\n").splitlines()
        if self._are_values(values):
            self._paste_values(values)
        elif text.strip():
            self._view.pasted.emit(text)

    def _are_values(self, values: list[str]) -> bool:
        """Whether what is pasted is one value, or one column of them, for the cells that are picked."""
        if not values or not self._can_edit() or any(sign in value for value in values for sign in "\t;"):
            return False
        title = values[0].strip().casefold()
        titles = {column.title.casefold() for column in self._view.table.columns}
        return (
            len(values) <= len(self._view.table.shown_rows)
            and title not in titles
            and not (len(values) > 1 and "," in values[0])
        )

    def _paste_values(self, values: list[str]) -> None:
        index, table = self._view.currentIndex(), self._view.table
        if len(values) == 1:
            table.change(index.column(), self._view.rows_meant(index), values[0])
            return
        lines = [line for line in table.lines[index.row() :] if not isinstance(line, Group)][: len(values)]
        if len(lines) < len(values):
            short = f"{counted(len(values), 'value')} do not fit into {counted(len(lines), 'row')} from here down."
            raise InputError(short, "Click the cell that the first value belongs to.")
        table.change_down(index.column(), lines, values)

    def fill_down(self) -> None:
        """Give all picked rows what the uppermost of them has in this column."""
        rows, number = self._view.selected(), self._view.currentIndex().column()
        table = self._view.table
        table.change(number, rows, typed_text(table.columns[number], rows[0]))

    # Find and arrange

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

    def fold_all(self) -> None:
        """Fold all groups, or unfold them if all are folded."""
        table = self._view.table
        names = frozenset(line.name for line in table.lines if isinstance(line, Group))
        self.arrange(folded=frozenset() if names <= table.arrangement.folded else names)

    def group_by(self, title: str) -> None:
        self.arrange(group=title, folded=frozenset())

    # Menus

    def show_menu(self, where: QPoint) -> None:
        """Show what can be done with the picked rows."""
        menu = self.menu()
        menu.exec(where)
        menu.deleteLater()

    def menu(self) -> QMenu:
        """Return the menu of the table as it is now."""
        menu = QMenu(self._view)
        for act in self.acts:
            self._add(menu, act)
        if self.more:
            menu.addSeparator()
        for act in self.more:
            self._add(menu, act)
        menu.addSeparator()
        self._add_grouping(menu)
        return menu

    def _add(self, menu: QMenu, act: Act) -> None:
        entry = QAction(f"{as_entry(act.text)}\t{QKeySequence(act.keys).toString()}" if act.keys else act.text, menu)
        entry.setEnabled(act.can())
        entry.triggered.connect(lambda _=False: self._guarded(act.run))
        menu.addAction(entry)

    def _add_grouping(self, menu: QMenu) -> None:
        table = self._view.table
        under = menu.addMenu("Group by")
        for title in ("", *groupings(table.rows, table.columns)):
            words = {"": "Nothing", SEQUENCE: "Sequence"}.get(title, title)
            entry = under.addAction(as_entry(words))
            entry.setCheckable(True)
            entry.setChecked(table.arrangement.group == title)
            entry.triggered.connect(lambda _=False, title=title: self.group_by(title))
        if table.arrangement.group:
            menu.addAction("Fold or unfold all groups").triggered.connect(lambda _=False: self.fold_all())

    def show_header_menu(self, place: QPoint) -> None:
        """Show what can be done with columns."""
        header = self._view.horizontalHeader()
        menu = self.header_menu(header.logicalIndexAt(place))
        menu.exec(header.mapToGlobal(place))
        menu.deleteLater()

    def header_menu(self, section: int) -> QMenu:
        """Return the menu of a column's title."""
        view, columns = self._view, self._view.table.columns
        menu = QMenu(view)
        title = columns[section].title if section >= 0 else ""
        if title:
            for words, down in (("Sort upwards", False), ("Sort downwards", True)):
                menu.addAction(words).triggered.connect(
                    lambda _=False, down=down: self.arrange(sort=title, descending=down)
                )
        unsorted = menu.addAction("In the order of the film")
        unsorted.triggered.connect(lambda _=False: self.arrange(sort="", descending=False))
        menu.addSeparator()
        if title and section > 0:
            menu.addAction(f"Hide “{as_entry(title)}”").triggered.connect(
                lambda _=False: self.show_column(section, shown=False)
            )
        under = menu.addMenu("Columns")
        for number, column in enumerate(columns):
            if number and column.title:
                entry = under.addAction(as_entry(column.title))
                entry.setCheckable(True)
                entry.setChecked(not view.isColumnHidden(number))
                entry.toggled.connect(lambda on, number=number: self.show_column(number, shown=on))
        menu.addAction("Columns as they were").triggered.connect(lambda _=False: self.reset_columns())
        self._add_grouping(menu)
        return menu

    def show_column(self, number: int, *, shown: bool) -> None:
        """Show a column, or hide it; what is in it stays."""
        self._view.setColumnHidden(number, not shown)
        self._view.columns_changed.emit()

    def reset_columns(self) -> None:
        """Show all columns in their first order, as wide as what stands in them."""
        view, header = self._view, self._view.horizontalHeader()
        for number in range(header.count()):
            view.setColumnHidden(number, False)
            header.moveSection(header.visualIndex(number), number)
        view.columns_by_hand = False
        view.fit_columns()
        view.columns_changed.emit()
