"""How far a command is, on the terminal."""

import sys
import time
from types import TracebackType
from typing import Self

from pemlo.core.foreign import shown
from pemlo.core.units import format_duration

_EVERY_S = 0.2
_FIRST = 0.01  # done: before that nobody knows how long it takes
_CLEAR = "\r\x1b[K"


class ProgressBar:
    """Progress with time left, on standard error where that is a terminal; it is gone when the work has ended."""

    def __init__(self) -> None:
        # The terminal itself: the bar gives it orders, which what commands write may not.
        self._terminal = sys.__stderr__ if sys.stderr.isatty() else None
        self._start = time.monotonic()
        self._last = 0.0

    def step(self, fraction: float, text: str) -> None:
        now = time.monotonic()
        if self._terminal is None or now - self._last < _EVERY_S:
            return
        self._last = now
        left = (now - self._start) * (1 - fraction) / fraction if fraction > _FIRST else None
        words = f", about {format_duration(left)} left" if left is not None else ""
        print(f"{_CLEAR}{shown(text)} {100 * fraction:.0f} %{words}", end="", file=self._terminal, flush=True)

    def __enter__(self) -> Self:
        return self

    def __exit__(
        self, kind: type[BaseException] | None, error: BaseException | None, trace: TracebackType | None
    ) -> None:
        if self._terminal is not None:
            print(_CLEAR, end="", file=self._terminal, flush=True)
