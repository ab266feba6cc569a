"""Reads what a picture's header says, without its pixels. Files only."""

from dataclasses import dataclass
from itertools import islice
from pathlib import Path
from typing import Any

from pemlo.core.errors import FileError
from pemlo.core.units import MIB

PICTURE_ENDINGS = (".exr", ".png", ".jpg", ".jpeg", ".tif", ".tiff")
MOST_ATTRIBUTES = 2000
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


def read_header(path: Path) -> Header:
    """Read a picture's header.

    Raises
    ------
    FileError
        If it cannot be read as a picture.
    """
    file = opened(path)
    try:
        return header_of(path, file.spec())
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
    file = oiio.ImageInput.open(str(path))
    if file is None:
        raise FileError(f"{path.name} cannot be read as a picture: {last_words(oiio)}.", HINT)
    return file


def last_words(teller: Any) -> str:  # noqa: ANN401 - the library, or one of its files
    """Return the last line of what the library says went wrong, which may be quoted from a damaged file."""
    try:
        return str((teller.geterror().strip().splitlines() or ["the reason is not known"])[-1])
    except UnicodeDecodeError:
        return "it is damaged"


def header_of(path: Path, spec: Any) -> Header:  # noqa: ANN401 - as above
    """Return a header from what the library tells of it.

    Raises
    ------
    FileError
        If its words are no text.
    """
    try:
        found = {
            attribute.name: _as_text(attribute.value)
            for attribute in islice(spec.extra_attribs, MOST_ATTRIBUTES)
            if isinstance(attribute.value, str | int | float)
        }
        return Header(path, spec.width, spec.height, tuple(spec.channelnames), found, path.stat().st_size / MIB)
    except UnicodeDecodeError as error:
        raise FileError(f"The header of {path.name} is damaged: it holds what is no text.", HINT) from error


def _as_text(value: str | float) -> str:
    return f"{value:.9g}" if isinstance(value, float) else str(value)
