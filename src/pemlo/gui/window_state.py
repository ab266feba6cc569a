"""Where splitters and columns stood when the window was closed last. GUI thread."""

from collections.abc import Iterable

from PySide6.QtWidgets import QSplitter

from pemlo.app.preferences import Preferences
from pemlo.gui.table.column_state import columns_of, set_columns
from pemlo.gui.table.view import TableView


def restore(preferences: Preferences, splitters: Iterable[QSplitter], tables: Iterable[TableView]) -> None:
    """Bring splitters and columns back to where they stood."""
    for splitter in splitters:
        state = preferences.state(splitter.objectName())
        if state is not None:
            splitter.restoreState(state)
    for table in tables:
        set_columns(table, preferences.columns(table.objectName()))


def keep(preferences: Preferences, splitters: Iterable[QSplitter], tables: Iterable[TableView]) -> None:
    """Remember where splitters stand, and columns that hands moved."""
    for splitter in splitters:
        preferences.keep_state(splitter.objectName(), splitter.saveState())
    for table in tables:
        preferences.keep_columns(table.objectName(), columns_of(table))
