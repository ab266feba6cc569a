"""A table over rows and columns that are data; edits go to the document. GUI thread."""

from collections.abc import Callable, Hashable, Sequence
from pathlib import Path
from typing import Any, Generic, TypeVar

from PySide6.QtCore import QAbstractTableModel, QModelIndex, QPersistentModelIndex, Qt
from PySide6.QtGui import QImage

from pemlo.core.errors import InputError
from pemlo.core.project.project import Project
from pemlo.core.units import counted
from pemlo.gui.common.colours import colours
from pemlo.gui.common.columns import Column, EditsMany, typed_text
from pemlo.gui.common.fonts import SMALL, font
from pemlo.gui.common.plain import as_tip
from pemlo.gui.table.group_cells import GroupCells
from pemlo.gui.table.lines import Arrangement, Group, arranged, in_old_places, same_places

R = TypeVar("R")
Index = QModelIndex | QPersistentModelIndex
Edit = Callable[[str, Callable[[Project], Project]], None]
NOWHERE = QModelIndex()
UP, DOWN = "▴", "▾"


def _no_picture(_path: Path) -> None:
    return None


class TableModel(QAbstractTableModel, Generic[R]):
    """Shows rows; what is typed becomes a change of the document, or a report of what is wrong.

    Parameters
    ----------
    columns : sequence of Column
    edit : callable
        Makes a change under a name; may raise InputError.
    report : callable
        Hears of what was refused.
    picture : callable
        Gives the small picture of a file, None while there is none.
    noun : str
        What a row is: shot.
    key : callable
        By which a row is found again when the table is arranged anew.
    """

    def __init__(
        self,
        columns: Sequence[Column[R]],
        edit: Edit,
        report: Callable[[InputError], None],
        picture: Callable[[Path], QImage | None] = _no_picture,
        *,
        noun: str = "row",
        key: Callable[[R], Hashable] = id,
    ) -> None:
        super().__init__()
        self._picture, self.noun, self.key = picture, noun, key
        self._columns = tuple(columns)
        self._rows: tuple[R, ...] = ()
        self._lines: tuple[R | Group[R], ...] = ()
        self._groups = GroupCells(self._columns, noun)
        self._edit, self._report = edit, report
        self.arrangement = Arrangement()
        self.held = False  # while a cell is open, no row moves away under it

    @property
    def columns(self) -> tuple[Column[R], ...]:
        return self._columns

    @property
    def rows(self) -> tuple[R, ...]:
        """All rows, in the order of the document."""
        return self._rows

    @property
    def lines(self) -> tuple[R | Group[R], ...]:
        """What is shown: rows, and the lines of groups over them."""
        return self._lines

    def rows_at(self, line: int) -> tuple[R, ...]:
        """Return the row of a line, or all rows of a group."""
        if not 0 <= line < len(self._lines):
            return ()
        at = self._lines[line]
        return at.rows if isinstance(at, Group) else (at,)

    @property
    def shown_rows(self) -> tuple[R, ...]:
        """The rows that pass the filter, those of folded groups among them."""
        grouped = [line for line in self._lines if isinstance(line, Group)]
        if grouped:
            return tuple(row for group in grouped for row in group.rows)
        return tuple(line for line in self._lines if not isinstance(line, Group))

    def show_rows(self, rows: Sequence[R]) -> None:
        """Show other rows; a table of the same length keeps its selection and its open editor."""
        self._rows = tuple(rows)
        self._show_lines()

    def arrange(self, arrangement: Arrangement) -> None:
        """Sort, filter and group as a person wants it."""
        if arrangement == self.arrangement:
            return
        self.arrangement = arrangement
        self._show_lines()
        self.headerDataChanged.emit(Qt.Orientation.Horizontal, 0, len(self._columns) - 1)

    def release(self) -> None:
        """Let rows go where they belong, now that no cell is open."""
        if self.held:
            self.held = False
            self._show_lines()

    def _show_lines(self) -> None:
        self._groups.forget()
        lines = arranged(self._rows, self._columns, self.arrangement)
        if self.held and (kept := in_old_places(self._lines, self._rows, self.key)) is not None:
            lines = kept
        if same_places(self._lines, lines, None if self.arrangement.plain else self.key):
            self._lines = lines
            if lines:
                self.dataChanged.emit(self.index(0, 0), self.index(len(lines) - 1, len(self._columns) - 1))
            return
        self.beginResetModel()
        self._lines = lines
        self.endResetModel()

    def show_pictures(self) -> None:
        """Show pictures that came in."""
        if self._lines:
            last = self.index(len(self._lines) - 1, len(self._columns) - 1)
            self.dataChanged.emit(self.index(0, 0), last, [Qt.ItemDataRole.DecorationRole])

    def rowCount(self, parent: Index = NOWHERE) -> int:
        return 0 if parent.isValid() else len(self._lines)

    def columnCount(self, parent: Index = NOWHERE) -> int:
        return 0 if parent.isValid() else len(self._columns)

    def flags(self, index: Index) -> Qt.ItemFlag:
        flags = Qt.ItemFlag.ItemIsEnabled | Qt.ItemFlag.ItemIsSelectable
        column = self._columns[index.column()]
        of_group = isinstance(self._lines[index.row()], Group)
        if column.edit is not None and not (of_group and (column.single or index.column() == 0)):
            flags |= Qt.ItemFlag.ItemIsEditable
        return flags

    def data(self, index: Index, role: int = Qt.ItemDataRole.DisplayRole) -> Any:  # noqa: ANN401, PLR0911 - Qt's shape
        column, row = self._columns[index.column()], self._lines[index.row()]
        if role == Qt.ItemDataRole.TextAlignmentRole:
            side = Qt.AlignmentFlag.AlignRight if column.figures else Qt.AlignmentFlag.AlignLeft
            return side | Qt.AlignmentFlag.AlignVCenter
        if isinstance(row, Group):
            return self._groups.data(row, index.column(), role)
        if role in (Qt.ItemDataRole.DisplayRole, Qt.ItemDataRole.AccessibleTextRole):
            return column.text(row)
        if role == Qt.ItemDataRole.EditRole:
            return typed_text(column, row)
        if role == Qt.ItemDataRole.ForegroundRole:
            palette = colours()
            return {
                "ink": palette.ink,
                "time": palette.time,
                "faint": palette.faint,
                "limit": palette.limit,
                "picture": palette.picture,
            }[column.role(row)]
        if role == Qt.ItemDataRole.ToolTipRole:
            more = "" if column.about is None else f"\n{column.about(row)}"
            return as_tip(f"{column.text(row)}\n{column.tip}{more}")
        pictured = role == Qt.ItemDataRole.DecorationRole and column.picture is not None
        file = column.picture(row) if pictured and column.picture is not None else None
        return None if file is None else self._picture(file)

    def setData(self, index: Index, value: object, role: int = Qt.ItemDataRole.EditRole) -> bool:
        if role != Qt.ItemDataRole.EditRole:
            return False
        try:
            return self.change(index.column(), self.rows_at(index.row()), str(value))
        except InputError as error:
            self._report(error)
            return False

    def change(self, number: int, rows: Sequence[R], text: str) -> bool:
        """Give a value to a column of some rows, as one change; tell whether anything was changed.

        Raises
        ------
        InputError
            If the value cannot be; then no row is changed.
        """
        column, text = self._columns[number], text.strip()
        edit = column.edit
        changed = [row for row in rows if typed_text(column, row) != text]
        if edit is None or not changed or (column.single and len(rows) > 1):
            return False
        many = f" of {counted(len(changed), self.noun)}" if len(changed) > 1 else ""
        self._edit(f"Change {column.title}{many}", lambda project: _each(edit, project, changed, [text] * len(changed)))
        return True

    def change_down(self, number: int, rows: Sequence[R], texts: Sequence[str]) -> None:
        """Give each of some rows a value of its own in one column, as one change.

        Raises
        ------
        InputError
        """
        column = self._columns[number]
        edit = column.edit
        if edit is None or (column.single and len(rows) > 1):
            problem = f"Nothing can be pasted into the column “{column.title}”."
            raise InputError(problem, "Click a cell of a column that can be typed into, and paste again.")
        self._edit(
            f"Change {column.title} of {counted(len(rows), self.noun)}",
            lambda project: _each(edit, project, rows, [text.strip() for text in texts]),
        )

    def headerData(self, section: int, orientation: Qt.Orientation, role: int = 0) -> Any:  # noqa: ANN401
        if orientation != Qt.Orientation.Horizontal:
            return None
        column = self._columns[section]
        if role == Qt.ItemDataRole.DisplayRole:
            by_it = column.title and self.arrangement.sort == column.title
            return f"{column.title} {DOWN if self.arrangement.descending else UP}" if by_it else column.title
        if role == Qt.ItemDataRole.ToolTipRole:
            return as_tip(f"{column.tip}\nClick to sort by it; drag to move it; right-click to hide it.")
        if role == Qt.ItemDataRole.FontRole:
            return font(SMALL)
        if role == Qt.ItemDataRole.TextAlignmentRole:
            side = Qt.AlignmentFlag.AlignRight if column.figures else Qt.AlignmentFlag.AlignLeft
            return side | Qt.AlignmentFlag.AlignVCenter
        return None


def _each(
    edit: Callable[[Project, R, str], Project], project: Project, rows: Sequence[R], texts: Sequence[str]
) -> Project:
    if len(rows) > 1 and isinstance(edit, EditsMany):  # of one row more may follow: trials a new name
        return edit.many(project, rows, texts)
    for row, text in zip(rows, texts, strict=True):
        project = edit(project, row, text)
    return project
