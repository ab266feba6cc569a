"""How long work tells of itself and is stopped. Runs in whatever thread the work runs in."""

from typing import Protocol


class Cancelled(Exception):  # noqa: N818 - it is a request that was met, not an error
    """The work was asked to stop, and has."""


class Monitor(Protocol):
    """Hears of progress; raises `Cancelled` from `step` when the work should stop."""

    def step(self, fraction: float, text: str) -> None:
        """Say that `fraction` (0 to 1) is done, and what comes now."""


class Unwatched:
    """A monitor for callers that neither watch nor stop the work."""

    def step(self, fraction: float, text: str) -> None:
        """Let the work go on."""


class PartOfWork:
    """A monitor of a part of the work: what it hears is told to that of the whole."""

    def __init__(self, whole: Monitor, begin: float, end: float) -> None:
        self._whole, self._begin, self._end = whole, begin, end

    def step(self, fraction: float, text: str) -> None:
        """Say that so much of this part is done."""
        self._whole.step(self._begin + fraction * (self._end - self._begin), text)
