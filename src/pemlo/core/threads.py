"""Runs work on several threads: compiled functions and large arrays let go of Python's lock, so plain ones will do."""

import itertools
from collections import deque
from collections.abc import Callable, Iterable, Iterator, Sequence
from concurrent.futures import Future, ThreadPoolExecutor
from typing import TypeVar

FEW = 40

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


def side_by_side(items: Sequence[T], work: Callable[[T], R]) -> list[R]:
    """Return ``work(item)`` of each item; of many two are worked on at once, for few threads take longer to begin."""
    return [work(item) for item in items] if len(items) < FEW else [made for _, made in in_order(items, work)]


def in_order(items: Iterable[T], work: Callable[[T], R], threads: int = 2) -> Iterator[tuple[T, R]]:
    """Yield each item with ``work(item)``, in their order; some are worked on at once, and one more waits.

    Whoever stops asking waits for those that are under way, and for no others.
    """
    with ThreadPoolExecutor(threads) as pool:
        coming: deque[tuple[T, Future[R]]] = deque()
        try:
            for item in items:
                coming.append((item, pool.submit(work, item)))
                if len(coming) > threads:
                    first, future = coming.popleft()
                    yield first, future.result()
            for first, future in coming:
                yield first, future.result()
        finally:
            for _, future in coming:
                future.cancel()
