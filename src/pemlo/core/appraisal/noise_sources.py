"""Reads from a picture where its noise comes from: layers of light from lights, off a gloss, and through glass."""

from collections.abc import Sequence
from dataclasses import dataclass
from pathlib import Path

import numpy as np
import numpy.typing as npt

from pemlo.core.files.header import OURS
from pemlo.core.files.layers import variance_of
from pemlo.core.files.picture_file import PictureFile, ReadOptions
from pemlo.core.measure.noise_sources import NoiseSource
from pemlo.core.measure.tiles import tile_side, tile_sums
from pemlo.core.pixels.box import Box
from pemlo.core.pixels.display import F32, Display
from pemlo.core.pixels.luma import LUMA
from pemlo.core.pixels.source import read_whole

SOURCES = ("shadow", "gloss", "through")
_STEP = np.float32(0.004)  # of light, over which the slope of the display's curve is taken


REST = "rest"


@dataclass(frozen=True)
class SourceMap:
    """Which source adds most to the noise of each tile.

    Attributes
    ----------
    names : tuple of str
        The sources, and `REST`.
    most : (R, C) ndarray of int
        Place among the names.
    share : (R, C) ndarray
        Of the tile's variance, 0 to 1.
    side : int
        Of a tile, px.
    size : tuple of int
        Of the picture, px.
    """

    names: tuple[str, ...]
    most: npt.NDArray[np.intp]
    share: npt.NDArray[np.floating]
    side: int
    size: tuple[int, int]

    def at(self, x: int, y: int) -> tuple[str, float]:
        """Return the source that dominates at a pixel, and its share."""
        tile = y // self.side, x // self.side
        return self.names[self.most[tile]], float(self.share[tile])


@dataclass(frozen=True)
class Sources:
    """What was found: variance from no source, and each source's, codes² of a display; and where which is most."""

    rest: float
    sources: dict[str, NoiseSource]
    map: SourceMap


def sources_of(
    path: Path,
    display: Display,
    second: Path | None = None,
    region: Box | None = None,
    reading: ReadOptions | None = None,
) -> Sources | None:
    """Return where the noise of a picture comes from.

    Parameters
    ----------
    path : path
        With layers named as in `SOURCES`, and for each the variance of its mean brightness (``variance.gloss``).
    display : Display
    second : path, optional
        The same with another seed, which stands in where variances are missing.
    region : tuple of int, optional
        Only a part: left, top, right, bottom, px of this picture.
    reading : ReadOptions, optional
        How the pictures are read.

    Returns
    -------
    Sources or None
        None if the picture does not tell its light apart.

    Raises
    ------
    FileError
        If a picture cannot be read.
    """
    with PictureFile(path, reading) as picture:
        layers = {layer.name: layer for layer in picture.layers if layer.name in SOURCES}
        variances = {name: variance_of(layer, picture.layers) for name, layer in layers.items()}
        if not layers or (second is None and not (all(variances.values()) and picture.has_variance)):
            return None
        inside = (slice(None), slice(None)) if region is None else _slices(region)
        rows = read_whole(picture)
        luma = np.array(LUMA, np.float32)
        bright = (rows.colour @ luma)[inside]
        # Noise counts by what it makes of codes: much in the dark, nothing where white is clipped.
        weight = _slope(bright, display) ** 2
        parts = {name: (picture.channels(layer.channels) @ luma)[inside] for name, layer in layers.items()}
        noise: dict[str, npt.NDArray[np.floating]] = {}
        whole: npt.NDArray[np.floating] = np.zeros_like(bright)
        if second is not None:
            with PictureFile(second, reading) as other:
                noise, whole = _half_differences(other, bright, parts, inside)
        elif rows.variance is not None:
            noise = {
                name: picture.channels(layer.channels[:1])[..., 0][inside]
                for name, layer in variances.items()
                if layer is not None
            }
            whole = ((np.sqrt(np.maximum(rows.variance, 0)) @ luma) ** 2)[inside]
        return _found(noise, whole, weight, parts, _rays(picture.header.attributes.get(f"{OURS}split", "")))


def _half_differences(
    other: PictureFile, bright: F32, parts: dict[str, F32], inside: tuple[slice, slice]
) -> tuple[dict[str, npt.NDArray[np.floating]], npt.NDArray[np.floating]]:
    """Return the variance of each part and of the whole, from the same picture with another seed."""
    luma = np.array(LUMA, np.float32)
    there = {layer.name: layer for layer in other.layers}
    noise: dict[str, npt.NDArray[np.floating]] = {
        name: (part - (other.channels(there[name].channels) @ luma)[inside]) ** 2 / 2
        for name, part in parts.items()
        if name in there
    }
    return noise, (bright - (read_whole(other).colour @ luma)[inside]) ** 2 / 2


def _found(noise: dict[str, F32], whole: F32, weight: F32, parts: dict[str, F32], rays: Sequence[int]) -> Sources:
    def mean(values: npt.NDArray[np.floating]) -> float:
        return float(np.mean(values * weight, dtype=np.float64))

    noise = {name: variance for name, variance in noise.items() if parts[name].any()}
    found = {
        name: NoiseSource(mean(variance), float(np.mean(parts[name] > 0)), rays[SOURCES.index(name)])
        for name, variance in noise.items()
    }
    rest = max(mean(whole) - sum(noise_source.variance for noise_source in found.values()), 0.0)
    return Sources(rest, found, _map({name: one * weight for name, one in noise.items()}, whole * weight))


def _map(noise: dict[str, npt.NDArray[np.floating]], whole: npt.NDArray[np.floating]) -> SourceMap:
    height, width = whole.shape
    side = tile_side(width)
    each = [tile_sums(variance, side) for variance in noise.values()]
    known = np.sum(each, axis=0) if each else 0.0
    stack = np.stack([*each, np.maximum(tile_sums(whole, side) - known, 0.0)])
    most = stack.argmax(axis=0)
    share = np.take_along_axis(stack, most[None], axis=0)[0] / np.maximum(stack.sum(axis=0), 1e-30)
    return SourceMap((*noise, REST), most, share, side, (width, height))


def _slope(bright: F32, display: Display) -> F32:
    grey = np.repeat(bright[..., None], 3, axis=-1).astype(np.float32)
    return np.asarray((display.codes(grey + _STEP) - display.codes(grey))[..., 1] / _STEP)


def _rays(split: str) -> tuple[int, int, int]:
    """Return rays a sample by source, from a header like ``2,1,1``; 1 each where it says nothing."""
    try:
        shadow, gloss, through = (int(part) for part in split.split(","))
    except ValueError:
        return 1, 1, 1
    return shadow, gloss, through


def _slices(region: Box) -> tuple[slice, slice]:
    left, top, right, bottom = region
    return slice(top, bottom), slice(left, right)
