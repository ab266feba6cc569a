"""How noise is spread over a frame, measured on a picture: what a noise threshold will spend follows from it. Pure.

A pixel that shows bright and dark samples needs many of them, one that always sees the same needs few. The scale is
that of an eye between absolute and relative: standard deviation of the brightness of one sample, over the square root
of the pixel's mean brightness. A renderer with another scale differs by a factor, which the fit finds from what was
spent.
"""

from dataclasses import dataclass
from functools import cached_property, lru_cache

import numpy as np

from pemlo.core.arrays import Floats
from pemlo.core.pixels.luma import DARK, LUMA

TILE = 4
QUANTILES = 32
FARTHEST = 50.0  # log noise: no picture is darker or brighter
NEAR = 0.1  # shapes of frames so far apart, in shares of the shot, count for each other by a third
FEW = 16.0  # a shape seen by so many samples counts half: fewer miss what shines rarely


@dataclass(frozen=True)
class NoiseShape:
    """The shape of one picture: (QUANTILES,) log noise over its median, and by how many samples each share was seen."""

    shape: Floats
    samples: Floats
    median: float

    @cached_property
    def median_samples(self) -> float:
        return float(np.median(self.samples))


@lru_cache(maxsize=4096)  # each trial of a film is asked for a few times in each fit
def noise_shape_of(quantiles: tuple[float, ...], threshold: float | None, least: float, most: float) -> NoiseShape:
    """Return a measured shape, and how many samples each share of the picture had taken.

    With a threshold, noisy places have more: a renderer that stops when they are clean gave each what it needed.

    Parameters
    ----------
    quantiles : tuple of float
        As `noise_shape` returns them, or from elsewhere with another number of quantiles; not empty.
    threshold : float, optional
        Of the picture's sampling; None for `most` everywhere.
    least, most : float
        Samples per pixel.
    """
    shares = (np.arange(QUANTILES) + 0.5) / QUANTILES
    sane = np.clip(quantiles, -FARTHEST, FARTHEST)
    logs = np.interp(shares, (np.arange(len(quantiles)) + 0.5) / len(quantiles), sane)
    samples = np.full(QUANTILES, most)
    if threshold is not None:
        samples = np.exp(np.clip(2 * (logs - np.log(threshold)), np.log(least), np.log(most)))
    median = float(np.median(logs))
    return NoiseShape(logs - median, samples, median)


@dataclass(frozen=True)
class ShotShapes:
    """Shapes of S pictures of a shot.

    Attributes
    ----------
    place : (S,) ndarray
        Where in the shot, 0 to 1.
    shape : (S, 2, QUANTILES) ndarray
        Of equal shares of the frame: log of the noise over the median share's; and one over the samples by which it was
        measured, minus the median share's. The fewer samples measured a share, the more of its noise they missed.
    weight : (S,) ndarray
        How much each counts.
    """

    place: Floats
    shape: Floats
    weight: Floats

    def at(self, place: float | None = None) -> Floats:
        """Return the shape at a place in the shot, or over all of it; (2, QUANTILES)."""
        if place is None:
            return np.asarray(np.average(self.shape, axis=0, weights=self.weight))
        away = np.abs(self.place - place)
        # Against the nearest one: far outside the shot all of them would count nothing.
        near = np.exp((away.min() - away) / NEAR)
        return np.asarray(np.average(self.shape, axis=0, weights=self.weight * near))


def shot_shapes(pictures: list[NoiseShape], place: Floats) -> ShotShapes | None:
    """Put the shapes of S pictures together, each at its place, (S,), in the shot; None if there are none."""
    if not pictures:
        return None
    few = [1 / picture.samples - 1 / picture.median_samples for picture in pictures]
    samples = np.array([picture.median_samples for picture in pictures])
    shape = np.stack([[picture.shape for picture in pictures], few], axis=1)
    return ShotShapes(place, shape, samples / (samples + FEW))


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
    from pemlo.core.measure.tiles import tile_sums  # noqa: PLC0415 - an estimate reads no pictures

    return np.asarray((tile_sums(values, side) / tile_sums(np.ones(values.shape), side)).ravel())
