"""How far a command is, on the terminal."""

import sys
import time
from types import TracebackType
from typing import Self

from pemlo.core.units import format_duration

_EVERY_S = 0.2
_FIRST = 0.01  # done: before that nobody knows how long it takes
_CLEAR = "\r\x1b[K"


class ProgressBar:
    """Progress with time left, on standard error where that is a terminal; it is gone when the work has ended."""

    def __init__(self) -> None:
        self._shown = sys.stderr.isatty()
        self._start = time.monotonic()
        self._last = 0.0

    def step(self, fraction: float, text: str) -> None:
        now = time.monotonic()
        if not self._shown or now - self._last < _EVERY_S:
            return
        self._last = now
        left = (now - self._start) * (1 - fraction) / fraction if fraction > _FIRST else None
        words = f", about {format_duration(left)} left" if left is not None else ""
        print(f"{_CLEAR}{text} {100 * fraction:.0f} %{words}", end="", file=sys.stderr, flush=True)

    def __enter__(self) -> Self:
        return self

    def __exit__(
        self, kind: type[BaseException] | None, error: BaseException | None, trace: TracebackType | None
    ) -> None:
        if self._shown:
            print(_CLEAR, end="", file=sys.stderr, flush=True)
