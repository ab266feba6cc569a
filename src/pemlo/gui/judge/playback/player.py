"""Plays sequences: reads ahead in the background, shows what is due, counts what was not there in time. GUI thread."""

import time
from collections.abc import Callable, Mapping
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path
from typing import TYPE_CHECKING

from PySide6.QtCore import QObject, Qt, QTimer, Signal

from pemlo.app.jobs import Jobs
from pemlo.core.progress import Monitor
from pemlo.gui.judge.measure.measuring import MeasureConditions
from pemlo.gui.judge.playback.timing import Tally, Way, frame_due, read_order
from pemlo.gui.judge.viewer.painting import Sizes
from pemlo.gui.judge.viewer.reader import sizes_of

if TYPE_CHECKING:
    from pemlo.core.appraisal.flicker import AlongSequence
    from pemlo.core.files.sequence import Sequence
    from pemlo.core.measure.flicker import Flicker
    from pemlo.core.pixels.screen import Pixels

AHEAD, FLICKER = "judge frames", "judge flicker"
MOST_AHEAD_BYTES = 1_000_000_000
_TICK_MS = 4


class Player(QObject):
    """Two sequences at most, in step.

    Signals
    -------
    shown(int, dict of Sizes)
        A frame, ready to be painted.
    changed()
        What is read, played or measured has changed.
    """

    shown = Signal(int, object)
    changed = Signal()

    def __init__(self, jobs: Jobs, how: "Callable[[], MeasureConditions]") -> None:
        super().__init__()
        self._jobs, self._how = jobs, how
        self.runs: dict[str, Sequence] = {}
        self.fps = 24.0
        self.first = self.last = self.frame = 1
        self.way: Way = "loop"
        self.tally = Tally()
        self.flicker: dict[str, Mapping[int, Flicker]] = {}
        self.stepping: dict[str, tuple[float, float]] = {}
        self._ready: dict[int, dict[str, Sizes]] = {}
        self._bytes = 0
        self._size: tuple[int, int] | None = None
        self._asked: int | None = None
        self._began = 0.0
        self._start = 1
        self._timer = QTimer(self)
        self._timer.setTimerType(Qt.TimerType.PreciseTimer)
        self._timer.setInterval(_TICK_MS)
        self._timer.timeout.connect(self._on_tick)

    # What plays

    def show_runs(self, runs: "dict[str, Sequence]", fps: float, frame: int) -> None:
        """Take sequences, by side, of which a frame is shown already; none to have nothing to play."""
        self.fps = fps
        if runs == self.runs:
            return
        self.stop()
        self._jobs.cancel(AHEAD)
        self._jobs.cancel(FLICKER)
        self.runs, self.flicker, self.stepping, self._asked = runs, {}, {}, None
        self._ready, self._bytes, self._size = {}, 0, None
        if runs:
            self.first = min(run.first for run in runs.values())
            self.last = max(run.last for run in runs.values())
            self.frame = min(max(frame, self.first), self.last)
            self._read_ahead()
        self.changed.emit()

    def read_anew(self) -> None:
        """Read everything again: it is to be shown otherwise."""
        self._jobs.cancel(AHEAD)
        self._ready, self._bytes, self._size = {}, 0, None
        self._read_ahead()

    @property
    def whole(self) -> tuple[int, int]:
        """First and last frame that there are."""
        return min(run.first for run in self.runs.values()), max(run.last for run in self.runs.values())

    def set_range(self, first: int, last: int) -> None:
        """Play only some frames."""
        low, high = self.whole
        self.first, self.last = max(low, min(first, last)), min(high, max(first, last))
        self.go(min(max(self.frame, self.first), self.last))

    @property
    def ahead(self) -> tuple[int, int]:
        """How many frames of the range are read, and how many there are."""
        return sum(self.first <= frame <= self.last for frame in self._ready), self.last - self.first + 1

    def missing(self) -> tuple[int, ...]:
        """Return frames that a sequence lacks between its ends."""
        return tuple(sorted({frame for run in self.runs.values() for frame in run.missing}))

    # Hands

    @property
    def playing(self) -> bool:
        return self._timer.isActive()

    def play(self) -> None:
        """Play from the frame that is shown, or from the first when it is the last."""
        if not self.runs:
            return
        self._start = self.first if self.frame >= self.last and self.way != "to and fro" else self.frame
        self._began = time.perf_counter()
        self.tally = Tally()
        self._timer.start()
        self.changed.emit()

    def stop(self) -> None:
        self._timer.stop()
        self.changed.emit()

    def go(self, frame: int) -> None:
        """Show a frame, as soon as it is read."""
        if not self.runs:
            return
        self.frame = self._asked = min(max(frame, self.first), self.last)
        if self.playing:
            self._start, self._began, self.tally = self.frame, time.perf_counter(), Tally()
        if self.frame in self._ready:
            self.shown.emit(self.frame, self._ready[self.frame])
        self._read_ahead()
        self.changed.emit()

    def _on_tick(self) -> None:
        passed = int((time.perf_counter() - self._began) * self.fps)
        due = frame_due(self.first, self.last, self._start, passed, self.way)
        if due is None:
            # What was due since the last look and is over by now was not shown either.
            self.tally.tick(self.last - self._start, shown=False)
            self.stop()
            return
        there = due in self._ready
        if not self.tally.tick(passed, shown=there):
            return
        self.frame = due
        if there:
            self.shown.emit(due, self._ready[due])
        self.changed.emit()

    # Reading ahead

    def _read_ahead(self) -> None:
        """Read the next frame that is not there yet; frames far behind give way."""
        if AHEAD in self._jobs.running or not self.runs:
            return
        order = [frame for frame in read_order(self.first, self.last, self.frame) if frame not in self._ready]
        if not order or (self._bytes > MOST_AHEAD_BYTES and not self._drop(order[0])):
            return
        frame, size = order[0], self._size
        paths = {side: run.paths[run.nearest(frame)] for side, run in self.runs.items()}
        runs, how = self.runs, self._how()

        def work(monitor: Monitor) -> "tuple[tuple[int, int], dict[str, tuple[Pixels, ...]]]":
            monitor.step(0.0, f"Reading frame {frame}")
            return _read(paths, size, how)

        def done(found: "tuple[tuple[int, int], dict[str, tuple[Pixels, ...]]]") -> None:
            if runs is not self.runs:
                return
            self._size, pixels = found
            self._ready[frame] = {side: sizes_of(one) for side, one in pixels.items()}
            self._bytes += sum(level.nbytes for one in pixels.values() for level in one)
            if frame == self._asked and not self.playing:
                self.shown.emit(frame, self._ready[frame])
            self.changed.emit()
            self._read_ahead()

        self._jobs.submit(AHEAD, "Reading ahead", work, done)

    def _drop(self, wanted: int) -> bool:
        """Make room for a frame: drop one that is due later than it. Return whether there was one."""
        order = read_order(self.first, self.last, self.frame)
        place = {frame: number for number, frame in enumerate(order)}
        farthest = max(self._ready, key=lambda frame: place.get(frame, len(order)), default=None)
        if farthest is None or place.get(farthest, len(order)) <= place.get(wanted, 0):
            return False
        each = self._bytes // max(len(self._ready), 1)
        del self._ready[farthest]
        self._bytes -= each
        return True

    # Flicker

    def measure_flicker(self) -> None:
        """Measure flicker along the sequences, the left one first."""
        runs, how = dict(self.runs), self._how()

        def work(monitor: Monitor) -> "dict[str, AlongSequence]":
            from pemlo.core.appraisal.flicker import along  # noqa: PLC0415 - heavy to load

            return {side: along(run, how.display, how.reading, monitor) for side, run in runs.items()}

        def done(found: "dict[str, AlongSequence]") -> None:
            if runs == self.runs:
                self.flicker = {side: changes.flicker for side, changes in found.items()}
                self.stepping = {side: of.stepping for side, of in found.items() if of.stepping is not None}
                self.changed.emit()

        self._jobs.submit(FLICKER, "Measuring flicker", work, done)


def _read(
    paths: dict[str, Path], size: tuple[int, int] | None, how: MeasureConditions
) -> "tuple[tuple[int, int], dict[str, tuple[Pixels, ...]]]":
    from pemlo.core.files.loading import load, size_of  # noqa: PLC0415 - heavy to load
    from pemlo.core.pixels.screen import reduced, shown  # noqa: PLC0415 - as above

    size = size or max(map(size_of, paths.values()))

    def ready(path: Path) -> "tuple[Pixels, ...]":
        whole = shown(load(path, how.reading, size).colour, how.display)
        half = reduced(whole)
        return whole, half, reduced(half)

    # Reading a file and turning light into codes leave Python alone: both sides go on at once.
    with ThreadPoolExecutor(len(paths)) as pool:
        return size, dict(zip(paths, pool.map(ready, paths.values()), strict=True))
