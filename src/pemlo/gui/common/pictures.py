"""Small pictures for tables, read once from their files. GUI thread."""

from functools import lru_cache
from pathlib import Path

from PySide6.QtCore import Qt
from PySide6.QtGui import QPixmap

CELL_HEIGHT = 22


def small_picture(file: str) -> QPixmap | None:
    """Return the picture of a file at the height of a cell, None if there is none that can be read."""
    try:
        written = Path(file).stat().st_mtime_ns if file else 0
    except OSError:
        return None
    return _read(file, written) if file else None


@lru_cache(maxsize=512)
def _read(file: str, written: int) -> QPixmap | None:  # noqa: ARG001 - a file that changes is read again
    picture = QPixmap(file)
    if picture.isNull():
        return None
    return picture.scaledToHeight(CELL_HEIGHT, Qt.TransformationMode.SmoothTransformation)
