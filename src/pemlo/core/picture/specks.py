"""Finds single pixels that outshine all around them: light that was met by too few paths. Compiled inside."""

from dataclasses import dataclass

import numba
import numpy as np
import numpy.typing as npt

F32 = npt.NDArray[np.float32]
TIMES = 3.0  # so much brighter than all of its neighbours but one (common practice, no source)
LEAST = 0.05  # and by so much, scene-linear: less does not show


@dataclass(frozen=True)
class Specks:
    """How many pixels outshine their neighbours, and which share of the picture's light they have too much."""

    count: int
    energy_share: float


def excess(luma: F32) -> F32:
    """Return by how much each pixel of (H, W) brightness is too bright, 0 for most."""
    out = np.zeros_like(luma)
    if min(luma.shape) >= 3:
        _excess(np.ascontiguousarray(luma, np.float32), out)
    return out


@numba.njit(cache=True, nogil=True)
def _excess(luma: F32, out: F32) -> None:
    height, width = luma.shape
    for y in range(height):
        for x in range(width):
            here = luma[y, x]
            if here < LEAST:
                continue
            first = second = np.float32(0.0)
            for v in range(max(0, y - 1), min(height, y + 2)):
                for u in range(max(0, x - 1), min(width, x + 2)):
                    if v == y and u == x:
                        continue
                    there = luma[v, u]
                    if there > first:
                        first, second = there, first
                    elif there > second:
                        second = there
            if here > TIMES * second and here - second > LEAST:
                out[y, x] = here - second
