"""Runs compiled work on several threads: compiled functions let go of Python's lock, so plain threads will do."""

import itertools
from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor


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
