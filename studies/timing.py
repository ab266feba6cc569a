"""How long something takes, for benchmarks."""

import time
from collections.abc import Callable


def least_seconds(act: Callable[[], object], times: int = 3) -> float:
    """Return the least seconds of some runs."""
    found = []
    for _ in range(times):
        began = time.perf_counter()
        act()
        found.append(time.perf_counter() - began)
    return min(found)
