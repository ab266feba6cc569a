"""Where windows, splitters and columns stood when they were last seen. Lives on the GUI thread."""

import json
from typing import Any

from PySide6.QtCore import QByteArray, QSettings


class WindowMemory:
    """What is kept of windows in the user's own folder."""

    def __init__(self, store: QSettings) -> None:
        self._store = store

    def state(self, name: str) -> QByteArray | None:
        """Return the state of a window or splitter, None if it was never kept."""
        value = self._store.value(f"state/{name}")
        return value if isinstance(value, QByteArray) else None

    def keep_state(self, name: str, state: QByteArray) -> None:
        """Remember the state of a window or splitter."""
        self._store.setValue(f"state/{name}", state)

    def columns(self, table: str) -> dict[str, Any]:
        """Return how the columns of a table stood; empty if that was never kept."""
        return stored_fields(self._store.value(f"columns/{table}", "{}"))

    def keep_columns(self, table: str, columns: dict[str, Any]) -> None:
        """Remember how the columns of a table stand."""
        self._store.setValue(f"columns/{table}", json.dumps(columns))


def stored_fields(stored: object) -> dict[str, Any]:
    """Return the fields of a text of JSON; none where it is none, or was damaged."""
    try:
        found = json.loads(str(stored or "{}"))
    except (json.JSONDecodeError, RecursionError):
        return {}
    return found if isinstance(found, dict) else {}
