"""Where splitters and columns stood when the window was closed last. GUI thread."""

from collections.abc import Iterable

from PySide6.QtWidgets import QSplitter

from pemlo.app.window_memory import WindowMemory
from pemlo.gui.table.column_state import columns_of, set_columns
from pemlo.gui.table.view import TableView


def restore(memory: WindowMemory, splitters: Iterable[QSplitter], tables: Iterable[TableView]) -> None:
    """Bring splitters and columns back to where they stood."""
    for splitter in splitters:
        state = memory.state(splitter.objectName())
        if state is not None:
            splitter.restoreState(state)
    for table in tables:
        set_columns(table, memory.columns(table.objectName()))


def keep(memory: WindowMemory, splitters: Iterable[QSplitter], tables: Iterable[TableView]) -> None:
    """Remember where splitters stand, and columns that hands moved."""
    for splitter in splitters:
        memory.keep_state(splitter.objectName(), splitter.saveState())
    for table in tables:
        memory.keep_columns(table.objectName(), columns_of(table))
