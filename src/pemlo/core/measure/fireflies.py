"""Finds single pixels that outshine all around them: light that was met by too few paths. Compiled inside."""

from dataclasses import dataclass
from typing import Any

import numpy as np
import numpy.typing as npt

from pemlo.core.compiler import numba
from pemlo.core.pixels.luma import LUMA

F32 = npt.NDArray[np.float32]
TIMES = 3.0  # so much brighter than all of its neighbours but one (common practice, no source)
LEAST = 0.05  # and by so much, scene-linear: less does not show


@dataclass(frozen=True)
class Fireflies:
    """How many pixels outshine their neighbours, and which share of the picture's light they have too much."""

    count: int
    energy_share: float


def brightness(colour: F32) -> F32:
    """Return the luma of (H, W, 3) colour."""
    out = np.empty(colour.shape[:2], np.float32)
    _brightness(np.ascontiguousarray(colour, np.float32), np.array(LUMA, np.float32), out)
    return out


def excess(luma: F32) -> F32:
    """Return by how much each pixel of (H, W) brightness is too bright, 0 for most."""
    out = np.zeros_like(luma)
    if min(luma.shape) >= 3:
        _excess(np.ascontiguousarray(luma, np.float32), out)
    return out


@numba.njit(cache=True, nogil=True, fastmath=True)
def _brightness(colour: F32, weights: F32, out: F32) -> None:
    for y in range(out.shape[0]):
        for x in range(out.shape[1]):
            out[y, x] = weights[0] * colour[y, x, 0] + weights[1] * colour[y, x, 1] + weights[2] * colour[y, x, 2]


@numba.njit(cache=True, nogil=True)
def _excess(luma: F32, out: F32) -> None:
    for y in range(luma.shape[0]):
        for x in range(luma.shape[1]):
            here = luma[y, x]
            if here < LEAST or _has_company(luma, y, x):
                continue
            second = _second_brightest(luma, y, x)
            if here > TIMES * second and here - second > LEAST:
                out[y, x] = here - second


@numba.njit
def _has_company(luma: F32, y: int, x: int) -> Any:  # noqa: ANN401 - compiled
    """Whether two neighbours are bright enough; of most pixels those are found at once."""
    bright = 0
    for v in range(max(0, y - 1), min(luma.shape[0], y + 2)):
        for u in range(max(0, x - 1), min(luma.shape[1], x + 2)):
            if (v != y or u != x) and TIMES * luma[v, u] >= luma[y, x]:
                bright += 1
        if bright >= 2:
            return True
    return False


@numba.njit
def _second_brightest(luma: F32, y: int, x: int) -> Any:  # noqa: ANN401 - a number of 32 bits
    first = second = np.float32(0.0)
    for v in range(max(0, y - 1), min(luma.shape[0], y + 2)):
        for u in range(max(0, x - 1), min(luma.shape[1], x + 2)):
            there = luma[v, u]
            if v == y and u == x:
                continue
            if there > first:
                first, second = there, first
            elif there > second:
                second = there
    return second
