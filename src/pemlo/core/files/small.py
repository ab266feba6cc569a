"""Small pictures of frames, to be looked at: scene-linear colour through the sRGB curve. NumPy and files."""

from pathlib import Path

import numpy as np
import numpy.typing as npt
import OpenImageIO as oiio  # noqa: N813 - its own short name

from pemlo.core.errors import FileError
from pemlo.core.files.picture_file import PictureFile
from pemlo.core.pixels.curve import CODES, to_display
from pemlo.core.pixels.source import at_size, read_whole

SMALL_WIDTH = 320
MOST_PIXELS = 2**27


def display_codes(colour: npt.NDArray[np.floating]) -> npt.NDArray[np.uint8]:
    """Return display codes of scene-linear colour."""
    return np.asarray(np.round(CODES * to_display(colour)), np.uint8)


def write_small(colour: npt.NDArray[np.floating], path: Path, width: int = SMALL_WIDTH) -> None:
    """Write a picture of at most `width` px as PNG or JPEG, by the path's ending.

    Raises
    ------
    FileError
        If it cannot be written.
    """
    small = _resized(oiio.ImageBuf(np.ascontiguousarray(colour, np.float32)), width)
    _write(oiio.ImageBuf(display_codes(np.asarray(small.get_pixels()))), path)


def write_small_of(picture: Path, path: Path, width: int = SMALL_WIDTH) -> None:
    """Write a small copy of a picture file.

    Raises
    ------
    FileError
        If the one cannot be read or the other not written.
    """
    _write(oiio.ImageBuf(read_for_display(picture, width)), path)


def read_for_display(picture: Path, width: int) -> npt.NDArray[np.uint8]:
    """Return display codes of a picture file's colour, (H, W, 3), at most `width` px wide.

    Raises
    ------
    FileError
        If it cannot be read.
    """
    with PictureFile(picture) as file:
        whole, height = file.size
        if whole * height > MOST_PIXELS:
            raise FileError(f"{picture.name} is {whole}×{height} px: it has no small copy.", "Bring in a smaller one.")
        size = (width, max(1, round(height * width / whole))) if whole > width else file.size
        return display_codes(read_whole(at_size(file, size)).colour)


def _resized(image: oiio.ImageBuf, width: int) -> oiio.ImageBuf:
    spec = image.spec()
    if spec.width <= width:
        return image
    height = max(1, round(spec.height * width / spec.width))
    return oiio.ImageBufAlgo.resize(image, roi=oiio.ROI(0, width, 0, height, 0, 1, 0, spec.nchannels))


def _write(image: oiio.ImageBuf, path: Path) -> None:
    if not image.write(str(path)):
        raise FileError(f"The picture cannot be written to {path}: {image.geterror()}")
