"""Turns light into what a screen shows: a picture, one channel of it, or the difference of two. Compiled inside.

Pixels come as 32 bits each, 0xffRRGGBB, the form in which windows paint fastest.
"""

from typing import Literal

import numpy as np
import numpy.typing as npt

from pemlo.core.compiler import numba
from pemlo.core.pixels.curve import CODES
from pemlo.core.pixels.display import F32, Display
from pemlo.core.pixels.luma import LUMA

Pixels = npt.NDArray[np.uint32]
Part = Literal["colour", "red", "green", "blue", "brightness"]
PARTS: tuple[Part, ...] = ("colour", "red", "green", "blue", "brightness")
_ALONE = {"red": 0, "green": 1, "blue": 2}
_ENOUGH = 100_000  # pixels to tell a range by
_ROWS = 256  # at a time, so that what is worked on stays near


def shown(colour: F32, display: Display, part: Part = "colour") -> Pixels:
    """Return the pixels of (H, W, 3) scene-linear colour, or of one part of it as grey."""
    out = np.empty(colour.shape[:2], np.uint32)
    for first in range(0, len(colour), _ROWS):
        rows = colour[first : first + _ROWS]
        wanted = rows if part == "colour" else _grey(rows, part)
        _pack(display.codes(wanted), out[first : first + _ROWS])
    return out


def _grey(colour: F32, part: Part) -> F32:
    grey = colour @ np.array(LUMA, np.float32) if part == "brightness" else colour[..., _ALONE[part]]
    return np.repeat(grey[..., None], 3, axis=-1).astype(np.float32)


def shown_data(values: F32) -> Pixels:
    """Return the pixels of (H, W, 3) values that are no light, such as depth or normals: grey over their own range.

    Normals, which go below zero, keep their colours: −1 is black, 1 is white.
    """
    finite = np.where(np.isfinite(values), values, 0.0).astype(np.float32)
    scaled: npt.NDArray[np.floating]
    if finite.min(initial=0.0) < 0:
        scaled = (finite + 1) / 2
    else:
        # The farthest hundredth, such as a sky, must not leave the rest in the dark.
        step = max(1, int((finite.shape[0] * finite.shape[1] / _ENOUGH) ** 0.5))
        top = max(float(np.quantile(finite[::step, ::step], 0.99)) if finite.size else 0.0, 1e-9)
        scaled = finite / top
    out = np.empty(values.shape[:2], np.uint32)
    _pack(np.asarray(CODES * np.clip(scaled, 0, 1), np.float32), out)
    return out


def difference(one: F32, other: F32, display: Display, times: float, *, signed: bool) -> Pixels:
    """Return the pixels of the difference of two pictures in display codes, `times` amplified.

    Signed, equal is middle grey and brighter is lighter; else equal is black.
    """
    out = np.empty(one.shape[:2], np.uint32)
    for first in range(0, len(one), _ROWS):
        step = display.codes(one[first : first + _ROWS]) - display.codes(other[first : first + _ROWS])
        step *= np.float32(times)
        codes = step + np.float32(CODES / 2) if signed else np.abs(step)
        _pack(np.ascontiguousarray(codes), out[first : first + _ROWS])
    return out


def reduced(pixels: Pixels) -> Pixels:
    """Return the pixels at half the size: means of two by two."""
    height, width = (max(length // 2, 1) for length in pixels.shape)
    out = np.empty((height, width), np.uint32)
    _halve(np.ascontiguousarray(pixels), out)
    return out


@numba.njit(cache=True, nogil=True)
def _pack(codes: F32, out: Pixels) -> None:
    height, width, _ = codes.shape
    for y in range(height):
        for x in range(width):
            packed = np.uint32(0xFF)
            for c in range(3):
                code = min(max(codes[y, x, c], np.float32(0.0)), np.float32(255.0))
                packed = (packed << np.uint32(8)) | np.uint32(code + np.float32(0.5))
            out[y, x] = packed


@numba.njit(cache=True, nogil=True)
def _halve(pixels: Pixels, out: Pixels) -> None:
    height, width = out.shape
    last_y, last_x = pixels.shape[0] - 1, pixels.shape[1] - 1
    for y in range(height):
        for x in range(width):
            red = green = blue = np.uint32(0)
            for dy in range(2):
                for dx in range(2):
                    pixel = pixels[min(2 * y + dy, last_y), min(2 * x + dx, last_x)]
                    red += (pixel >> np.uint32(16)) & np.uint32(0xFF)
                    green += (pixel >> np.uint32(8)) & np.uint32(0xFF)
                    blue += pixel & np.uint32(0xFF)
            out[y, x] = (
                np.uint32(0xFF000000)
                | (((red + np.uint32(2)) >> np.uint32(2)) << np.uint32(16))
                | (((green + np.uint32(2)) >> np.uint32(2)) << np.uint32(8))
                | ((blue + np.uint32(2)) >> np.uint32(2))
            )
