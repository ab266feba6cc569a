"""A table over rows and columns that are data; edits go to the document. GUI thread."""

from collections.abc import Callable, Sequence
from pathlib import Path
from typing import Any, Generic, TypeVar

from PySide6.QtCore import QAbstractTableModel, QModelIndex, QPersistentModelIndex, Qt
from PySide6.QtGui import QImage

from pemlo.core.errors import InputError
from pemlo.core.project.project import Project
from pemlo.gui.common.colours import colours
from pemlo.gui.common.columns import Column
from pemlo.gui.common.fonts import SMALL, font
from pemlo.gui.common.plain import as_tip

R = TypeVar("R")
Index = QModelIndex | QPersistentModelIndex
Edit = Callable[[str, Callable[[Project], Project]], None]
NOWHERE = QModelIndex()


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
    """

    def __init__(
        self,
        columns: Sequence[Column[R]],
        edit: Edit,
        report: Callable[[InputError], None],
        picture: Callable[[Path], QImage | None] = _no_picture,
    ) -> None:
        super().__init__()
        self._picture = picture
        self._columns = tuple(columns)
        self._rows: tuple[R, ...] = ()
        self._edit, self._report = edit, report

    @property
    def columns(self) -> tuple[Column[R], ...]:
        return self._columns

    @property
    def rows(self) -> tuple[R, ...]:
        return self._rows

    def show_rows(self, rows: Sequence[R]) -> None:
        """Show other rows; a table of the same length keeps its selection and its open editor."""
        rows = tuple(rows)
        if len(rows) == len(self._rows):
            self._rows = rows
            if rows:
                self.dataChanged.emit(self.index(0, 0), self.index(len(rows) - 1, len(self._columns) - 1))
            return
        self.beginResetModel()
        self._rows = rows
        self.endResetModel()

    def show_pictures(self) -> None:
        """Show pictures that came in."""
        if self._rows:
            last = self.index(len(self._rows) - 1, len(self._columns) - 1)
            self.dataChanged.emit(self.index(0, 0), last, [Qt.ItemDataRole.DecorationRole])

    def rowCount(self, parent: Index = NOWHERE) -> int:
        return 0 if parent.isValid() else len(self._rows)

    def columnCount(self, parent: Index = NOWHERE) -> int:
        return 0 if parent.isValid() else len(self._columns)

    def flags(self, index: Index) -> Qt.ItemFlag:
        flags = Qt.ItemFlag.ItemIsEnabled | Qt.ItemFlag.ItemIsSelectable
        if self._columns[index.column()].edit is not None:
            flags |= Qt.ItemFlag.ItemIsEditable
        return flags

    def data(self, index: Index, role: int = Qt.ItemDataRole.DisplayRole) -> Any:  # noqa: ANN401 - Qt's shape
        column, row = self._columns[index.column()], self._rows[index.row()]
        if role in (Qt.ItemDataRole.DisplayRole, Qt.ItemDataRole.AccessibleTextRole):
            return column.text(row)
        if role == Qt.ItemDataRole.EditRole:
            return (column.typed or column.text)(row)
        if role == Qt.ItemDataRole.TextAlignmentRole:
            side = Qt.AlignmentFlag.AlignRight if column.figures else Qt.AlignmentFlag.AlignLeft
            return side | Qt.AlignmentFlag.AlignVCenter
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
            return as_tip(f"{column.text(row)}\n{column.tip}")
        pictured = role == Qt.ItemDataRole.DecorationRole and column.picture is not None
        file = column.picture(row) if pictured and column.picture is not None else None
        return None if file is None else self._picture(file)

    def setData(self, index: Index, value: object, role: int = Qt.ItemDataRole.EditRole) -> bool:
        column, row = self._columns[index.column()], self._rows[index.row()]
        change = column.edit
        text = str(value).strip()
        if change is None or role != Qt.ItemDataRole.EditRole or text == (column.typed or column.text)(row):
            return False
        try:
            self._edit(f"Change {column.title}", lambda project: change(project, row, text))
        except InputError as error:
            self._report(error)
            return False
        return True

    def headerData(self, section: int, orientation: Qt.Orientation, role: int = 0) -> Any:  # noqa: ANN401
        if orientation != Qt.Orientation.Horizontal:
            return None
        column = self._columns[section]
        if role == Qt.ItemDataRole.DisplayRole:
            return column.title
        if role == Qt.ItemDataRole.ToolTipRole:
            return column.tip
        if role == Qt.ItemDataRole.FontRole:
            return font(SMALL)
        if role == Qt.ItemDataRole.TextAlignmentRole:
            side = Qt.AlignmentFlag.AlignRight if column.figures else Qt.AlignmentFlag.AlignLeft
            return side | Qt.AlignmentFlag.AlignVCenter
        return None
