"""Where splitters and columns stood when the window was closed last. GUI thread."""

from collections.abc import Iterable

from PySide6.QtWidgets import QSplitter

from pemlo.app.preferences import Preferences
from pemlo.gui.common.table_view import TableView


def restore(preferences: Preferences, splitters: Iterable[QSplitter], tables: Iterable[TableView]) -> None:
    """Bring splitters and columns back to where they stood."""
    for splitter in splitters:
        state = preferences.state(splitter.objectName())
        if state is not None:
            splitter.restoreState(state)
    for table in tables:
        state = preferences.state(f"columns of {table.objectName()}")
        if state is not None:
            table.horizontalHeader().restoreState(state)
            table.columns_by_hand = True


def keep(preferences: Preferences, splitters: Iterable[QSplitter], tables: Iterable[TableView]) -> None:
    """Remember where splitters stand, and columns that hands moved."""
    for splitter in splitters:
        preferences.keep_state(splitter.objectName(), splitter.saveState())
    for table in tables:
        if table.columns_by_hand:
            preferences.keep_state(f"columns of {table.objectName()}", table.horizontalHeader().saveState())
