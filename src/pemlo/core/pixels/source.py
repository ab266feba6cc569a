"""Where pixels come from: a picture that gives its rows, so that one of any size can be measured in strips.

`ArraySource` holds one in memory; `pemlo.core.files` reads files; `Resized` is one of these at another size.
"""

from dataclasses import dataclass
from typing import Protocol

import numpy as np
import numpy.typing as npt

from pemlo.core.errors import InputError
from pemlo.core.pixels.resample import resampled, taps

F32 = npt.NDArray[np.float32]
LARGEST = 1e12  # no light is brighter, and its square is still a number


@dataclass(frozen=True)
class Rows:
    """Some rows of a picture of W px.

    Attributes
    ----------
    colour : (H, W, 3) float32
        Scene-linear. Values that were no numbers are 0 here.
    variance : (H, W, 3) float32, optional
        Of the mean of each pixel's colour, if the picture tells it.
    bad : (H, W) bool
        Pixels that held infinity, “not a number”, or what no light can be.
    """

    colour: F32
    variance: F32 | None
    bad: npt.NDArray[np.bool_]


class Source(Protocol):
    """A picture that gives its rows."""

    @property
    def size(self) -> tuple[int, int]:
        """Width and height, px."""

    @property
    def has_variance(self) -> bool:
        """Whether rows come with the variance of their colour."""

    def rows(self, first: int, end: int) -> Rows:
        """Return some rows."""


def cleaned(colour: F32, variance: F32 | None) -> Rows:
    """Return rows in which values that are no numbers are 0, and marked."""
    bad = _insane(colour, LARGEST)
    if variance is not None:
        bad |= _insane(variance, LARGEST**2)
    if bad.any():
        colour = np.where(bad[..., None], np.float32(0), colour)
        variance = None if variance is None else np.where(bad[..., None], np.float32(0), variance)
    return Rows(colour, variance, bad)


def _insane(values: F32, largest: float) -> npt.NDArray[np.bool_]:
    # Comparing with “not a number” is never true, and nearly every picture has none: that is found out fast.
    if not values.size or (values.max() <= largest and values.min() >= -largest):
        return np.zeros(values.shape[:2], bool)
    return np.asarray(~(np.abs(values) <= largest).all(axis=-1))


@dataclass(frozen=True)
class ArraySource:
    """A picture in memory: (H, W, 3) scene-linear colour, and the variance of its pixels' means if that is known."""

    colour: F32
    variance: F32 | None = None

    @property
    def size(self) -> tuple[int, int]:
        return self.colour.shape[1], self.colour.shape[0]

    @property
    def has_variance(self) -> bool:
        return self.variance is not None

    def rows(self, first: int, end: int) -> Rows:
        return cleaned(self.colour[first:end], None if self.variance is None else self.variance[first:end])


class Resized:
    """A picture at another size; its variance is that of independent pixels."""

    def __init__(self, source: Source, size: tuple[int, int]) -> None:
        self._source, self.size = source, size
        self._columns, self._rows = (taps(a, b) for a, b in zip(source.size, size, strict=True))
        self.has_variance = source.has_variance

    def rows(self, first: int, end: int) -> Rows:
        needed = self._rows.some(first, end)
        top, bottom = needed.needed
        read, local = self._source.rows(top, bottom), needed.shifted(top)
        colour = resampled(read.colour, local, self._columns)
        variance = None
        if read.variance is not None:
            variance = resampled(read.variance, local.squared(), self._columns.squared())
        bad = np.zeros(colour.shape[:2], bool)
        if read.bad.any():
            spread = resampled(read.bad[..., None].astype(np.float32), local.squared(), self._columns.squared())
            bad = spread[..., 0] > 0
        return Rows(colour, variance, bad)


def at_size(source: Source, size: tuple[int, int]) -> Source:
    """Return a picture at a size: itself if it has that already."""
    return source if tuple(source.size) == tuple(size) else Resized(source, size)


def read_whole(source: Source) -> Rows:
    """Return all rows of a picture."""
    return source.rows(0, source.size[1])


def check_same_size(sources: dict[str, Source | None]) -> None:
    """Refuse pictures that cannot be laid over each other.

    Raises
    ------
    InputError
        If their proportions differ by more than a pixel.
    """
    sizes = {name: source.size for name, source in sources.items() if source is not None}
    (first, (width, height)), *others = sizes.items()
    for name, (w, h) in others:
        if abs(width * h / height - w) > max(1.0, w / width):
            raise InputError(
                f"{name} has {w}×{h} px, {first} has {width}×{height}: they do not show the same frame.",
                "Compare pictures of the same frame; sizes may differ, proportions may not.",
            )


@dataclass(frozen=True)
class Cropped:
    """A part of a picture: left, top, right and bottom edge, px."""

    source: Source
    box: tuple[int, int, int, int]

    @property
    def size(self) -> tuple[int, int]:
        left, top, right, bottom = self.box
        return right - left, bottom - top

    @property
    def has_variance(self) -> bool:
        return self.source.has_variance

    def rows(self, first: int, end: int) -> Rows:
        left, top, right, _ = self.box
        read = self.source.rows(top + first, top + end)
        variance = None if read.variance is None else read.variance[:, left:right]
        return Rows(read.colour[:, left:right], variance, read.bad[:, left:right])
