"""Noise of one picture alone, from its finest wavelets. Texture counts as noise, so it is an upper bound."""

import numpy as np
import numpy.typing as npt

from pemlo.core.arrays import Floats

# The median of the size of a normal number.
_MEDIAN = 0.6744897501960817
# The square of the median of N such sizes is too large by 1 + 2/N (found by trial).
_FEW = 2.0
HALO = 4  # rows beyond a strip by which its wavelets are those of the whole picture


def tile_variances(values: npt.NDArray[np.floating], side: int) -> Floats:
    """Return the variance of noise in each tile of (H, W) values, (R, C).

    The size of the diagonal wavelets that half of a tile's are below, over that of a normal number. Pixels must vary
    on their own: noise that was smoothed is estimated too small.

    References
    ----------
    .. [1] D. Donoho, I. Johnstone, "Ideal spatial adaptation by wavelet shrinkage", Biometrika 81, 1994.
    """
    import pywt  # noqa: PLC0415 - loaded when a single picture is measured

    finest = pywt.dwt2(np.asarray(values), "db2", mode="reflect")[1][2]
    rows, columns = (-(-length // side) for length in values.shape)
    half = side // 2
    # Wavelets of two pixels each; the transform adds one line in front.
    size = np.abs(finest[1 : 1 + values.shape[0] // 2, 1 : 1 + values.shape[1] // 2])
    out = np.zeros((rows, columns))
    for row in range(rows):
        band = size[row * half : (row + 1) * half]
        if not len(band):
            out[row] = out[row - 1]
            continue
        wide = band.shape[1] // half
        if wide:
            tiles = band[:, : wide * half].reshape(len(band), wide, half).transpose(1, 0, 2).reshape(wide, -1)
            out[row, :wide] = (np.median(tiles, axis=1) / _MEDIAN) ** 2 / (1 + _FEW / tiles.shape[1])
        if wide < columns:
            rest = band[:, wide * half :]
            few = (np.median(rest) / _MEDIAN) ** 2 / (1 + _FEW / rest.size) if rest.size else out[row, max(wide - 1, 0)]
            out[row, wide:] = few
    return out
