"""What can be done with the rows of any table: edit, fill, cut, copy, paste, duplicate, delete. GUI thread."""

from collections.abc import Callable
from dataclasses import dataclass
from typing import TYPE_CHECKING, Any

from PySide6.QtCore import Qt
from PySide6.QtGui import QGuiApplication, QKeyEvent, QKeySequence

from pemlo.core.errors import InputError, PemloError
from pemlo.core.units import counted
from pemlo.gui.common.columns import typed_text
from pemlo.gui.table.clipboard import Records, copied_records, copy_rows
from pemlo.gui.table.lines import Group

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
            Act("Find next", "F3", lambda: view.arranging.find(1), lambda: bool(view.arranging.words_sought)),
            Act(
                "Find previous", "Shift+F3", lambda: view.arranging.find(-1), lambda: bool(view.arranging.words_sought)
            ),
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
                if act.can():
                    self.guarded(act.run)
                return True
        return False

    def guarded(self, act: Callable[[], None]) -> None:
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
