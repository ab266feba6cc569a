"""Background work: the only place with threads. Lives on the GUI thread; work runs in a pool.

For each key the newest request wins: what was running under it is asked to stop, and its result is dropped. Progress
reaches the window at most twenty times a second. Every error leaves as a report.
"""

import time
from collections.abc import Callable
from dataclasses import dataclass
from typing import Any

from PySide6.QtCore import QObject, QRunnable, QThreadPool, Signal

from pemlo.core.errors import PemloError
from pemlo.core.progress import Cancelled, Monitor

Work = Callable[[Monitor], Any]
PROGRESS_S = 0.05
LEAST_SEEN = 0.02


@dataclass(frozen=True)
class Progress:
    """How far the work under a key is: 0 to 1, in words, and seconds left if that can be told."""

    key: str
    fraction: float
    text: str
    seconds_left: float | None


class _Watch:
    """The monitor of one piece of work; called on its thread."""

    def __init__(self, key: str, tell: Callable[[Progress], None]) -> None:
        self._key, self._tell = key, tell
        self._told = time.monotonic()
        self._began: tuple[float, float] | None = None
        self.stopped = False

    def step(self, fraction: float, text: str) -> None:
        if self.stopped:
            raise Cancelled
        now = time.monotonic()
        if self._began is None and fraction > 0:
            self._began = now, fraction  # what comes before is a start that takes its own time
        if now - self._told >= PROGRESS_S:
            self._told = now
            left = None
            if self._began is not None and fraction - self._began[1] > LEAST_SEEN:
                left = (now - self._began[0]) * (1 - fraction) / (fraction - self._began[1])
            self._tell(Progress(self._key, fraction, text, left))


class _Task(QRunnable):
    def __init__(self, jobs: "Jobs", key: str, number: int, work: Work, watch: _Watch) -> None:
        super().__init__()
        self._jobs, self._key, self._number, self._work, self.watch = jobs, key, number, work, watch

    def run(self) -> None:
        try:
            result = self._work(self.watch)
        except Cancelled:
            self._jobs.ended.emit(self._key, self._number, None, None)
        except Exception as error:  # noqa: BLE001 - every error of a job leaves as a report
            self._jobs.ended.emit(self._key, self._number, None, error)
        else:
            self._jobs.ended.emit(self._key, self._number, result, None)


@dataclass
class _Running:
    number: int
    watch: _Watch
    on_done: Callable[[Any], None]
    text: str


class Jobs(QObject):
    """Runs work in the background.

    Signals
    -------
    progressed(Progress)
    busy_changed()
        What is running has changed; see `running`.
    failed(str, Exception)
        The work under a key failed: expected trouble or a bug.
    cancelled(str)
        The work under a key was asked to stop.
    """

    ended = Signal(str, int, object, object)
    progressed = Signal(object)
    busy_changed = Signal()
    failed = Signal(str, object)
    cancelled = Signal(str)

    def __init__(self) -> None:
        super().__init__()
        self._pool = QThreadPool(self)
        self._pool.setMaxThreadCount(3)
        self._running: dict[str, _Running] = {}
        self._count = 0
        self.ended.connect(self._on_ended)

    @property
    def running(self) -> dict[str, str]:
        """Keys of the work that is running, and what it is called."""
        return {key: one.text for key, one in self._running.items()}

    def submit(self, key: str, text: str, work: Work, on_done: Callable[[Any], None]) -> None:
        """Run `work` in the background, and `on_done` with its result on the GUI thread unless it is overtaken."""
        self.cancel(key)
        self._count += 1
        watch = _Watch(key, self.progressed.emit)
        self._running[key] = _Running(self._count, watch, on_done, text)
        self._pool.start(_Task(self, key, self._count, work, watch))
        self.busy_changed.emit()

    def cancel(self, key: str) -> None:
        """Ask the work under a key to stop, and forget it."""
        running = self._running.pop(key, None)
        if running is not None:
            running.watch.stopped = True
            self.busy_changed.emit()
            self.cancelled.emit(key)

    def shut_down(self) -> None:
        """Stop all work and wait for it."""
        for key in list(self._running):
            self.cancel(key)
        self._pool.clear()
        self._pool.waitForDone()

    def _on_ended(self, key: str, number: int, result: object, error: Exception | None) -> None:
        running = self._running.get(key)
        if running is None or running.number != number:
            return
        del self._running[key]
        self.busy_changed.emit()
        if error is not None:
            self.failed.emit(key, error)
        elif not running.watch.stopped:
            running.on_done(result)


def is_expected(error: BaseException) -> bool:
    """Whether an error is trouble that a person can mend, and not a bug."""
    return isinstance(error, PemloError)
