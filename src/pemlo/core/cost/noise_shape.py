"""How noise is spread over a frame, measured on a picture: what a noise threshold will spend follows from it. Pure.

A pixel that shows bright and dark samples needs many of them, one that always sees the same needs few. The scale is
that of an eye between absolute and relative: standard deviation of the brightness of one sample, over the square root
of the pixel's mean brightness. A renderer with another scale differs by a factor, which the fit finds from what was
spent.
"""

import numpy as np

from pemlo.core.arrays import Floats

LUMA = (0.2126, 0.7152, 0.0722)  # ITU-R BT.709
DARK = 0.01  # so that black has a scale too
TILE = 4
QUANTILES = 32


def noise_shape(colour: Floats, variance: Floats, samples: Floats, tile: int = TILE) -> tuple[float, ...]:
    """Return what one sample's noise is over a frame, as quantiles of it.

    Squares are averaged over small tiles first: of few samples, a pixel that has met nothing bright yet looks clean
    when it is not.

    Parameters
    ----------
    colour : (H, W, 3) ndarray
        Scene-linear, before denoising.
    variance : (H, W, 3) ndarray
        Of the mean of each pixel.
    samples : (H, W) ndarray
        Taken of each pixel.
    tile : int
        Side of the tiles, px.

    Returns
    -------
    tuple of QUANTILES floats
        Natural logarithms, rising: the noise of equal shares of the frame. Empty if the picture has no noise at all.
    """
    luma = np.array(LUMA)
    brightness = np.maximum(colour @ luma, 0.0) + DARK
    # Errors of red, green and blue go together: a path is lit or it is not.
    spread = np.sqrt(np.maximum(variance, 0.0)) @ luma
    square = _tiles(spread**2 * np.maximum(samples, 1) / brightness, tile)
    if not square.max() > 0:
        return ()
    floor = float(square[square > 0].min())
    logs = 0.5 * np.log(np.maximum(square, floor))
    shares = (np.arange(QUANTILES) + 0.5) / QUANTILES
    return tuple(float(f"{value:.4f}") for value in np.quantile(logs, shares))


def _tiles(values: Floats, side: int) -> Floats:
    """Return the means of square tiles, those at the edges cut off; (K,)."""
    height, width = values.shape
    rows = np.add.reduceat(values, np.arange(0, height, side), axis=0)
    sums = np.add.reduceat(rows, np.arange(0, width, side), axis=1)
    count = np.outer(_lengths(height, side), _lengths(width, side))
    return np.asarray((sums / count).ravel())


def _lengths(length: int, side: int) -> Floats:
    edges = np.append(np.arange(0, length, side), length)
    return np.diff(edges).astype(float)
