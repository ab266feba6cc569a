"""Reads what a picture's header says, without its pixels. Files only."""

from dataclasses import dataclass
from itertools import islice
from pathlib import Path

from pemlo.core.errors import FileError

PICTURE_ENDINGS = (".exr", ".png", ".jpg", ".jpeg", ".tif", ".tiff")
MOST_ATTRIBUTES = 2000


@dataclass(frozen=True)
class Header:
    """What a picture says of itself: its file, size in px, channels, and attributes by name, as text."""

    path: Path
    width: int
    height: int
    channels: tuple[str, ...]
    attributes: dict[str, str]


def read_header(path: Path) -> Header:
    """Read a picture's header.

    Raises
    ------
    FileError
        If it cannot be read as a picture.
    """
    import OpenImageIO as oiio  # noqa: PLC0415, N813 - loaded when the first picture comes

    file = oiio.ImageInput.open(str(path))
    if file is None:
        why = (oiio.geterror().strip().splitlines() or ["the reason is not known"])[-1]
        raise FileError(f"{path.name} cannot be read as a picture: {why}.", "Bring in EXR, PNG, JPEG or TIFF.")
    try:
        spec = file.spec()
        found = {
            attribute.name: _as_text(attribute.value)
            for attribute in islice(spec.extra_attribs, MOST_ATTRIBUTES)
            if isinstance(attribute.value, str | int | float)
        }
        return Header(path, spec.width, spec.height, tuple(spec.channelnames), found)
    finally:
        file.close()


def _as_text(value: str | float) -> str:
    return f"{value:.9g}" if isinstance(value, float) else str(value)
