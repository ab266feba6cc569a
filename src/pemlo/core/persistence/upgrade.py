"""From older files to today's: one pure step from each version to the next, never changed once released."""

from collections.abc import Callable
from typing import Any

Step = Callable[[dict[str, Any]], dict[str, Any]]

# STEPS[n] brings a file of version n + 1 to version n + 2.
STEPS: tuple[Step, ...] = ()
VERSION = len(STEPS) + 1


def upgraded(data: dict[str, Any], version: int) -> dict[str, Any]:
    """Bring the data of an older file to today's version."""
    for step in STEPS[version - 1 :]:
        data = step(data)
    return data
