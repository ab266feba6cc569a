"""Runs work on several threads: compiled functions and large arrays let go of Python's lock, so plain ones will do."""

import itertools
from collections.abc import Callable, Iterable, Iterator
from concurrent.futures import Future, ThreadPoolExecutor
from typing import TypeVar

T = TypeVar("T")
R = TypeVar("R")


def run_in_parts(threads: int, count: int, work: Callable[[int, int], None]) -> None:
    """Call ``work(first, end)`` until 0 to `count` is covered, on some threads at once.

    Four parts a thread, so that one that has an easy part does not wait long for one that has not.
    """
    parts = 4 * threads if threads > 1 else 1
    edges = [count * k // parts for k in range(parts + 1)]
    spans = [(a, b) for a, b in itertools.pairwise(edges) if b > a]
    if threads == 1:
        for first, end in spans:
            work(first, end)
        return
    with ThreadPoolExecutor(threads) as pool:
        for done in [pool.submit(work, first, end) for first, end in spans]:
            done.result()


def one_ahead(items: Iterable[T], work: Callable[[T], R]) -> Iterator[tuple[T, R]]:
    """Yield each item with ``work(item)``, which is done on another thread while the item before is in use."""
    with ThreadPoolExecutor(1) as pool:
        before: tuple[T, Future[R]] | None = None
        for item in items:
            coming = item, pool.submit(work, item)
            if before is not None:
                yield before[0], before[1].result()
            before = coming
        if before is not None:
            yield before[0], before[1].result()
