"""What forecasts of one fit remember of each other: only what changed is worked out anew. Loads nothing heavy."""

from collections.abc import Callable
from dataclasses import dataclass, field
from typing import TYPE_CHECKING, Any, TypeVar

if TYPE_CHECKING:
    from pemlo.core.arrays import Ints

T = TypeVar("T")


@dataclass
class Remembered:
    """Numbers of shots, each with what they were made from, and which draws are run for a preview.

    The draws stay: with them, the runs of a film that somebody changes step by step differ in nothing but the change.
    """

    kept: dict[tuple[str, ...], tuple[object, Any]] = field(default_factory=dict)
    which: "Ints | None" = None

    def once(self, name: tuple[str, ...], of: object, make: Callable[[], T]) -> T:
        """Return what is kept under a name if it was made from the same, or make it."""
        entry = self.kept.get(name)
        if entry is None or entry[0] != of:
            entry = self.kept[name] = of, make()
        found: T = entry[1]
        return found
