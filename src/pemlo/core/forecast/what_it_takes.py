"""What it would take to be done in time: more machines of a kind, more nights or days of theirs, or rented hours.

Every number is tried by the exact run of the film with the same draws and random numbers, so that only what is added
differs, and nothing more is what the headline says. Takes seconds.
"""

import math
from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace
from datetime import date, timedelta
from typing import Literal, get_args

import numpy as np

from pemlo.core.cost.draws import FilmDraws
from pemlo.core.cost.posterior import Fit
from pemlo.core.errors import InputError
from pemlo.core.farm.simulation import MOST_SLOTS, Work, simulate
from pemlo.core.forecast.finish import farm_for, hours_done, machine_uses
from pemlo.core.forecast.queue import queue_of, rules_of
from pemlo.core.forecast.renting import Rented, rentable_h, rented_first, rented_hours, with_rented
from pemlo.core.forecast.run_effect import exact_draws
from pemlo.core.progress import Monitor, PartOfWork, Unwatched
from pemlo.core.project.hours import ALL_DAY, DAY_MINUTES
from pemlo.core.project.machine_hours import closed_nights, hours_on, with_hours_on, with_nights
from pemlo.core.project.machines import Machine
from pemlo.core.project.project import Project

Kind = Literal["rent", "machines", "nights", "days"]
KINDS: tuple[Kind, ...] = get_args(Kind)
MOST_MACHINES = 256
# So many look for about how many, fewer of a huge film; all that are run of it then say which.
SEARCH_DRAWS, LEAST_DRAWS, SEARCH_FRAMES = 200, 20, 2_000_000
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
        days round the clock; ``rent``: so many hours of all rented machines together, the cheapest first, and no more.
    machine : str
        Empty for ``rent``.
    least : Step, optional
        The fewest that do; None where not even the most do.
    most : int
        That were tried.
    days : tuple of date
        On which the fewest nights begin, or that they open; empty for machines and rent.
    curve : tuple of Step
        From none to past the fewest.
    rented : tuple of Rented
        Of ``rent``, with the fewest hours.
    as_entered : Step, optional
        Of ``rent``: with the machines as they are entered.
    a_day_later : Step, optional
        Of ``rent``: the fewest hours where the deadline is a day later; None where not even the most would do.
    """

    kind: Kind
    machine: str
    least: Step | None
    most: int
    days: tuple[date, ...]
    curve: tuple[Step, ...]
    rented: tuple[Rented, ...] = ()
    as_entered: Step | None = None
    a_day_later: Step | None = None


def what_it_takes(
    project: Project,
    fit: Fit,
    draws: FilmDraws,
    seed: int = 0,
    ways: Sequence[tuple[Kind, str]] | None = None,
    monitor: Monitor | None = None,
) -> tuple[Addition, ...]:
    """Return for each kind of machine the fewest more, and the fewest days or rented hours, that reach the chance.

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
    work = queue_of(project, fit, draws, exact_draws(project, fit, draws)).work
    rules, fewer = rules_of(project, seed), min(SEARCH_DRAWS, max(LEAST_DRAWS, SEARCH_FRAMES // len(work.frame)))
    few = replace(work, full=work.full[:fewer], kept=work.kept[:fewer])

    def tried(changed: Project, queue: Work, extra: int) -> Step:
        try:
            farm = farm_for(changed)
        except InputError:  # nothing is ever free: more may change that
            return Step(extra, 0.0, float("inf"), None)
        run = simulate(farm, queue, rules, monitor=PartOfWork(watch, 0.0, 0.0))
        hours = hours_done(changed, run)
        costs = [machine_use.cost for machine_use in machine_uses(farm, run) if machine_use.cost is not None]
        chance = float(np.mean(hours <= changed.deadline_h + 1e-9))
        middle = float(np.quantile(hours, 0.5, method="higher"))
        free = 0.0 if any(machine.price_per_hour for machine in changed.machines) else None  # no rented hour is taken
        return Step(extra, chance, middle, sum(costs) if costs else free)

    def search(kind: Kind, name: str, of: Project) -> _Search:
        return _Search(
            lambda extra: tried(with_addition(of, name, kind, extra), few, extra),
            lambda extra: tried(with_addition(of, name, kind, extra), work, extra),
            of.delivery.confidence,
            most_more(of, name, kind),
            watch,
        )

    kinds = ways_to_add(project) if ways is None else ways
    found = []
    for number, (kind, name) in enumerate(kinds):
        watch.step(number / len(kinds), f"Trying more of {name}" if name else "Trying rented hours")
        search_now = search(kind, name, project)
        least, curve, most = search_now.least(), search_now.curve(), search_now.most
        way = Addition(kind, name, least, most, _days(project, name, kind, least), curve)
        if kind == "rent":
            used = () if least is None else rented_hours(project, least.extra)
            later = search(kind, name, _later(project)).least()
            way = replace(way, rented=used, as_entered=tried(project, work, 0), a_day_later=later)
        found.append(way)
    return tuple(found)


def _days(project: Project, name: str, kind: Kind, least: Step | None) -> tuple[date, ...]:
    """Return on which days the fewest nights begin, or that the fewest days open."""
    if least is None or kind not in {"nights", "days"}:
        return ()
    machine = _machine(project, name)
    days = closed_nights(project, machine) if kind == "nights" else closed_days(project, machine)
    return days[: least.extra]


def _later(project: Project) -> Project:
    """Return a film that is due a day later."""
    due = project.delivery.deadline + timedelta(days=1)
    return project.replace(delivery=project.delivery.replace(deadline=due))


def ways_to_add(project: Project) -> tuple[tuple[Kind, str], ...]:
    """Return what more there can be of each machine: kind and name."""
    rent: tuple[tuple[Kind, str], ...] = (("rent", ""),) if most_more(project, "", "rent") else ()
    more: tuple[Kind, ...] = ("machines", "nights", "days")
    names = [machine.name for machine in project.machines]
    return (*((kind, name) for name in names for kind in more if most_more(project, name, kind)), *rent)


def most_more(project: Project, name: str, kind: Kind) -> int:
    """Return how many more can be had at most: of rented machines as many as there are, and no more than can be run."""
    if kind == "rent":
        return math.ceil(sum(rentable_h(project, machine) for machine in rented_first(project)))
    machine = _machine(project, name)
    if kind == "machines":
        room = (MOST_SLOTS - sum(one.count * one.frames_at_once for one in project.machines)) // machine.frames_at_once
        return max(0, min(MOST_MACHINES, room, MOST_MACHINES if machine.most is None else machine.most - machine.count))
    if not machine.count:
        return 0
    return len(closed_nights(project, machine) if kind == "nights" else closed_days(project, machine))


def with_addition(project: Project, name: str, kind: Kind, extra: int) -> Project:
    """Return a film with so many more machines of a kind, or nights or days of theirs, or with rented hours.

    Raises
    ------
    StopIteration
        If there is no machine of that name.
    """
    if kind == "rent":
        return with_rented(project, extra)
    machine = _machine(project, name)
    if kind == "machines":
        more = with_more(machine, extra)
    else:
        more = (with_nights if kind == "nights" else with_days)(project, machine, extra)
    return project.replace(machines=tuple(more if one.name == name else one for one in project.machines))


def _machine(project: Project, name: str) -> Machine:
    return next(machine for machine in project.machines if machine.name == name)


class _Search:
    """Looks for the fewest that reach the chance asked for: about how many by few draws, and which by all."""

    def __init__(
        self, few: Callable[[int], Step], sure: Callable[[int], Step], wanted: float, most: int, watch: Monitor
    ) -> None:
        self.most = most
        self._few, self._sure, self._wanted, self._watch = few, sure, wanted, watch
        self._roughly: dict[int, Step] = {}
        self._exactly: dict[int, Step] = {}
        self._fewest = 0

    def least(self) -> Step | None:
        """Return the fewest that do; None if not even the most do."""
        low, high = 0, 0
        while not self._about(high) and high < self.most:
            low, high = high, min(max(2 * high, 1), self.most)
        while high - low > 1:  # the lower of both is too few
            middle = (low + high) // 2
            low, high = (low, middle) if self._about(middle) else (middle, high)
        while not self._enough(high) and high < self.most:
            high += 1
        while high > 0 and self._enough(high - 1):
            high -= 1
        self._fewest = high
        return self._exactly[high] if self._enough(high) else None

    def curve(self) -> tuple[Step, ...]:
        """Return what some numbers come to, from none to past the fewest, which are among them."""
        end = min(max(2 * self._fewest, 4), self.most)
        places = sorted({int(k) for k in np.linspace(0, end, CURVE_STEPS + 1).round()} | {self._fewest})
        return tuple(self._step(self._exactly, self._sure, place) for place in places)

    def _about(self, extra: int) -> bool:
        return self._step(self._roughly, self._few, extra).probability >= self._wanted

    def _enough(self, extra: int) -> bool:
        return self._step(self._exactly, self._sure, extra).probability >= self._wanted

    def _step(self, known: dict[int, Step], tried: Callable[[int], Step], extra: int) -> Step:
        if extra not in known:
            self._watch.step(0.0, f"Trying {extra} more")
            known[extra] = tried(extra)
        return known[extra]


def with_more(machine: Machine, extra: int) -> Machine:
    """Return a kind of machine with more of it."""
    return machine.replace(count=machine.count + extra)


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
