"""What was worked out, kept by what it was worked out from, up to a number of bytes."""

from collections.abc import Callable, Mapping
from dataclasses import fields, is_dataclass
from typing import Any, TypeVar

import cachetools
import numpy as np

from pemlo.core.project.record import Record

Key = tuple[object, ...]
V = TypeVar("V")


class Same:
    """Part of a key that is equal to itself only, and keeps alive what it stands for."""

    def __init__(self, what: object) -> None:
        self.what = what

    def __eq__(self, other: object) -> bool:
        return isinstance(other, Same) and self.what is other.what

    def __hash__(self) -> int:
        return id(self.what)


class WorkedOut:
    """Answers; what nobody asked for longest gives way."""

    def __init__(self, most_bytes: int) -> None:
        self._most = most_bytes
        self._kept: cachetools.LRUCache[Key, Any] = cachetools.LRUCache(most_bytes, bytes_of)

    def once(self, key: Key, make: Callable[[], V]) -> V:
        """Return what was worked out before from the same, or make it."""
        if key in self._kept:
            found: V = self._kept[key]
            return found
        made = make()
        if bytes_of(made) <= self._most:
            self._kept[key] = made
        return made

    def clear(self) -> None:
        """Forget everything."""
        self._kept.clear()


def bytes_of(value: object) -> int:
    """Return about how much memory something takes: that of its arrays, and a little for what is not one."""
    if isinstance(value, np.ndarray):
        return int(value.nbytes)
    if isinstance(value, tuple | list):
        # Of many records each takes as little as the first.
        return 64 + (64 * len(value) if value and isinstance(value[0], Record) else sum(map(bytes_of, value)))
    if isinstance(value, Mapping):
        return 64 + sum(map(bytes_of, value.values()))
    if is_dataclass(value):
        return 64 + sum(bytes_of(getattr(value, one.name)) for one in fields(value))
    return 64
