"""What it would take to be done in time: more machines of a kind, or more nights or days of theirs. Seconds.

Every number is tried by the exact run of the film with the same random numbers, so that only what is added differs.
"""

from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace
from datetime import date, timedelta
from typing import Literal, get_args

import numpy as np

from pemlo.core.cost.draws import FilmDraws
from pemlo.core.cost.posterior import Fit
from pemlo.core.errors import InputError
from pemlo.core.farm.simulation import MOST_SLOTS, Work, simulate
from pemlo.core.forecast.finish import due_hours, farm_for, hours_done, machine_uses
from pemlo.core.forecast.queue import queue_of, rules_of
from pemlo.core.progress import Monitor, PartOfWork, Unwatched
from pemlo.core.project.hours import ALL_DAY, DAY_MINUTES
from pemlo.core.project.machine_hours import closed_nights, hours_on, with_hours_on, with_nights
from pemlo.core.project.machines import Machine
from pemlo.core.project.project import Project

Kind = Literal["machines", "nights", "days"]
KINDS: tuple[Kind, ...] = get_args(Kind)
MOST_MACHINES = 256
SEARCH_DRAWS = 200  # look for how many; all draws then say whether they do
CURVE_STEPS = 8


@dataclass(frozen=True)
class Step:
    """So many more, and what comes of it.

    Attributes
    ----------
    extra : int
    probability : float
        Of being done by the deadline.
    finish_h : float
        Middle end, hours since the start; infinity if it never is.
    cost : float, optional
        Of all machines that have a price; None where none has.
    """

    extra: int
    probability: float
    finish_h: float
    cost: float | None


@dataclass(frozen=True)
class Addition:
    """One way of being done in time.

    Attributes
    ----------
    kind : str
        ``machines``: more of the kind; ``nights``: more nights, from the first, on which they are free; ``days``: more
        days round the clock.
    machine : str
    least : Step, optional
        The fewest that do, from all draws; None where not even the most do.
    most : int
        That were tried.
    days : tuple of date
        On which the fewest nights begin, or that they open; empty for machines.
    curve : tuple of Step
        From none to past the fewest; from fewer draws.
    """

    kind: Kind
    machine: str
    least: Step | None
    most: int
    days: tuple[date, ...]
    curve: tuple[Step, ...]


def what_it_takes(
    project: Project,
    fit: Fit,
    draws: FilmDraws,
    seed: int = 0,
    ways: Sequence[tuple[Kind, str]] | None = None,
    monitor: Monitor | None = None,
) -> tuple[Addition, ...]:
    """Return for each kind of machine the fewest more, and the fewest days more, that reach the wanted chance.

    Parameters
    ----------
    project : Project
    fit : Fit
    draws : FilmDraws
        Of that fit.
    seed : int
        Of losses and of the scatter of frames.
    ways : sequence of (kind, machine), optional
        Which of `ways_to_add` are tried; all unless given.
    monitor : Monitor, optional

    Raises
    ------
    InputError
        If nothing was timed, or there is no machine.
    Cancelled
        From the monitor.
    """
    if not project.machines:
        raise InputError("There is no machine.", "Add one in the brief.")
    watch = monitor or Unwatched()
    rules, work = rules_of(project, seed), queue_of(project, fit, draws).work
    few = replace(work, full=work.full[:SEARCH_DRAWS], kept=work.kept[:SEARCH_DRAWS])

    def tried(changed: Project, queue: Work, extra: int) -> Step:
        try:
            farm = farm_for(changed)
        except InputError:  # nothing is ever free: more may change that
            return Step(extra, 0.0, float("inf"), None)
        run = simulate(farm, queue, rules, monitor=PartOfWork(watch, 0.0, 0.0))
        hours = hours_done(changed, run)
        costs = [one.cost for one in machine_uses(farm, run) if one.cost is not None]
        chance = float(np.mean(hours <= due_hours(changed) + 1e-9))
        middle = float(np.quantile(hours, 0.5, method="higher"))
        return Step(extra, chance, middle, sum(costs) if costs else None)

    machines = {machine.name: machine for machine in project.machines}
    kinds = ways_to_add(project) if ways is None else ways
    found = []
    for number, (kind, name) in enumerate(kinds):
        machine = machines[name]
        watch.step(number / len(kinds), f"Trying more of {name}")

        def changed(extra: int, name: str = machine.name, kind: Kind = kind) -> Project:
            return with_addition(project, name, kind, extra)

        most = most_more(project, machine, kind)
        least, curve = _least(
            lambda extra, changed=changed: tried(changed(extra), few, extra),  # type: ignore[misc]
            lambda extra, changed=changed: tried(changed(extra), work, extra),  # type: ignore[misc]
            project.delivery.confidence,
            most,
            watch,
        )
        days = {"machines": (), "nights": closed_nights(project, machine), "days": closed_days(project, machine)}[kind]
        found.append(Addition(kind, machine.name, least, most, days[: least.extra] if least is not None else (), curve))
    return tuple(found)


