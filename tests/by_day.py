"""How much is tried by day, and how much by `./dev test --all`."""

import os

ALL = os.environ.get("PEMLO_ALL_TESTS") == "1"


def cases(count):
    """Return so many random cases; by day a fifth of them."""
    return count if ALL else max(count // 5, 4)
