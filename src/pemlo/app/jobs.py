"""Background work: the only place with threads. Lives on the GUI thread; work runs in a pool.

For each key the newest request wins: what was running under it is asked to stop, and its result is dropped. Progress
reaches the window at most twenty times a second. Every error leaves as a report. What the person waits for has threads
of its own, so that it never stands behind long work, and so have looks at the disk, which are shown only if the disk is
slow. Watching has one too: nothing that is worked out holds up a look at the frames that came; and renders have theirs,
which only wait. What the person stopped, or what failed, can be asked for again.
"""

import time
from collections.abc import Callable
from dataclasses import dataclass, field
from typing import Any

from PySide6.QtCore import QCoreApplication, QEvent, QObject, QRunnable, QThreadPool, QTimer, Signal

from pemlo.app.garbage import Garbage
from pemlo.core.errors import PemloError
from pemlo.core.progress import Cancelled, Monitor

Work = Callable[[Monitor], Any]
PROGRESS_S = 0.05
LEAST_SEEN = 0.02
THREADS, THREADS_WAITED_FOR, THREADS_BRIEF, THREADS_WATCHING, THREADS_RENDERING = 2, 2, 1, 1, 64
SHOWN_AFTER_S, LONGEST_WAIT_FOR_DISK_MS = 1.0, 1000


@dataclass(frozen=True)
class Progress:
    """How far the work under a key is: 0 to 1, in words, and seconds left if that is known."""

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

    def see(self) -> None:
        """Leave the work if it was stopped."""
        if self.stopped:
            raise Cancelled

    def step(self, fraction: float, text: str) -> None:
        self.see()
        now = time.monotonic()
        if self._began is None and fraction > 0:
            self._began = now, fraction  # what comes before is a start that takes its own time
        if now - self._told >= PROGRESS_S:
            self._told = now
            left = None
            if self._began is not None and fraction - self._began[1] > LEAST_SEEN:
                left = (now - self._began[0]) * (1 - fraction) / (fraction - self._began[1])
            self._tell(Progress(self._key, fraction, text, left))


def _done(_: Monitor) -> None:
    """Stand in the place of work that was done."""


class _Task(QRunnable):
    def __init__(self, jobs: "Jobs", key: str, asked: "_Asked", watch: _Watch) -> None:
        super().__init__()
        self._jobs, self._key, self._number, self._work, self.watch = jobs, key, asked.number, asked.work, watch

    def run(self) -> None:
        work, self._work = self._work, _done
        result: object = None
        failed: Exception | None = None
        try:
            self.watch.see()  # it may have been stopped while it waited for a thread
            result = work(self.watch)
        except Cancelled:
            pass
        except Exception as error:  # noqa: BLE001 - every error of a job leaves as a report
            failed = error
        # Nothing is held here when the end is heard: the last of a widget must go on the GUI thread.
        self._jobs.outcomes[self._number] = result, failed
        del work, result, failed
        self._jobs.ended.emit(self._key, self._number)


@dataclass(frozen=True)
class _Asked:
    """Work that was asked for: what, what it is called, and what becomes of its result."""

    number: int
    text: str
    work: Work
    on_done: Callable[[Any], None]
    waited_for: bool
    brief: bool
    quiet: bool
    again: Callable[[], None] | None
    at: float = field(default_factory=time.monotonic)


