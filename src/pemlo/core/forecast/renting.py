"""Which rented machines render for which hours: the cheapest first, from their first free hour on. Pure."""

import math
from dataclasses import dataclass

from pemlo.core.farm.calendar import Span, spans_of
from pemlo.core.farm.capacity import exact_days, machine_power
from pemlo.core.project.machines import Machine
from pemlo.core.project.project import Project

_ROUNDING = 1e-9


@dataclass(frozen=True)
class Rented:
    """A rented machine, or a group of equal ones, and when it renders.

    Attributes
    ----------
    machine : str
    count : int
        Of how many.
    hours : float
        Of all of them together; 0 where they are not needed.
    spans : tuple of (float, float)
        Hours since the start.
    """

    machine: str
    count: int
    hours: float
    spans: tuple[Span, ...]


def rented_first(project: Project) -> tuple[Machine, ...]:
    """Return the machines that cost something and can be had, those first whose work is cheapest."""
    priced = [machine for machine in project.machines if machine.price_per_hour and _most(machine)]
    return tuple(sorted(priced, key=lambda one: (_price_of_work(one), one.name)))


def _most(machine: Machine) -> int:
    """Return how many of a kind can be had."""
    return machine.count if machine.most is None else max(machine.most, machine.count)


def _price_of_work(machine: Machine) -> float:
    power = machine_power(machine.replace(count=1))
    return (machine.price_per_hour or 0.0) / power if power else float("inf")


def _each_h(project: Project, machine: Machine) -> float:
    """Return the hours before the deadline of one of a group of machines."""
    due = max(project.render_by_h, 0.0)
    whole = machine.replace(most_hours=None)
    spans = spans_of(whole, project.delivery.timezone, project.start, exact_days(project))
    return sum(max(min(end, due) - begin, 0.0) for begin, end in spans)


def rentable_h(project: Project, machine: Machine) -> float:
    """Return the hours that a group of machines can be rented before the deadline, of all of them together."""
    every = _most(machine) * _each_h(project, machine)
    return every if machine.most_hours is None else min(every, machine.most_hours)


def with_rented(project: Project, hours: float) -> Project:
    """Return a film whose rented machines render for so many hours together and no longer, the cheapest first.

    There are as many of a kind as are entered, or as many as the hours need.
    """
    mine = _shared_out(project, hours)

    def limited(machine: Machine) -> Machine:
        taken = mine.get(machine.name)
        if taken is None:
            return machine
        if not taken:
            return machine.replace(count=0)
        needed = math.ceil(taken / _each_h(project, machine) - _ROUNDING)
        return machine.replace(count=min(max(machine.count, needed), _most(machine)), most_hours=taken)

    return project.replace(machines=tuple(map(limited, project.machines)))


def _shared_out(project: Project, hours: float) -> dict[str, float]:
    left, mine = hours, {}
    for machine in rented_first(project):
        mine[machine.name] = min(left, rentable_h(project, machine))
        left -= mine[machine.name]
    return mine


def rented_hours(project: Project, hours: float) -> tuple[Rented, ...]:
    """Return what each rented machine renders of so many hours, and when; the cheapest first."""
    after = {machine.name: machine for machine in with_rented(project, hours).machines}
    when = project.delivery.timezone, project.start, exact_days(project)
    return tuple(
        Rented(name, after[name].count, taken, spans_of(after[name], *when) if taken else ())
        for name, taken in _shared_out(project, hours).items()
    )
