"""What can be laid over a picture: where it is noisy, and where its noise comes from. GUI thread."""

import itertools
from collections.abc import Callable, Iterator
from typing import TYPE_CHECKING

import numpy as np
from PySide6.QtCore import QRectF, Qt
from PySide6.QtGui import QBrush, QColor, QImage, QPainter

from pemlo.core.measure.tiles import TileMap
from pemlo.core.pixels.box import Box
from pemlo.gui.common.colours import DIM, ON_PICTURE, UNDER_PICTURE

if TYPE_CHECKING:
    from pemlo.core.appraisal.noise_sources import SourceMap

# Paints with a painter, given where a box of the picture lies on the widget.
Overlay = Callable[[QPainter, Callable[[Box], QRectF]], None]
NO_MAP, NOISE_MAP, SOURCE_MAP = "no map", "noise map", "noise sources"
MAPS = (NO_MAP, NOISE_MAP, SOURCE_MAP)
# Strokes differ by source, so that nobody depends on colours.
STROKES = {
    "shadow": Qt.BrushStyle.BDiagPattern,
    "gloss": Qt.BrushStyle.HorPattern,
    "through": Qt.BrushStyle.DiagCrossPattern,
}
_MOST = 190  # of 255: what is below must still be seen
_STROKE, _UNDER_STROKE = QColor(ON_PICTURE), QColor(UNDER_PICTURE)
_STROKE.setAlpha(150)
_UNDER_STROKE.setAlpha(110)


def noise_overlay(tile_map: TileMap) -> Overlay:
    """Return a cover of tiles: the noisier, the denser."""
    image = map_image(tile_map)

    def paint(painter: QPainter, where: Callable[[Box], QRectF]) -> None:
        painter.drawImage(where((0, 0, *tile_map.size)), image)

    return paint


def map_image(tile_map: TileMap) -> QImage:
    """Return a picture with a pixel for each tile: the noisier, the denser."""
    level = np.sqrt(np.maximum(tile_map.mean, 0.0))
    top = max(float(np.quantile(level, 0.99)), 1e-9)
    alpha = np.clip(level / top, 0, 1) * _MOST
    pixels = (alpha.astype(np.uint32) << 24) | (DIM.picture.rgb() & 0xFFFFFF)
    height, width = level.shape
    return QImage(np.ascontiguousarray(pixels, np.uint32).tobytes(), width, height, 4 * width,
                  QImage.Format.Format_ARGB32).copy()  # fmt: skip


def source_overlay(source_map: "SourceMap") -> Overlay:
    """Return strokes over every tile, by the source that its noise comes from most; none where it is no source."""
    runs = list(_runs(source_map))

    def paint(painter: QPainter, where: Callable[[Box], QRectF]) -> None:
        for name, box in runs:
            paint_strokes(painter, where(box), name)

    return paint


def paint_strokes(painter: QPainter, rect: QRectF, source: str) -> None:
    """Paint the strokes of a source; they can be seen on dark and on light."""
    style = STROKES.get(source)
    if style is not None:
        for colour, off in ((_UNDER_STROKE, 1), (_STROKE, 0)):
            painter.setBrushOrigin(off, off)
            painter.fillRect(rect, QBrush(colour, style))
        painter.setBrushOrigin(0, 0)


def _runs(source_map: "SourceMap") -> Iterator[tuple[str, Box]]:
    """Yield tiles that are side by side and alike as one box, in px."""
    side = source_map.side
    for row, line in enumerate(source_map.most):
        edges = [0, *(np.flatnonzero(np.diff(line)) + 1), len(line)]
        for first, end in itertools.pairwise(edges):
            right, bottom = min(int(end) * side, source_map.size[0]), min((row + 1) * side, source_map.size[1])
            yield source_map.names[line[first]], (int(first) * side, row * side, right, bottom)