@dataclass(frozen=True)
class _Running:
    asked: _Asked
    watch: _Watch


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
    stopped(str)
        So it was by the person.
    """

    ended = Signal(str, int)
    progressed = Signal(object)
    busy_changed = Signal()
    failed = Signal(str, object)
    cancelled = Signal(str)
    stopped = Signal(str)

    def __init__(self) -> None:
        super().__init__()
        self._pool, self._first, self._brief, self._watching, self._rendering = (QThreadPool(self) for _ in range(5))
        self._pool.setMaxThreadCount(THREADS)
        self._first.setMaxThreadCount(THREADS_WAITED_FOR)
        self._brief.setMaxThreadCount(THREADS_BRIEF)
        self._watching.setMaxThreadCount(THREADS_WATCHING)
        self._rendering.setMaxThreadCount(THREADS_RENDERING)
        self._running: dict[str, _Running] = {}
        # All that runs, until its end was heard here: work may hold the last of a widget, which must go on this thread.
        self._alive: dict[int, _Asked] = {}
        self.outcomes: dict[int, tuple[object, Exception | None]] = {}  # of what has ended, until that is heard here
        self._not_done: dict[str, _Asked] = {}
        self._count = 0
        self._closed = False
        self._garbage = Garbage(self)
        self.ended.connect(self._on_ended)

    @property
    def running(self) -> dict[str, str]:
        """Keys of the work that is running, and what it is called."""
        return {key: running.asked.text for key, running in self._running.items()}

    @property
    def shown(self) -> dict[str, str]:
        """Those of them that a person should hear of: not what is brief, unless it takes long."""
        late = time.monotonic() - SHOWN_AFTER_S
        running = self._running.items()
        return {
            key: one.asked.text
            for key, one in running
            if not (one.asked.brief or one.asked.quiet) or one.asked.at <= late
        }

    @property
    def not_done(self) -> dict[str, str]:
        """Keys of work that the person stopped, or that failed, and what it is called; it can be asked for again."""
        return {key: asked.text for key, asked in self._not_done.items()}

    def submit(
        self,
        key: str,
        text: str,
        work: Work,
        on_done: Callable[[Any], None],
        *,
        waited_for: bool = False,
        brief: bool = False,
        quiet: bool = False,
        watching: bool = False,
        rendering: bool = False,
        again: Callable[[], None] | None = None,
    ) -> None:
        """Run `work` in the background, and `on_done` with its result on the GUI thread unless it is overtaken.

        Parameters
        ----------
        key, text : str
            What it is, for the program and for people.
        work : callable
            With a monitor, on a thread of its own.
        on_done : callable
        waited_for : bool
            Whether somebody sits before the screen until it is done.
        brief : bool
            Whether it is done at once, unless a disk is slow.
        quiet : bool
            Whether nobody need hear of it unless it takes long.
        watching : bool
            Whether it is a look at what comes by itself, again and again.
        rendering : bool
            Whether it waits for another program.
        again : callable, optional
            Asks for it again, as things stand then, if it was stopped or failed; without, nobody can.
        """
        self.cancel(key)
        if self._closed:
            return
        self._count += 1
        asked = _Asked(self._count, text, work, on_done, waited_for, brief, quiet, again)
        watch = _Watch(key, self.progressed.emit)
        self._running[key] = _Running(asked, watch)
        self._alive[asked.number] = asked
        pool = self._first if waited_for else self._brief if brief else self._watching if watching else self._pool
        pool = self._rendering if rendering else pool
        pool.start(_Task(self, key, asked, watch))
        if brief or quiet:
            QTimer.singleShot(round(1000 * SHOWN_AFTER_S) + 1, self, self.busy_changed.emit)
        else:
            self.busy_changed.emit()

    def cancel(self, key: str) -> None:
        """Ask the work under a key to stop, and forget it."""
        self._not_done.pop(key, None)
        running = self._running.pop(key, None)
        if running is not None:
            running.watch.stopped = True
            self.busy_changed.emit()
            self.cancelled.emit(key)

    def stop(self, key: str) -> None:
        """Stop the work under a key because the person wants that; it can be asked for again."""
        running = self._running.get(key)
        if running is not None:
            self.cancel(key)
            self._leave(key, running.asked)
            self.stopped.emit(key)

    def ask_again(self, key: str) -> None:
        """Run work again that was stopped or failed."""
        asked = self._not_done.get(key)
        if asked is not None and asked.again is not None:
            asked.again()

    def forget_not_done(self) -> None:
        """Forget what was stopped or failed: it was of another film."""
        self._not_done.clear()
        self.busy_changed.emit()

    def _leave(self, key: str, asked: _Asked) -> None:
        if asked.again is not None:
            self._not_done[key] = asked
            self.busy_changed.emit()

    def shut_down(self) -> None:
        """Stop all work and wait for it; from then on nothing is begun."""
        self._closed = True
        for key in list(self._running):
            self.cancel(key)
        slow = ((self._brief, LONGEST_WAIT_FOR_DISK_MS),)
        for pool, most_ms in (
            *((pool, -1) for pool in (self._first, self._pool, self._watching, self._rendering)),
            *slow,
        ):
            pool.clear()  # what had not begun never ends, and is let go of below
            pool.waitForDone(most_ms)
        QCoreApplication.sendPostedEvents(self, QEvent.Type.MetaCall)  # what has ended is heard
        self._alive.clear()
        self.outcomes.clear()
        self._garbage.end()

    def _on_ended(self, key: str, number: int) -> None:
        self._alive.pop(number, None)
        result, error = self.outcomes.pop(number, (None, None))
        running = self._running.get(key)
        if running is None or running.asked.number != number:
            return
        del self._running[key]
        self.busy_changed.emit()
        if error is not None:
            self._leave(key, running.asked)
            self.failed.emit(key, error)
        elif not running.watch.stopped:
            running.asked.on_done(result)


def is_expected(error: BaseException) -> bool:
    """Whether an error is trouble that a person can mend, and not a bug."""
    return isinstance(error, PemloError)
