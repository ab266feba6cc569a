"""Reads pictures row by row, as scene-linear light: EXR with layers, PNG, TIFF, JPEG. Files only.

Values in floating point count as scene-linear, others as display codes under the sRGB curve, unless it is said
otherwise.
Nothing is taken from memory before a header has been found sane.
"""

import threading
from dataclasses import dataclass
from pathlib import Path
from types import TracebackType
from typing import Self

import numpy as np
import numpy.typing as npt

from pemlo.core.errors import FileError, InputError, Problem
from pemlo.core.images.header import HINT, Header, header_of, last_words, opened
from pemlo.core.images.layers import COLOUR, Layer, layers_of, variance_of
from pemlo.core.picture.curve import to_linear
from pemlo.core.picture.source import F32, Rows, cleaned

LONGEST_SIDE = 65_536
MOST_PIXELS = 2**29
LINEAR_FORMATS = {"half", "float", "double"}


@dataclass(frozen=True)
class Reading:
    """How a file is to be read: which layer (“” for its colour), and whether it holds light; None to tell by format."""

    layer: str = COLOUR
    scene_linear: bool | None = None


class PictureFile:
    """A picture file that gives its rows; a `Source`. May be asked by several threads, closes its file with `close`.

    Raises
    ------
    FileError
        If it cannot be read as a picture.
    InputError
        If it has no such layer.
    """

    def __init__(self, path: Path, reading: Reading | None = None) -> None:
        self.path, self.reading = path, reading or Reading()
        self._lock = threading.Lock()
        self._file = opened(path)
        try:
            spec = self._file.spec()
            self.header: Header = header_of(path, spec)
            self.size = spec.width, spec.height
            self._check(spec.depth, spec.nchannels)
            self.layers = layers_of(self.header.channels)
            self._layer = self._wanted()
            formats = {str(one) for one in spec.channelformats} or {str(spec.format)}
            linear = self.reading.scene_linear
            self.scene_linear = bool(formats & LINEAR_FORMATS) if linear is None else linear
            self._variance = variance_of(self._layer, self.layers) if self.scene_linear else None
            self._tile_rows = spec.tile_height if spec.tile_width else 0
            self._left, self._top = spec.x, spec.y
        except BaseException:
            self._file.close()
            raise

    def _check(self, depth: int, channels: int) -> None:
        width, height = self.size
        if not (1 <= width <= LONGEST_SIDE and 1 <= height <= LONGEST_SIDE and width * height <= MOST_PIXELS):
            words = f"{self.path.name} says that it is {width}×{height} px"
            raise FileError(f"{words}: that is not read.", f"Sides may be 1 to {LONGEST_SIDE} px.")
        if depth > 1 or channels < 1:
            raise FileError(f"{self.path.name} is not a flat picture.", HINT)

    def _wanted(self) -> Layer:
        for layer in self.layers:
            if layer.name == self.reading.layer:
                return layer
        if self.reading.layer == COLOUR and self.layers:
            return self.layers[0]
        names = ", ".join(layer.name or "colour" for layer in self.layers[:12])
        raise InputError(
            [Problem(self.path.name, f"there is no layer “{self.reading.layer}”")], f"There are: {names or 'none'}."
        )

    def __enter__(self) -> Self:
        return self

    def __exit__(self, kind: type[BaseException] | None, error: BaseException | None, at: TracebackType | None) -> None:
        self.close()

    @property
    def has_variance(self) -> bool:
        return self._variance is not None

    @property
    def layer(self) -> Layer:
        return self._layer

    def rows(self, first: int, end: int) -> Rows:
        """Return some rows.

        Raises
        ------
        FileError
            If the file is damaged there.
        """
        wanted = self._layer.channels + (self._variance.channels if self._variance else ())
        values = self._read(first, end, min(wanted), max(wanted) + 1)
        colour = _picked(values, self._layer.channels, min(wanted))
        if not self.scene_linear:
            colour = np.asarray(to_linear(colour), np.float32)
        variance = None
        if self._variance:
            variance = _picked(values, self._variance.channels, min(wanted))
        return cleaned(colour, variance)

    def channels(self, numbers: tuple[int, ...], first: int = 0, end: int | None = None) -> F32:
        """Return raw values of some channels, (rows, W, len(numbers))."""
        values = self._read(first, self.size[1] if end is None else end, min(numbers), max(numbers) + 1)
        return _picked(values, numbers, min(numbers))

    def _read(self, first: int, end: int, low: int, high: int) -> F32:
        with self._lock:
            if self._tile_rows:
                found = self._read_tiles(first, end, low, high)
            else:
                top = self._top
                found = self._file.read_scanlines(0, 0, top + first, top + end, 0, low, high, "float")
            if found is None:
                words = f"{self.path.name} is damaged: {last_words(self._file)}."
                raise FileError(words, "Render or export it again.")
        return np.asarray(found, np.float32).reshape(end - first, self.size[0], high - low)

    def _read_tiles(self, first: int, end: int, low: int, high: int) -> npt.NDArray[np.float32] | None:
        step, left, top = self._tile_rows, self._left, self._top
        begin, stop = first // step * step, min(-(-end // step) * step, self.size[1])
        found = self._file.read_tiles(
            0, 0, left, left + self.size[0], top + begin, top + stop, 0, 1, low, high, "float"
        )
        return None if found is None else np.asarray(found).reshape(stop - begin, -1)[first - begin : end - begin]

    def close(self) -> None:
        with self._lock:
            self._file.close()


def _picked(values: F32, channels: tuple[int, ...], first: int) -> F32:
    """Return some channels of values that begin with channel `first`; without a copy if those are all, in order."""
    low = channels[0] - first
    if channels == tuple(range(channels[0], channels[0] + len(channels))):
        return np.ascontiguousarray(values[..., low : low + len(channels)])
    return np.ascontiguousarray(values[..., [number - first for number in channels]])
