"""The clock of a frame: how long each stage takes, on the wall and of the processors. Imports nothing of Pemlo."""

import time
from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import dataclass, field

STAGES = ("prepare", "light", "trace", "denoise", "write")


@dataclass
class Clock:
    """Seconds of each stage: on the wall, and of all processors of this process together."""

    wall: dict[str, float] = field(default_factory=lambda: dict.fromkeys(STAGES, 0.0))
    processor: dict[str, float] = field(default_factory=lambda: dict.fromkeys(STAGES, 0.0))
    _open: list[tuple[str, float, float]] = field(default_factory=list)

    @contextmanager
    def stage(self, name: str) -> Iterator[None]:
        """Time a stage; what it takes within another stage does not count there."""
        begun = time.perf_counter(), time.process_time()
        self._open.append((name, *begun))
        try:
            yield
        finally:
            self._open.pop()
            for clock, began, now in zip(
                (self.wall, self.processor), begun, (time.perf_counter(), time.process_time()), strict=True
            ):
                clock[name] += now - began
                if self._open:
                    clock[self._open[-1][0]] -= now - began

    @contextmanager
    def apart(self) -> Iterator[None]:
        """Leave out what takes time within a stage and is no part of it."""
        began = time.perf_counter(), time.process_time()
        try:
            yield
        finally:
            for clock, before, now in zip(
                (self.wall, self.processor), began, (time.perf_counter(), time.process_time()), strict=True
            ):
                if self._open:
                    clock[self._open[-1][0]] -= now - before

    def so_far(self) -> "Clock":
        """Return the clock as it stands in the middle of its stages."""
        wall, processor = dict(self.wall), dict(self.processor)
        for name, wall_began, processor_began in self._open[:1]:
            wall[name] += time.perf_counter() - wall_began
            processor[name] += time.process_time() - processor_began
        return Clock(wall, processor)

    def go_on_from(self, before: "Clock") -> None:
        """Count what was traced and written of the same frame before."""
        for stage in ("trace", "write"):
            self.wall[stage] += before.wall[stage]
            self.processor[stage] += before.processor[stage]
