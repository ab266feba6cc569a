"""Reads a whole picture to be looked at: its colour at a wished size, and other layers as they are asked for. Files."""

from dataclasses import dataclass
from pathlib import Path

import numpy as np

from pemlo.core.files.layers import COLOUR
from pemlo.core.files.memory import see_that_it_fits
from pemlo.core.files.picture_file import PictureFile, ReadOptions
from pemlo.core.pixels.box import Box
from pemlo.core.pixels.source import F32, ArraySource, at_size, read_whole
from pemlo.core.progress import Monitor, Unwatched

# Layers that hold light; the others are numbers of another kind, and are shown over their own range.
_OF_OTHER_KINDS = ("albedo", "normal", "depth", "variance", "samples", "z")
_ROWS = 256
SHOWN_BYTES = 30  # a pixel: its colour, what it is worked out from, and what is painted at three sizes


@dataclass(frozen=True)
class Loaded:
    """A picture in memory.

    Attributes
    ----------
    path : path
    own_size : tuple of int
        Width and height of the file, px.
    colour : (H, W, 3) float32
        Scene-linear if it is light, at the size that was wished.
    is_light : bool
        Whether the layer holds light.
    layers : tuple of str
        Of the file.
    bad : int
        Pixels that held no numbers.
    """

    path: Path
    own_size: tuple[int, int]
    colour: F32
    is_light: bool
    layers: tuple[str, ...]
    bad: int

    @property
    def size(self) -> tuple[int, int]:
        return self.colour.shape[1], self.colour.shape[0]


def load(
    path: Path, reading: ReadOptions, size: tuple[int, int] | None = None, monitor: Monitor | None = None
) -> Loaded:
    """Read a picture.

    Parameters
    ----------
    path : path
    reading : ReadOptions
        Which layer, and what it holds.
    size : tuple of int, optional
        Width and height to bring it to, px; its own unless given.

    Raises
    ------
    FileError
        If it cannot be read.
    InputError
        If it has no such layer.
    """
    watch = monitor or Unwatched()
    with PictureFile(path, reading) as file:
        width, height = file.size
        see_that_it_fits(path.name, file.size, SHOWN_BYTES * width * height)
        colour = np.empty((height, width, 3), np.float32)
        bad = 0
        for first in range(0, height, _ROWS):
            watch.step(first / height, f"Reading {path.name}")
            rows = file.rows(first, min(first + _ROWS, height))
            colour[first : first + _ROWS] = rows.colour
            bad += int(rows.bad.sum())
        names = tuple(layer.name for layer in file.layers)
        name = file.layer.name.lower()
    if size and tuple(size) != (width, height):
        colour = read_whole(at_size(ArraySource(colour), size)).colour
    is_light = name == COLOUR or not name.startswith(_OF_OTHER_KINDS)
    return Loaded(path, (width, height), colour, is_light, names, bad)


def size_of(path: Path) -> tuple[int, int]:
    """Return width and height of a picture, from its header alone."""
    with PictureFile(path) as file:
        return file.size


def load_part(path: Path, reading: ReadOptions, size: tuple[int, int], box: Box) -> F32:
    """Read a part of a picture's colour: `box` is left, top, right and bottom in px of the picture brought to `size`.

    Raises
    ------
    FileError
        If it cannot be read.
    """
    left, top, right, bottom = box
    with PictureFile(path, reading) as file:
        return np.ascontiguousarray(at_size(file, size).rows(top, bottom).colour[:, left:right])
