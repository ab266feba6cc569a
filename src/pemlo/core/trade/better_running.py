"""What costs no picture at all: frames in parallel where that was timed, and a better order of the shots. Seconds."""

from dataclasses import dataclass

import numpy as np

from pemlo.core.cost.machine_speeds import Scaling, measured_scaling
from pemlo.core.errors import InputError
from pemlo.core.forecast.best_order import TRIED_DRAWS, TriedOrder, orders_tried
from pemlo.core.forecast.disk_memory import disk_memory_of, too_small
from pemlo.core.progress import Monitor
from pemlo.core.project.concurrency import throughput_gain
from pemlo.core.project.edits import set_machine, set_running
from pemlo.core.project.machines import ASSUMED_CONTENTION, Machine
from pemlo.core.project.project import Project
from pemlo.core.project.running import Order
from pemlo.core.trade.film_options import Known
from pemlo.core.units import HOUR_S, format_span

_LITTLE, _LITTLE_CHANCE = 0.02, 0.01  # less sooner, or less of a chance, is no reason to change anything
_MOST_RUN = 2_000_000  # frames in all draws, of each order that is tried
_ORDER_WORDS: dict[Order, str] = {
    "film": "in the order of the film",
    "due": "the earliest due first",
    "longest": "the longest first",
    "shortest": "the shortest first",
    "by hand": "by hand",
}


@dataclass(frozen=True)
class BetterRunning:
    """How frames are run otherwise than now.

    Attributes
    ----------
    at_once : tuple of (str, int, float)
        Machine, frames in parallel, and how many times its work that is.
    order : str, optional
        None where it stays.
    sooner_h : float
        By which the other order ends sooner.
    """

    at_once: tuple[tuple[str, int, float], ...] = ()
    order: Order | None = None
    sooner_h: float = 0.0

    def taken(self, project: Project) -> Project:
        """Return a film that is run so."""
        for name, count, _ in self.at_once:
            project = set_machine(project, name, frames_at_once=count)
        return project if self.order is None else set_running(project, order=self.order, queue=())

    @property
    def words(self) -> tuple[str, ...]:
        """What changes, a sentence each."""
        found = [
            f"{name}: {count} frames in parallel, {gain:.2g} times the work, as timed"
            for name, count, gain in self.at_once
        ]
        if self.order is not None:
            sooner = "" if self.sooner_h <= 0 else f": ends {format_span(self.sooner_h * HOUR_S)} sooner"
            found.append(f"Shots {_ORDER_WORDS[self.order]}{sooner}")
        return tuple(found)


def better_running(project: Project, known: Known, monitor: Monitor | None = None) -> BetterRunning:
    """Return how a film is run better, without any change to a picture.

    An order that somebody chose stays, and frames in parallel change only where they were timed.

    Raises
    ------
    Cancelled
        From the monitor.
    """
    scalings = {scaling.machine: scaling for scaling in measured_scaling(project)}
    tried = (_at_once(project, machine, scalings.get(machine.name)) for machine in project.machines)
    at_once = tuple(count for count in tried if count is not None)
    better = BetterRunning(at_once)
    frames = sum(shot.rendered_count(shot.settings) for shot in project.shots)
    if project.running.order != "film" or len(project.shots) < 2 or frames * TRIED_DRAWS > _MOST_RUN:
        return better
    try:
        now, *others = orders_tried(better.taken(project), *known, monitor)
    except InputError:  # nothing is ever free: no order helps
        return better
    best = max(others, key=lambda one: one.worth, default=now)
    if best.order == "by hand" or not _clearly_better(best, now):
        return better
    return BetterRunning(at_once, best.order, now.end_h - best.end_h if np.isfinite(now.end_h) else 0.0)


def _clearly_better(best: TriedOrder, now: TriedOrder) -> bool:
    if not np.isfinite(now.end_h):
        return bool(np.isfinite(best.end_h))
    if best.dates + best.probability < now.dates + now.probability or best.dates < now.dates:
        return False
    likelier = best.dates + best.probability > now.dates + now.probability + _LITTLE_CHANCE
    return likelier or best.end_h < now.end_h * (1 - _LITTLE)


def _at_once(project: Project, machine: Machine, timed: Scaling | None) -> tuple[str, int, float] | None:
    """Return the frames in parallel with which a machine was timed to do most, if that is clearly more than now."""
    if timed is None or machine.contention == ASSUMED_CONTENTION:
        return None

    def gain(count: int) -> float:
        return throughput_gain(count, machine.contention, machine.coherency)

    fitting = [count for count in timed.at_once if count > 0 and _fits(project, machine, count)]
    best = max(fitting, key=gain, default=machine.frames_at_once)
    more = gain(best) / gain(machine.frames_at_once)
    return (machine.name, best, more) if more > 1 + _LITTLE else None


def _fits(project: Project, machine: Machine, count: int) -> bool:
    """Whether every shot's frames fit so many times into the memory of a machine, as far as that is known."""
    changed = set_machine(project, machine.name, frames_at_once=count)
    for shot in project.shots:
        memory = disk_memory_of(changed, shot, shot.settings).memory_gib
        if memory is not None and machine.name in too_small(changed, shot, shot.settings, memory):
            return False
    return True
