"""Where trials are rendered: places on machines, how many frames were there at once, and which runs are in a project.

Whoever renders side by side has a thread for each place.
"""

import platform
import threading
import time
from collections.abc import Callable, Sequence
from dataclasses import dataclass, field
from pathlib import Path

from pemlo.core.errors import PemloError
from pemlo.core.progress import Cancelled, Monitor
from pemlo.core.project.render_ways import RenderWay
from pemlo.core.trialrun.landed import Landed, landed
from pemlo.core.trialrun.run import TrialRun, carried_out, forget, guarded_files, prepared, touched
from pemlo.core.trialrun.template import FrameTask

TAKEN = "in the project"  # name of a file in a run's folder, once its trial is kept


def machines_of(way: RenderWay) -> tuple[str, ...]:
    """Return the machines that a way renders on, by their names; this computer if none is listed."""
    return tuple(one.machine for one in way.machines) or (platform.node()[:60] or "this computer",)


class Company:
    """How many frames ran side by side on a machine while one did: the mean, rounded. Any thread."""

    def __init__(self) -> None:
        self._lock = threading.Lock()
        self._running: dict[str, int] = {}
        self._shared: dict[str, float] = {}
        self._at: dict[str, float] = {}
        self._begun: set[str] = set()

    def _tick(self, machine: str) -> float:
        now = time.monotonic()
        passed = now - self._at.get(machine, now)
        self._shared[machine] = self._shared.get(machine, 0.0) + passed * self._running.get(machine, 0)
        self._at[machine] = now
        return now

    def join(self, machine: str) -> tuple[float, float, bool]:
        """Begin a frame; returns what `leave` wants, and whether it is the first on its machine."""
        with self._lock:
            now = self._tick(machine)
            first = machine not in self._begun
            self._begun.add(machine)
            self._running[machine] = self._running.get(machine, 0) + 1
            return now, self._shared[machine], first

    def leave(self, machine: str, began: float, shared: float) -> int:
        """End a frame, and return how many there were at once, itself counted."""
        with self._lock:
            now = self._tick(machine)
            self._running[machine] -= 1
            mean = (self._shared[machine] - shared) / max(now - began, 1e-9)
            return max(1, round(mean))


@dataclass
class Place:
    """One place on a machine where a frame can be rendered.

    Attributes
    ----------
    way : RenderWay
    machine : str
    pictures : path
        Folder of the project's pictures.
    base : path
        Folder of the project.
    company : Company
        Of all places of the session.
    """

    way: RenderWay
    machine: str
    pictures: Path
    base: Path
    company: Company = field(default_factory=Company)

    def render(self, task: FrameTask, monitor: Monitor, begun: Callable[[TrialRun], None] = lambda _: None) -> Landed:
        """Render a frame, and return what came of it.

        Raises
        ------
        Cancelled
            From the monitor; nothing is left of the run then.
        PemloError
            If the command cannot be filled in or started.
        """
        run = prepared(self.way, task, self.machine, self.pictures, self.base)
        begun(run)
        guarded = guarded_files(self.way, self.base)
        began, shared, first = self.company.join(self.machine)
        try:
            measured, output = carried_out(run, monitor)
        except (Cancelled, PemloError):
            self.company.leave(self.machine, began, shared)
            forget(run)
            run.landing.unlink(missing_ok=True)
            raise
        at_once = self.company.leave(self.machine, began, shared)
        changed = touched(guarded, guarded_files(self.way, self.base))
        if changed:
            more = f" and {len(changed) - 1} more" if len(changed) > 1 else ""
            raise PemloError(
                f"The command changed {changed[0]}{more}, which must never be touched.",
                "Nothing more is run. Look at its command before you run it again.",
                "untouched",
            )
        return landed(run, measured, output, frames_at_once=at_once, first=first)


def mark_taken(folders: Sequence[Path]) -> None:
    """Note that the trials of some runs are in their project."""
    for folder in folders:
        if folder.is_dir():
            (folder / TAKEN).touch()


def not_taken(folders: Sequence[Path]) -> tuple[Path, ...]:
    """Return the runs whose trials are in no project yet."""
    return tuple(folder for folder in folders if not (folder / TAKEN).exists())
