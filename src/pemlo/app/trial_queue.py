"""Trials that render themselves: those that were asked for, and those that are worth some minutes. GUI thread.

Each frame is a job that waits for the person's own command. While time is spent, what comes next is worked out anew
after every frame, in the background. What was stopped leaves nothing behind.
"""

import time
from collections.abc import Callable, Iterable, Sequence
from dataclasses import dataclass, replace
from pathlib import Path
from typing import TYPE_CHECKING

from PySide6.QtCore import QObject, QTimer, Signal

from pemlo.app import picture_places
from pemlo.app.document import Document
from pemlo.app.jobs import Jobs
from pemlo.app.trial_rows import RENDER, QueueRow, TrialRows
from pemlo.app.watched_frame import WatchedFrame, write_small_beside
from pemlo.core.progress import Monitor

if TYPE_CHECKING:
    from pemlo.core.film.film import Film
    from pemlo.core.project.render_ways import RenderWay
    from pemlo.core.trialrun.landed import Landed
    from pemlo.core.trialrun.session import Company
    from pemlo.core.trialrun.spending import Choice, Ended, Order, Spent

CHOOSE = "next trial"
_UPCOMING = 5


@dataclass
class _Budget:
    """Time that is being spent."""

    way: "RenderWay"
    until: float
    order: "Order"
    shots: tuple[str, ...]
    spent: "Spent"
    upcoming: tuple["Choice", ...] = ()
    choosing: bool = False
    looked: float = 0.0  # when the next frame was looked for

    @property
    def left_s(self) -> float:
        return max(0.0, self.until - time.monotonic())


