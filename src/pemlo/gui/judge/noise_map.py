"""The noise map as a picture to be laid over another. GUI thread."""

import numpy as np
from PySide6.QtGui import QImage

from pemlo.core.picture.tiles import TileMap
from pemlo.gui.common.colours import DIM

_MOST = 190  # of 255: what is below must still be seen


def map_image(found: TileMap) -> QImage:
    """Return a picture with a pixel for each tile: the noisier, the denser."""
    level = np.sqrt(np.maximum(found.mean, 0.0))
    top = max(float(np.quantile(level, 0.99)), 1e-9)
    alpha = np.clip(level / top, 0, 1) * _MOST
    pixels = (alpha.astype(np.uint32) << 24) | (DIM.picture.rgb() & 0xFFFFFF)
    height, width = level.shape
    return QImage(np.ascontiguousarray(pixels, np.uint32).tobytes(), width, height, 4 * width,
                  QImage.Format.Format_ARGB32).copy()  # fmt: skip
