"""Flicker along a sequence of picture files. Files; may take minutes."""

from collections.abc import Sequence
from pathlib import Path

from pemlo.core.images.picture_file import PictureFile, Reading
from pemlo.core.picture.display import F32, Display
from pemlo.core.picture.motion import Flicker, flicker
from pemlo.core.picture.source import at_size, read_whole
from pemlo.core.progress import Monitor, Unwatched


def flicker_along(
    paths: Sequence[Path], display: Display, reading: Reading | None = None, monitor: Monitor | None = None
) -> tuple[Flicker, ...]:
    """Return the flicker between each picture and the next: one less than there are pictures.

    Raises
    ------
    FileError
        If one cannot be read.
    Cancelled
        From the monitor.
    """
    watch = monitor or Unwatched()
    found: list[Flicker] = []
    before: F32 | None = None
    size = (0, 0)
    for number, path in enumerate(paths):
        watch.step(number / len(paths), f"Measuring flicker, {path.name}")
        with PictureFile(path, reading) as file:
            size = size if before is not None else file.size
            codes = display.codes(read_whole(at_size(file, size)).colour)
        if before is not None:
            found.append(flicker(before, codes))
        before = codes
    return tuple(found)