def ways_to_add(project: Project) -> tuple[tuple[Kind, str], ...]:
    """Return what more there can be of each machine: kind and name."""
    return tuple(
        (kind, machine.name) for machine in project.machines for kind in KINDS if most_more(project, machine, kind)
    )


def most_more(project: Project, machine: Machine, kind: Kind) -> int:
    """Return how many more can be had at most: of rented machines as many as there are, and no more than can be run."""
    if kind == "machines":
        room = (MOST_SLOTS - sum(one.count * one.frames_at_once for one in project.machines)) // machine.frames_at_once
        return max(0, min(MOST_MACHINES, room, MOST_MACHINES if machine.most is None else machine.most - machine.count))
    if not machine.count:
        return 0
    return len(closed_nights(project, machine) if kind == "nights" else closed_days(project, machine))


def with_addition(project: Project, name: str, kind: Kind, extra: int) -> Project:
    """Return a film with so many more machines of a kind, or nights or days of theirs.

    Raises
    ------
    StopIteration
        If there is no machine of that name.
    """
    machine = next(one for one in project.machines if one.name == name)
    if kind == "machines":
        more = with_more(machine, extra)
    else:
        more = (with_nights if kind == "nights" else with_days)(project, machine, extra)
    return project.changed(machines=tuple(more if one.name == name else one for one in project.machines))


def _least(
    few: Callable[[int], Step], sure: Callable[[int], Step], wanted: float, most: int, watch: Monitor
) -> tuple[Step | None, tuple[Step, ...]]:
    """Return the fewest that reach the wanted chance, and what some numbers up to past them come to."""
    known: dict[int, Step] = {}

    def ask(extra: int) -> Step:
        if extra not in known:
            watch.step(0.0, f"Trying {extra} more")
            known[extra] = few(extra)
        return known[extra]

    low, high = 0, 0
    while ask(high).probability < wanted and high < most:
        low, high = high, min(max(2 * high, 1), most)
    while high - low > 1:  # the lower of both is too few
        middle = (low + high) // 2
        low, high = (low, middle) if ask(middle).probability >= wanted else (middle, high)
    least = sure(high)
    while least.probability < wanted and high < most:
        high += 1
        least = sure(high)
    end = min(max(2 * high, 4), most)
    curve = tuple(ask(int(k)) for k in np.unique(np.linspace(0, end, CURVE_STEPS + 1).round()))
    return (least if least.probability >= wanted else None), curve


def with_more(machine: Machine, extra: int) -> Machine:
    """Return a kind of machine with more of it."""
    return machine.changed(count=machine.count + extra)


def closed_days(project: Project, machine: Machine) -> tuple[date, ...]:
    """Return the days from the start to the deadline on which a machine is not free round the clock."""
    zone = project.delivery.zone
    first, last = (moment.astimezone(zone).date() for moment in (project.start, project.delivery.deadline))
    days = (first + timedelta(days=k) for k in range((last - first).days + 1))
    return tuple(day for day in days if hours_on(machine, day)[:1] != ALL_DAY)


def with_days(project: Project, machine: Machine, extra: int) -> Machine:
    """Return a kind of machine that is free round the clock on the first few days on which it was not."""
    opened = closed_days(project, machine)[:extra]
    # A night that runs into the next day still does.
    late = {day: tuple(span for span in hours_on(machine, day) if span[1] > DAY_MINUTES) for day in opened}
    return with_hours_on(machine, {day: (*ALL_DAY, *late[day]) for day in opened})
