"""Reads pictures row by row, as scene-linear light: EXR with layers, PNG, TIFF, JPEG. Files only.

Values in floating point count as scene-linear, others as display codes under the sRGB curve, unless it is said
otherwise. A file may hold less of its frame than all of it, or more: what is missing is black, what is over is left
out. Parts of a file that show the same frame are layers of one picture.
Nothing is taken from memory before a header has been found sane.
"""

import threading
from dataclasses import dataclass
from pathlib import Path
from types import TracebackType
from typing import Any, Self

import numpy as np
import numpy.typing as npt

from pemlo.core.errors import FileError, InputError, Problem
from pemlo.core.files.header import HINT, Header, header_of, last_words, opened, specs_of, window_of
from pemlo.core.files.layers import COLOUR, Layer, layers_of, variance_of
from pemlo.core.files.memory import see_that_it_fits
from pemlo.core.pixels.curve import to_linear
from pemlo.core.pixels.source import F32, Rows, cleaned

LONGEST_SIDE = 65_536
MOST_PIXELS = 2**29
MOST_CHANNELS = 4096
FARTHEST = 2**24  # px, of what a file holds from its frame
LINEAR_FORMATS = {"half", "float", "double"}


@dataclass(frozen=True)
class ReadOptions:
    """How a file is to be read: which layer (“” for its colour), and whether it holds light; None to tell by format."""

    layer: str = COLOUR
    scene_linear: bool | None = None


@dataclass(frozen=True)
class _Part:
    """One part of a file: its number, what it holds of the frame, its channels among all, and rows of its tiles."""

    number: int
    left: int
    top: int
    width: int
    height: int
    begin: int
    end: int
    tile_rows: int


class PictureFile:
    """A picture file that gives its rows; a `Source`. May be asked by several threads, closes its file with `close`.

    Raises
    ------
    FileError
        If it cannot be read as a picture.
    InputError
        If it has no such layer.
    """

    def __init__(self, path: Path, reading: ReadOptions | None = None) -> None:
        self.path, self.reading = path, reading or ReadOptions()
        self._lock = threading.Lock()
        self._file = opened(path)
        try:
            specs = specs_of(self._file)
            spec = specs[0]
            left, top, *size = window_of(spec)
            self.size = size[0], size[1]
            for one in specs:
                self._check(one)
            self.header: Header = header_of(path, specs)
            self._parts: list[_Part] = []
            for number, one in enumerate(specs):
                begin = self._parts[-1].end if self._parts else 0
                tiles = one.tile_height if one.tile_width else 0
                held = one.x - left, one.y - top, one.width, one.height
                self._parts.append(_Part(number, *held, begin, begin + one.nchannels, tiles))
            self._origin = left, top
            self.layers = layers_of(self.header.channels)
            self._layer = self._wanted()
            formats = {str(one) for one in spec.channelformats} or {str(spec.format)}
            linear = self.reading.scene_linear
            self.scene_linear = bool(formats & LINEAR_FORMATS) if linear is None else linear
            self._variance = variance_of(self._layer, self.layers) if self.scene_linear else None
        except BaseException:
            self._file.close()
            raise

    def _check(self, spec: Any) -> None:  # noqa: ANN401 - the library's own
        for width, height in (self.size, (spec.width, spec.height)):
            if not (1 <= width <= LONGEST_SIDE and 1 <= height <= LONGEST_SIDE and width * height <= MOST_PIXELS):
                words = f"{self.path.name} says that it is {width}×{height} px"
                raise FileError(f"{words}: that is not read.", f"Sides may be 1 to {LONGEST_SIDE} px.")
        if max(abs(spec.x), abs(spec.y), abs(spec.full_x), abs(spec.full_y)) > FARTHEST:
            raise FileError(f"{self.path.name} says that it is far outside its frame: that is not read.", HINT)
        if spec.depth > 1 or not 1 <= spec.nchannels <= MOST_CHANNELS:
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
        own = self._layer.channels
        other = () if self._variance is None else self._variance.channels
        values = self._values((*own, *other), first, end)
        colour = np.ascontiguousarray(values[..., : len(own)])
        if not self.scene_linear:
            colour = np.asarray(to_linear(colour), np.float32)
        variance = np.ascontiguousarray(values[..., len(own) :]) if other else None
        return cleaned(colour, variance)

    def channels(self, numbers: tuple[int, ...], first: int = 0, end: int | None = None) -> F32:
        """Return raw values of some channels, (rows, W, len(numbers))."""
        return self._values(numbers, first, self.size[1] if end is None else end)

    def _values(self, numbers: tuple[int, ...], first: int, end: int) -> F32:
        count = (end - first) * self.size[0] * len(numbers)
        see_that_it_fits(self.path.name, self.size, 3 * 4 * count)  # as read, as picked, and as cleaned
        found = np.zeros((end - first, self.size[0], len(numbers)), np.float32)
        for part in self._parts:
            mine = [(place, number - part.begin) for place, number in enumerate(numbers)
                    if part.begin <= number < part.end]  # fmt: skip
            if mine:
                places, own = (list(column) for column in zip(*mine, strict=True))
                self._read(part, first, end, own, found, places)
        return found

    def _read(self, part: _Part, first: int, end: int, own: list[int], into: F32, places: list[int]) -> None:
        """Read some channels of a part where it and the wanted rows of the frame overlap."""
        top, bottom = max(first, part.top), min(end, part.top + part.height)
        left, right = max(0, part.left), min(self.size[0], part.left + part.width)
        if top >= bottom or left >= right:
            return
        low, high = min(own), max(own) + 1
        with self._lock:
            lines = self._lines(part, top - part.top, bottom - part.top, low, high)
            if lines is None:
                words = f"{self.path.name} is damaged: {last_words(self._file)}."
                raise FileError(words, "Render or export it again.")
        seen = np.asarray(lines, np.float32).reshape(bottom - top, part.width, high - low)
        inside = seen[:, left - part.left : right - part.left]
        for place, number in zip(places, own, strict=True):
            into[top - first : bottom - first, left:right, place] = inside[..., number - low]

    def _lines(self, part: _Part, first: int, end: int, low: int, high: int) -> npt.NDArray[np.float32] | None:
        """Return rows of a part as the library reads them, counted from its own first; None if it cannot."""
        left, top = (own + origin for own, origin in zip((part.left, part.top), self._origin, strict=True))
        try:
            if not part.tile_rows:
                found: npt.NDArray[np.float32] | None = self._file.read_scanlines(
                    part.number, 0, top + first, top + end, 0, low, high, "float"
                )
                return found
            step = part.tile_rows
            begin, stop = first // step * step, min(-(-end // step) * step, part.height)
            found = self._file.read_tiles(
                part.number, 0, left, left + part.width, top + begin, top + stop, 0, 1, low, high, "float"
            )
            return None if found is None else np.asarray(found).reshape(stop - begin, -1)[first - begin : end - begin]
        except (RuntimeError, ValueError, MemoryError):
            return None

    def close(self) -> None:
        with self._lock:
            self._file.close()