class TrialQueue(QObject):
    """Renders trials.

    Signals
    -------
    landed(Landed)
        A frame has ended: a trial, or why it is none.
    refined(str, int, QImage)
        The picture that is being rendered, of a shot and a frame, has come nearer.
    changed()
        What waits, runs or was done has changed.
    ended(Ended)
        No more time is spent.
    """

    landed = Signal(object)
    refined = Signal(str, int, object)
    changed = Signal()
    ended = Signal(object)

    def __init__(self, document: Document, jobs: Jobs, film: "Callable[[], Film]") -> None:
        super().__init__()
        self._document, self._jobs, self._film = document, jobs, film
        self._rows = TrialRows()
        self._budget: _Budget | None = None
        self._company: Company | None = None
        self._closing = False
        self._clock = QTimer(self)
        self._clock.setSingleShot(True)
        self._clock.timeout.connect(self._on_time_over)
        jobs.cancelled.connect(self._on_cancelled)
        jobs.failed.connect(self._on_failed)

    # What there is

    @property
    def rows(self) -> tuple[QueueRow, ...]:
        """All frames: those that are done, under way, asked for, and worth running after them."""
        planned: tuple[QueueRow, ...] = ()
        if self._budget is not None:
            budget = self._budget
            planned = tuple(QueueRow(0, choice, budget.way, "planned") for choice in budget.upcoming)
        return (*self._rows, *planned)

    @property
    def waiting(self) -> tuple[QueueRow, ...]:
        """Frames that are asked for and not done, those under way first."""
        return (*self._rows.of("running"), *self._rows.of("waiting"))

    @property
    def left_s(self) -> float | None:
        """Seconds that may still be spent; None where none are being spent."""
        return None if self._budget is None else self._budget.left_s

    @property
    def busy(self) -> bool:
        """Whether anything is being rendered, or looked for."""
        return bool(self.waiting) or self.left_s is not None

    # What is wanted

    def add(self, way: "RenderWay", choices: "Sequence[Choice]") -> None:
        """Ask for frames."""
        for choice in choices:
            self._rows.append(choice, way)
        self._go_on()

    def spend(self, way: "RenderWay", minutes: float, order: "Order" = "telling", shots: Iterable[str] = ()) -> None:
        """Spend some minutes on what tells most."""
        from pemlo.core.trialrun.spending import Spent  # noqa: PLC0415 - heavy to load

        self._budget = _Budget(way, time.monotonic() + 60 * minutes, order, tuple(shots), Spent())
        self._clock.start(round(60_000 * minutes))
        self._go_on()

    def skip(self, row: QueueRow) -> None:
        """Leave a frame out that waits or is planned; stop one that is under way."""
        if self._budget is not None:
            self._budget.spent = self._budget.spent.skipping(row.choice.key)
            self._budget.upcoming = tuple(one for one in self._budget.upcoming if one != row.choice)
        if row.state == "waiting":
            self._rows.end(row, "")
        elif row.state == "running":
            self._rows.end(row, "It was stopped.")
            self._jobs.cancel(f"{RENDER}{row.number}")
        self._go_on()

    def first(self, row: QueueRow) -> None:
        """Run a frame that waits or is planned before all others."""
        if row.state == "planned" and self._budget is not None:
            self._budget.upcoming = tuple(one for one in self._budget.upcoming if one != row.choice)
            row = self._rows.append(row.choice, row.way)
        if row.state == "waiting":
            self._rows.to_front(row)
            self._go_on()

    def forget(self) -> None:
        """Stop all frames, and forget what was asked for and what was done."""
        self.stop()
        self._rows.clear()
        self._company = None
        self.changed.emit()

    def stop(self, why: str = "It was stopped.") -> None:
        """Stop what is under way, and run nothing more."""
        self._end_budget()
        self._closing = True
        for row in (*self._rows.of("waiting"), *self._rows.of("running")):
            self._rows.end(row, why)
            self._jobs.cancel(f"{RENDER}{row.number}")
        self._jobs.cancel(CHOOSE)
        self._closing = False
        self.changed.emit()

    # How it goes on

    def _go_on(self) -> None:
        if not self._closing:
            for row in self._rows.of("waiting"):
                machine = self._rows.free_machine(row.way)
                if machine is not None:
                    self._begin(replace(row, state="running", machine=machine, began=time.monotonic()))
            self._choose()
        self.changed.emit()

    def _begin(self, row: QueueRow) -> None:
        from pemlo.core.trialrun.session import Company, Place  # noqa: PLC0415 - heavy to load
        from pemlo.core.trialrun.spending import task_of  # noqa: PLC0415 - as above

        project, path = self._document.project, self._document.path
        if all(shot.name != row.choice.shot for shot in project.shots):
            self._rows.end(row, "")  # the shot was removed meanwhile
            return
        self._rows.put(row)
        self._company = self._company or Company()
        task = task_of(project, row.choice, len(project.trials) + row.number)
        base = picture_places.base_folder(path)
        place = Place(row.way, row.machine, picture_places.folder_for(path), base, self._company)
        text = f"Rendering frame {task.frame} of {task.shot}" + (f" on {row.machine}" if row.way.machines else "")
        watched = WatchedFrame(text, row.choice.seconds, lambda image: self.refined.emit(task.shot, task.frame, image))

        def work(monitor: Monitor) -> "Landed":
            base.mkdir(parents=True, exist_ok=True)
            found = place.render(task, watched.by(monitor), watched.begun)
            if found.trial is not None and found.trial.picture:
                write_small_beside(Path(found.trial.picture))
            return found

        def done(found: "Landed") -> None:
            self._on_landed(row, found)

        if self._budget is not None:
            self._budget.spent = self._budget.spent.begun(row.choice, row.machine)
        self._jobs.submit(f"{RENDER}{row.number}", text, work, done, rendering=True)

    def _choose(self) -> None:
        """Look for the next frame, if time is being spent and a place is free."""
        budget = self._budget
        if budget is None or budget.choosing or self._rows.of("waiting"):
            return
        machine = self._rows.free_machine(budget.way)
        if machine is None:
            return
        from pemlo.core.trialrun.spending import Situation, choices, decided  # noqa: PLC0415 - heavy to load

        way, runs_on = budget.way, machine if len(budget.way.machines) > 1 else ""
        now = Situation(self._film(), way, budget.spent, budget.left_s, budget.order, budget.shots, machine=runs_on)
        budget.choosing, budget.looked = True, time.monotonic()

        def work(_: Monitor) -> "tuple[Choice | Ended, tuple[Choice, ...]]":
            found = choices(now)
            return decided(now, found), found

        self._jobs.submit(CHOOSE, "Looking for the trial that tells most", work, self._on_chosen, quiet=True)

    def _on_chosen(self, answer: "tuple[Choice | Ended, tuple[Choice, ...]]") -> None:
        from pemlo.core.trialrun.spending import Choice  # noqa: PLC0415 - heavy to load

        budget = self._budget
        if budget is None:
            return
        budget.choosing = False
        found, listed = answer
        if isinstance(found, Choice):
            budget.upcoming = tuple(one for one in listed if one != found)[:_UPCOMING]
            self._rows.append(found, budget.way)
            self._go_on()
        elif not self.waiting:
            self._end_budget()
            self.ended.emit(found)
            self.changed.emit()

    def _on_landed(self, row: QueueRow, found: "Landed") -> None:
        landed = found.trial is not None
        self._rows.put(replace(row, state="landed" if landed else "failed", landed=found, why=found.why))
        self.landed.emit(found)
        if self._budget is not None:
            spent = self._budget.spent
            self._budget.spent = (
                spent.with_landed(found.trial, time.monotonic() - self._budget.looked)
                if found.trial is not None
                else spent.with_failed(row.choice.shot, found.why)
            )
        self._go_on()

    def _on_failed(self, key: str, error: Exception) -> None:
        if key == CHOOSE:
            self._end_budget()
            self.changed.emit()
            return
        row = self._rows.of_key(key)
        if row is None:
            return
        self._rows.put(replace(row, state="failed", why=" ".join(str(error).split())))
        # What cannot be begun at all cannot be begun for the next frame either.
        self.stop()

    def _on_cancelled(self, key: str) -> None:
        # Stopped by hand in the line at the bottom: then what waits is not wanted either.
        row = self._rows.of_key(key)
        if row is not None and row.state == "running":
            self._rows.end(row, "It was stopped.")
            self.stop()
        elif key == CHOOSE and self._budget is not None and self._budget.choosing:
            self._budget.choosing = False

    def _on_time_over(self) -> None:
        from pemlo.core.trialrun.spending import Ended  # noqa: PLC0415 - heavy to load

        self.stop("The time was over.")
        self.ended.emit(Ended("time"))

    def _end_budget(self) -> None:
        self._clock.stop()
        self._budget = None
