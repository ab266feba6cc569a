"""A picture brought to a smaller size and back, and how much of its noise that keeps. Pure."""

from functools import lru_cache
from typing import Any

import numpy as np

from pemlo.core.pixels.resample import Taps, taps
from pemlo.core.pixels.source import Resized, Source, at_size


def smaller_size(size: tuple[int, int], percent: float) -> tuple[int, int]:
    """Return width and height at a percentage of each side, px."""
    return max(1, round(size[0] * percent / 100)), max(1, round(size[1] * percent / 100))


def there_and_back(source: Source, smaller: tuple[int, int], size: tuple[int, int]) -> Source:
    """Return a picture brought to a smaller size and back."""
    return Resized(Resized(at_size(source, size), smaller), size)


@lru_cache(maxsize=256)
def kept_of_noise(smaller: tuple[int, int], size: tuple[int, int]) -> float:
    """Return which share of the variance of independent pixels is in the difference of going there and back.

    Parameters
    ----------
    smaller, size : tuple of int
        Width and height, px.

    Examples
    --------
    >>> kept_of_noise((100, 100), (100, 100))
    0.0
    """
    if smaller[0] >= size[0]:
        return 0.0
    (own_x, all_x), (own_y, all_y) = (_one_way(a, b) for a, b in zip(smaller, size, strict=True))
    return 1.0 - 2.0 * own_x * own_y + all_x * all_y


def _one_way(smaller: int, size: int) -> tuple[float, float]:
    """Return how much of itself a line gets back, and the sum of squares of all it gets, on average."""
    both = _matrix(taps(smaller, size), smaller) @ _matrix(taps(size, smaller), size)
    return float(both.diagonal().sum()) / size, float(both.power(2).sum()) / size


def _matrix(lines: Taps, before: int) -> Any:  # noqa: ANN401 - a sparse matrix, whose type is loaded late
    from scipy import sparse  # noqa: PLC0415 - heavy to load

    count, each = lines.index.shape
    rows = np.repeat(np.arange(count), each)
    return sparse.csr_array((lines.weight.ravel(), (rows, lines.index.ravel())), shape=(count, before))
