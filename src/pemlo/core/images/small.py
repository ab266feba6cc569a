"""Small pictures of frames, to be looked at: scene-linear colour through the sRGB curve. NumPy and files."""

from pathlib import Path

import numpy as np
import numpy.typing as npt
import OpenImageIO as oiio  # noqa: N813 - its own short name

from pemlo.core.errors import FileError
from pemlo.core.picture.curve import CODES, to_display

SMALL_WIDTH = 320


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
    """Return display codes of a picture file, (H, W, 3), at most `width` px wide.

    Values in floating point count as scene-linear, others as display codes.

    Raises
    ------
    FileError
        If it cannot be read.
    """
    image = oiio.ImageBuf(str(picture))
    if not image.read(0, 0, True, "float"):
        raise FileError(f"{picture.name} cannot be read: {image.geterror()}", "See that the file is whole.")
    # Picked in NumPy: the library's own choice of channels misreads half-float pixels that were read as float.
    whole = np.asarray(image.get_pixels(oiio.FLOAT))
    colour = oiio.ImageBuf(np.ascontiguousarray(whole[..., _colour_channels(tuple(image.spec().channelnames))]))
    linear = str(image.nativespec().format) in {"half", "float", "double"}
    pixels = np.asarray(_resized(colour, width).get_pixels())
    pixels = np.nan_to_num(pixels, nan=0.0, posinf=1.0, neginf=0.0)
    codes = display_codes(pixels) if linear else np.asarray(np.round(255 * np.clip(pixels, 0, 1)), np.uint8)
    return np.ascontiguousarray(codes)


def _colour_channels(names: tuple[str, ...]) -> tuple[int, int, int]:
    """Return which channels are red, green and blue: by name, else the first three, or one of grey thrice."""
    if {"R", "G", "B"} <= set(names):
        return names.index("R"), names.index("G"), names.index("B")
    return (0, 1, 2) if len(names) >= 3 else (0, 0, 0)


def _resized(image: oiio.ImageBuf, width: int) -> oiio.ImageBuf:
    spec = image.spec()
    if spec.width <= width:
        return image
    height = max(1, round(spec.height * width / spec.width))
    return oiio.ImageBufAlgo.resize(image, roi=oiio.ROI(0, width, 0, height, 0, 1, 0, spec.nchannels))


def _write(image: oiio.ImageBuf, path: Path) -> None:
    if not image.write(str(path)):
        raise FileError(f"The picture cannot be written to {path}: {image.geterror()}")
