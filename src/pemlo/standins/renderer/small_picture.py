"""Small pictures of frames, to be looked at: scene-linear colour through the sRGB curve. NumPy and files."""

from pathlib import Path

import numpy as np
import numpy.typing as npt
import OpenImageIO as oiio

from pemlo.core.errors import FileError

SMALL_WIDTH = 320


def display_codes(colour: npt.NDArray[np.floating]) -> npt.NDArray[np.uint8]:
    """Return display codes of scene-linear colour.

    References
    ----------
    .. [1] IEC 61966-2-1 (sRGB).
    """
    clipped = np.clip(colour, 0.0, 1.0)
    curve = np.where(clipped <= 0.0031308, 12.92 * clipped, 1.055 * np.maximum(clipped, 0.0031308) ** (1 / 2.4) - 0.055)
    return np.asarray(np.round(255 * curve), np.uint8)


def write_small(colour: npt.NDArray[np.floating], path: Path, width: int = SMALL_WIDTH) -> None:
    """Write a picture of at most `width` px as PNG or JPEG, by the path's ending.

    Raises
    ------
    FileError
        If it cannot be written.
    """
    image = oiio.ImageBuf(np.ascontiguousarray(colour, np.float32))
    if colour.shape[1] > width:
        height = max(1, round(colour.shape[0] * width / colour.shape[1]))
        image = oiio.ImageBufAlgo.resize(image, roi=oiio.ROI(0, width, 0, height, 0, 1, 0, 3))
    small = oiio.ImageBuf(display_codes(np.asarray(image.get_pixels())))
    if not small.write(str(path)):
        raise FileError(f"The picture cannot be written to {path}: {small.geterror()}")
