"""Where files that are named by others may be written: inside of their folder, whatever names and links say. Files."""

import os
from pathlib import Path

from pemlo.core.errors import FileError
from pemlo.core.foreign import shown


def inside(folder: Path, name: str) -> Path:
    """Return the path of a file to be written into a folder.

    Parameters
    ----------
    folder : path
    name : str
        From there on; links on the way are followed.

    Raises
    ------
    FileError
        If it leads out of the folder.
    """
    top, path = os.path.realpath(folder), folder / name
    real = os.path.realpath(path)
    if os.path.commonpath((top, real)) != top or real == top:
        raise FileError(
            f"{shown(name)} leads out of the folder {folder.name or folder}.",
            "Nothing was written there; use names without “..” and links that stay inside.",
            "outside",
        )
    return path
