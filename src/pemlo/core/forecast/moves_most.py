"""What would move the end of a film most: one more of each, a night or day more, or one machine less. Seconds.

A machine less can end sooner: a slow one that takes one of the last frames holds up the end (R. Graham, "Bounds for
certain multiprocessing anomalies", 1966).
"""

from dataclasses import dataclass
from typing import Literal

import numpy as np

from pemlo.core.cost.draws import FilmDraws
from pemlo.core.cost.posterior import Fit
from pemlo.core.errors import InputError
from pemlo.core.farm.simulation import simulate
from pemlo.core.forecast.finish import farm_for, hours_done
from pemlo.core.forecast.queue import queue_of, rules_of
from pemlo.core.forecast.what_it_takes import Kind, ways_to_add, with_addition
from pemlo.core.progress import Monitor, Unwatched
from pemlo.core.project.edits import set_machine
from pemlo.core.project.project import Project

TRIED_DRAWS = 100
MOST_WAYS = 24


@dataclass(frozen=True)
class Move:
    """One more of something, or a machine ``off``, and by how many hours the middle end comes sooner.

    Infinity if it ends only then.
    """

    kind: Kind | Literal["off"]
    machine: str
    sooner_h: float


def moves_most(project: Project, fit: Fit, draws: FilmDraws, monitor: Monitor | None = None) -> tuple[Move, ...]:
    """Return what one more of each would do, what moves the end most first.

    All have the same random numbers, so that only what is added differs. Of more than a few ways the first are tried.

    Raises
    ------
    InputError
        If nothing was timed.
    Cancelled
        From the monitor.
    """
    watch = monitor or Unwatched()
    which = np.arange(min(TRIED_DRAWS, len(next(iter(draws.values())).theta)))
    work, rules = queue_of(project, fit, draws, which).work, rules_of(project)

    def middle(film: Project) -> float:
        try:
            farm = farm_for(film)
        except InputError:  # nothing is ever free
            return float("inf")
        return float(np.quantile(hours_done(film, simulate(farm, work, rules)), 0.5, method="higher"))

    now = middle(project)
    on = [machine.name for machine in project.machines if machine.count]
    ways: list[tuple[Kind | Literal["off"], str]] = [*ways_to_add(project)[:MOST_WAYS]]
    ways += [("off", name) for name in on[:MOST_WAYS] if len(on) > 1]
    moves = []
    for number, (kind, name) in enumerate(ways):
        watch.step(number / len(ways), f"Trying one more or less of {name}")
        then = middle(_with(project, kind, name))
        sooner = 0.0 if np.isinf(then) else now - then
        moves.append(Move(kind, name, float(sooner)))
    return tuple(sorted(moves, key=lambda one: -one.sooner_h))


def _with(project: Project, kind: Kind | Literal["off"], name: str) -> Project:
    return set_machine(project, name, count=0) if kind == "off" else with_addition(project, name, kind, 1)
