"""Small pictures for tables, read from their files. Called on another thread than the GUI's."""

from dataclasses import dataclass, field
from pathlib import Path

from PySide6.QtCore import Qt
from PySide6.QtGui import QImage

CELL_HEIGHT = 22


@dataclass(frozen=True)
class SmallPicture:
    """A picture at the height of a cell, and of which state of which file it is."""

    file: Path
    written: int
    image: QImage = field(compare=False)


def small_picture(file: Path | None, before: SmallPicture | None) -> SmallPicture | None:
    """Return the picture of a file at the height of a cell, None if there is none that can be read.

    What was read before is returned again unless the file was written anew.
    """
    if file is None:
        return None
    try:
        written = file.stat().st_mtime_ns
    except OSError:
        return None
    if before is not None and (before.file, before.written) == (file, written):
        return before
    image = QImage(str(file))
    if image.isNull():
        return None
    return SmallPicture(file, written, image.scaledToHeight(CELL_HEIGHT, Qt.TransformationMode.SmoothTransformation))
