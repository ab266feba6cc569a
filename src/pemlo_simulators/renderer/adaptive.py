"""Adaptive sampling: which pixels need more samples. Pure NumPy and scipy.

The scale of the threshold is this renderer's own: the standard error of a pixel's brightness divided by the square root
of that brightness (plus a little, so that black has a scale too). It lies between an absolute and a relative error, as
the eye does. Brightness is scene-linear, weighed by ITU-R BT.709.
"""

import numpy as np
import numpy.typing as npt

from pemlo.core.arrays import Floats
from pemlo.core.pixels.luma import DARK, LUMA
from pemlo_simulators.renderer.film import Sums

_NEIGHBOURHOOD = 5


def single_sample_noise(film: Sums) -> Floats:
    """Return the noise that one sample of each pixel has, in the threshold's scale.

    Errors of red, green and blue are taken to go together, as they do when a path is lit or not.

    Returns
    -------
    (H, W) ndarray
        Standard deviation of one sample over the square root of the pixel's brightness, smoothed over a small
        neighbourhood: a pixel that has met nothing bright yet looks clean when it is not.
    """
    from scipy.ndimage import uniform_filter  # noqa: PLC0415 - heavy to load, and fixed sampling goes without

    n = np.maximum(film.taken, 1)[..., None]
    mean = film.light[..., :3] / n
    spread = np.sqrt(np.maximum(film.light[..., 3:] / n - mean**2, 0.0) * n / np.maximum(n - 1, 1))
    brightness, noise = mean @ np.array(LUMA), spread @ np.array(LUMA)
    square = uniform_filter(noise**2 / (np.maximum(brightness, 0.0) + DARK), _NEIGHBOURHOOD, mode="nearest")
    return np.asarray(np.sqrt(np.maximum(square, 0.0)))


def next_samples(
    film: Sums, threshold: float, least: int, most: int, step: int
) -> tuple[npt.NDArray[np.int64], npt.NDArray[np.int32]]:
    """Return the pixels that are not clean yet, and how many samples each should have after the next pass.

    Parameters
    ----------
    film : Sums
    threshold : float
    least, most : int
        Bounds of the samples of a pixel.
    step : int
        Most samples that a pixel gets before it is looked at again.

    Returns
    -------
    pixels : (K,) ndarray of int
        Places in the film, row by row.
    samples : (K,) ndarray of int
    """
    count = film.taken
    if count.min() < least:
        wanted = np.where(count < least, np.minimum(count + step, least), count)
    else:
        needed = (single_sample_noise(film) / threshold) ** 2
        wanted = np.where(count < needed, np.minimum(count + step, most), count)
    pixels = np.flatnonzero(wanted > count)
    return pixels, wanted.ravel()[pixels].astype(np.int32)
