"""What stands in the line of a group: its name, its totals, and what all its rows have. GUI thread."""

from collections.abc import Sequence
from typing import Any, Generic, TypeVar

from PySide6.QtCore import Qt

from pemlo.core.units import counted
from pemlo.gui.common.colours import colours
from pemlo.gui.common.columns import Column, typed_text
from pemlo.gui.common.fonts import bold, font
from pemlo.gui.common.plain import as_tip
from pemlo.gui.table.lines import Group

R = TypeVar("R")
OPEN, FOLDED = "▾", "▸"


class GroupCells(Generic[R]):
    """The cells of groups; totals are worked out when they are painted, and kept until rows change."""

    def __init__(self, columns: Sequence[Column[R]], noun: str) -> None:
        self._columns, self._noun = tuple(columns), noun
        self._totals: dict[tuple[str, int], str] = {}

    def forget(self) -> None:
        """Work all totals out anew."""
        self._totals.clear()

    def data(self, group: Group[R], number: int, role: int) -> Any:  # noqa: ANN401, PLR0911 - Qt's shape
        if role in (Qt.ItemDataRole.DisplayRole, Qt.ItemDataRole.AccessibleTextRole):
            if number == 0:
                return f"{FOLDED if group.folded else OPEN} {group.name or 'none'} ({len(group.rows)})"
            return self._text(group, number)
        if role == Qt.ItemDataRole.EditRole:
            texts = {typed_text(self._columns[number], row) for row in group.rows}
            return texts.pop() if len(texts) == 1 else ""
        if role == Qt.ItemDataRole.FontRole:
            return bold() if number == 0 or self._columns[number].total is not None else font()
        if role == Qt.ItemDataRole.ForegroundRole:
            total = number == 0 or self._columns[number].total is not None
            return colours().ink if total else colours().second
        if role == Qt.ItemDataRole.BackgroundRole:
            return colours().window
        if role == Qt.ItemDataRole.ToolTipRole:
            whose = f"{group.name or 'Without a group'}: {counted(len(group.rows), self._noun)}"
            return as_tip(f"{whose}\nClick the triangle, or press Left and Right, to fold and unfold.")
        return None

    def _text(self, group: Group[R], number: int) -> str:
        """Return what a group says in a column: the total, or what all its rows have."""
        at = group.name, number
        if at not in self._totals:
            column = self._columns[number]
            if column.total is not None:
                self._totals[at] = column.total(group.rows)
            else:
                texts = {column.text(row) for row in group.rows}
                self._totals[at] = texts.pop() if len(texts) == 1 and column.edit is not None else ""
        return self._totals[at]
