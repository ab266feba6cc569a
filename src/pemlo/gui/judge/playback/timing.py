"""Which frame is due when a sequence plays, and how many were not shown. Qt-free."""

from dataclasses import dataclass
from typing import Literal

Way = Literal["once", "loop", "to and fro"]
WAYS: tuple[Way, ...] = ("loop", "to and fro", "once")


def frame_due(first: int, last: int, start: int, passed: int, way: Way) -> int | None:
    """Return the frame that is due when so many frame times have passed since `start`; None when it is over.

    Examples
    --------
    >>> [frame_due(1, 4, 1, n, "to and fro") for n in range(8)]
    [1, 2, 3, 4, 3, 2, 1, 2]
    >>> [frame_due(1, 3, 2, n, "loop") for n in range(4)], frame_due(1, 3, 2, 2, "once")
    ([2, 3, 1, 2], None)
    """
    count = last - first + 1
    place = start - first + passed
    if way == "once":
        return first + place if place < count else None
    if way == "loop" or count == 1:
        return first + place % count
    place %= 2 * (count - 1)
    return first + min(place, 2 * (count - 1) - place)


@dataclass
class Tally:
    """How playing went: frames that were due, and those that could not be shown in time."""

    due: int = 0
    dropped: int = 0
    _last: int = -1

    def tick(self, passed: int, *, shown: bool) -> bool:
        """Count up to a frame time, and return whether it is a new one."""
        if passed == self._last:
            return False
        new = passed - self._last
        self.due += new
        self.dropped += new - 1 + (not shown)
        self._last = passed
        return True

    def words(self, fps: float) -> str:
        """Return how it went."""
        return f"{fps:g} fps, {self.dropped} of {self.due} not shown in time" if self.due else f"{fps:g} fps"


def read_order(first: int, last: int, now: int) -> list[int]:
    """Return the frames of a range in the order in which they should be read: from now on, then the rest."""
    return [*range(max(now, first), last + 1), *range(first, min(max(now, first), last + 1))]
