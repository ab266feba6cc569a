"""Where files that are named by others may be written: inside of their folder, whatever names and links say. Files."""

import os
from pathlib import Path

from pemlo.core.errors import FileError


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


def shown(name: str, most: int = 80) -> str:
    """Return the name of a file as it can be read: what no text is stands as a mark, and long ones are cut.

    Examples
    --------
    >>> shown("a" + chr(0xdcff) + ".exr")
    'a\ufffd.exr'
    """
    text = name.encode("utf-8", "surrogateescape").decode("utf-8", "replace")
    return text if len(text) <= most else f"{text[: most - 20]}…{text[-19:]}"
