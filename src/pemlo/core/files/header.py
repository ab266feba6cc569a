"""Reads what a picture's header says, without its pixels. Files only."""

import stat
from dataclasses import dataclass
from itertools import islice
from pathlib import Path
from typing import Any

from pemlo.core.errors import FileError
from pemlo.core.units import MIB

OURS = "pemlo:"  # before the names of what our own renderer writes into a header
PICTURE_ENDINGS = (".exr", ".png", ".jpg", ".jpeg", ".tif", ".tiff")
# EXR, PNG, JPEG, TIFF of either order: the first bytes that their standards ask for.
_BEGINNINGS = (
    b"\x76\x2f\x31\x01",
    b"\x89PNG\r\n\x1a\n",
    b"\xff\xd8\xff",
    b"II*\x00",
    b"MM\x00*",
    b"II+\x00",
    b"MM\x00+",
)
MOST_ATTRIBUTES = 2000
MOST_PARTS = 64
HINT = "Bring in EXR, PNG, JPEG or TIFF."


@dataclass(frozen=True)
class Header:
    """What a picture says of itself: its file, size in px, channels, attributes as text by name, and MiB on disk."""

    path: Path
    width: int
    height: int
    channels: tuple[str, ...]
    attributes: dict[str, str]
    disk_mib: float | None = None


def is_picture(path: Path) -> bool:
    """Whether a file begins as pictures of a kind that is read here do: whatever its name says."""
    try:
        if not stat.S_ISREG(path.stat().st_mode):
            return False
        with path.open("rb") as file:
            return file.read(max(map(len, _BEGINNINGS))).startswith(_BEGINNINGS)
    except (OSError, ValueError):
        return False


def read_header(path: Path) -> Header:
    """Read a picture's header.

    Raises
    ------
    FileError
        If it cannot be read as a picture.
    """
    file = opened(path)
    try:
        return header_of(path, specs_of(file))
    finally:
        file.close()


def opened(path: Path) -> Any:  # noqa: ANN401 - the library's own kind of file, loaded late
    """Open a picture, whose header only is read by that.

    Raises
    ------
    FileError
        If it cannot be read as a picture.
    """
    import OpenImageIO as oiio  # noqa: N813, PLC0415 - loaded when the first picture comes

    if not path.is_file():
        raise FileError(f"There is no picture {path}.", "See that its name is right and that it was not moved.")
    try:
        file = oiio.ImageInput.open(str(path))
    except (RuntimeError, ValueError, MemoryError) as error:
        raise FileError(f"{path.name} cannot be read as a picture: it is damaged.", HINT) from error
    if file is None:
        raise FileError(f"{path.name} cannot be read as a picture: {last_words(oiio)}.", HINT)
    if file.spec().deep:  # the library reads past its end
        file.close()
        raise FileError(f"{path.name} is a deep picture: it has many depths a pixel.", f"Flatten it first. {HINT}")
    return file


def specs_of(file: Any) -> list[Any]:  # noqa: ANN401 - as above
    """Return what the library tells of each part of a picture that shows the same frame as the first."""
    first = file.spec()
    found = [first]
    while len(found) < MOST_PARTS and file.seek_subimage(len(found), 0):
        found.append(file.spec())
    last_words(file)  # taken away: they say that there are no more
    file.seek_subimage(0, 0)
    same = [spec for spec in found if window_of(spec) == window_of(first) and not spec.deep]
    return found if len(same) == len(found) else [first]


def window_of(spec: Any) -> tuple[int, int, int, int]:  # noqa: ANN401 - as above
    """Return where the frame lies of which a picture may hold a part, or more: left, top, width, height."""
    if spec.full_width < 1 or spec.full_height < 1:
        return spec.x, spec.y, spec.width, spec.height
    return spec.full_x, spec.full_y, spec.full_width, spec.full_height


def channels_of(specs: list[Any]) -> tuple[str, ...]:
    """Return the channels of all parts; a part's name stands before a channel that another part has too."""
    found: list[str] = []
    for spec in specs:
        part = str(spec.getattribute("oiio:subimagename") or spec.getattribute("name") or "")
        for name in spec.channelnames:
            found.append(f"{part or len(found)}.{name}" if name in found else name)
    return tuple(found)


def last_words(teller: Any) -> str:  # noqa: ANN401 - the library, or one of its files
    """Return the last line of what the library says went wrong, which may be quoted from a damaged file."""
    try:
        return str((teller.geterror().strip().splitlines() or ["the reason is not known"])[-1])
    except UnicodeDecodeError:
        return "it is damaged"


def header_of(path: Path, specs: list[Any]) -> Header:
    """Return a header from what the library tells of the parts of a picture.

    Raises
    ------
    FileError
        If its words are no text.
    """
    spec = specs[0]
    try:
        found = {
            attribute.name: _as_text(attribute.value)
            for attribute in islice(spec.extra_attribs, MOST_ATTRIBUTES)
            if isinstance(attribute.value, str | int | float)
        }
        _, _, width, height = window_of(spec)
        return Header(path, width, height, channels_of(specs), found, path.stat().st_size / MIB)
    except UnicodeDecodeError as error:
        raise FileError(f"The header of {path.name} is damaged: it holds what is no text.", HINT) from error
    except OSError as error:
        raise FileError(f"{path.name} cannot be read: {error.strerror}.", HINT) from error


def _as_text(value: str | float) -> str:
    """Return a value as it was written: of a number of 32 bits the fewest digits that lead back to it."""
    import numpy as np  # noqa: PLC0415 - heavy to load, and the window comes up without it

    if not isinstance(value, float) or not abs(value) < np.finfo(np.float32).max:
        return f"{value:.9g}" if isinstance(value, float) else str(value)
    short = float(str(np.float32(value)))
    return f"{short if np.float32(value) == value else value:.9g}"
