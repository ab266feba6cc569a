"""Means over small square tiles of a picture, and what is read off them: the whole, the worst, intervals. Pure."""

from dataclasses import dataclass
from functools import lru_cache

import numpy as np
import numpy.typing as npt
from skimage.measure import block_reduce

from pemlo.core.arrays import Floats
from pemlo.core.pixels.box import Box

_RESAMPLES = 400
_SEED = 20310424


def tile_side(width: int) -> int:
    """Return the side of the tiles of a picture so wide, px: a sixtieth of the width, at least 8 and even."""
    return max(8, 4 * round(width / 240))


def tile_sums(values: npt.NDArray[np.floating], side: int) -> Floats:
    """Return the sums over tiles, those at the edges cut off, of (H, W) values, or of (H, W, C) averaged over C."""
    block = (side, side) if values.ndim == 2 else (side, side, values.shape[2])
    sums = block_reduce(values, block, np.sum, func_kwargs={"dtype": np.float64})
    return np.asarray(sums if values.ndim == 2 else sums[..., 0] / values.shape[2])


@dataclass(frozen=True)
class TileMap:
    """Means of one quantity over tiles.

    Attributes
    ----------
    mean : (R, C) ndarray
        0 where a tile has no pixel that counts.
    count : (R, C) ndarray
        Pixels that count.
    side : int
        Of a tile, px.
    size : tuple of int
        Of the picture, px.
    """

    mean: Floats
    count: Floats
    side: int
    size: tuple[int, int]

    def whole(self) -> float:
        """Return the mean over the picture."""
        return float((self.mean * self.count).sum() / max(self.count.sum(), 1.0))

    def quantile(self, share: float) -> float:
        """Return the quantile over tiles; those cut off by half or more at an edge do not count."""
        full = self.count >= 0.5 * self.side**2
        return float(np.quantile(self.mean[full if full.any() else self.count > 0], share)) if self.count.any() else 0.0

    def box(self, row: int, column: int) -> Box:
        """Return left, top, right and bottom of a tile, px."""
        left, top = column * self.side, row * self.side
        return left, top, min(left + self.side, self.size[0]), min(top + self.side, self.size[1])

    def spots(self, count: int, apart: int = 2) -> tuple[Box, ...]:
        """Return the tiles with the largest means, largest first, no two of them within `apart` tiles."""
        left = np.where(self.count >= 0.5 * self.side**2, self.mean, -1.0)
        if not (left >= 0).any():
            left = np.where(self.count > 0, self.mean, -1.0)
        boxes: list[Box] = []
        while len(boxes) < count and left.max() > 0:
            row, column = np.unravel_index(int(left.argmax()), left.shape)
            boxes.append(self.box(int(row), int(column)))
            left[max(0, row - apart) : row + apart + 1, max(0, column - apart) : column + apart + 1] = -1.0
        return tuple(boxes)


def interval(squares: Floats, counts: Floats) -> tuple[float, float]:
    """Return the 90 % interval of a mean over tiles, by drawing tiles with replacement.

    Parameters
    ----------
    squares : (K,) ndarray
        Mean of each tile; may be below 0.
    counts : (K,) ndarray
        Pixels of each.

    References
    ----------
    .. [1] B. Efron, "Bootstrap methods: another look at the jackknife", Annals of Statistics 7, 1979.
    """
    if len(squares) < 2:
        return -np.inf, np.inf
    drawn = _drawn_tiles(len(squares))
    means = drawn @ (squares * counts) / np.maximum(drawn @ counts, 1.0)
    low, high = np.quantile(means, [0.05, 0.95])
    return float(low), float(high)


@lru_cache(maxsize=4)  # the pictures of a frame have as many tiles each
def _drawn_tiles(count: int) -> Floats:
    """Return how often each tile is drawn in each resample, (_RESAMPLES, count)."""
    drawn = np.random.default_rng(_SEED).multinomial(count, np.full(count, 1 / count), _RESAMPLES)
    return drawn.astype(np.float64)
