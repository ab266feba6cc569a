"""What machine-hours cost. Pure NumPy."""

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime
from functools import lru_cache

import numpy as np

from pemlo.core.arrays import Floats
from pemlo.core.farm.capacity import capacity, exact_days, machine_power
from pemlo.core.project.machines import Machine
from pemlo.core.project.project import Project
from pemlo.core.units import round_figures

_ROUNDING = 1e-9


@dataclass(frozen=True)
class CostCurve:
    """What work costs while all machines work side by side from the start on, each in its hours.

    Attributes
    ----------
    done, spent : (B,) ndarray
        Machine-hours, and what those cost; both rise.
    later : float
        What a machine-hour costs after the last point; NaN if there is none.
    """

    done: Floats
    spent: Floats
    later: float

    def at(self, hours: float) -> float:
        """Return what so many machine-hours cost."""
        more = hours - float(self.done[-1])
        if more > 0:
            return float(self.spent[-1]) + more * self.later
        return float(np.interp(hours, self.done, self.spent))

    def work_for(self, amount: float) -> float:
        """Return the most machine-hours that cost no more; infinity if the rest costs nothing."""
        place = int(np.searchsorted(self.spent, amount * (1 + _ROUNDING), side="right")) - 1
        left = amount - float(self.spent[place])
        if place + 1 < len(self.spent):
            step = (self.done[place + 1] - self.done[place]) / (self.spent[place + 1] - self.spent[place])
            return float(self.done[place] + max(left, 0.0) * step)
        return float(self.done[-1]) + (max(left, 0.0) / self.later if self.later > 0 else float("inf"))


def cost_curve(project: Project) -> CostCurve | None:
    """Return what work costs; None if no machine has a price, or none is ever free.

    Machines without a price count as free, which has to be said.
    """
    if all(machine.price_per_hour is None for machine in project.machines):
        return None
    return _curve(project.machines, project.delivery.timezone, project.start, exact_days(project))


@lru_cache(maxsize=16)
def _curve(machines: tuple[Machine, ...], timezone: str, start: datetime, days: int) -> CostCurve | None:
    whole = capacity(machines, timezone, start, days)
    spent, later = np.zeros(len(whole.at)), 0.0
    for machine in machines:
        power = machine_power(machine)
        if not machine.price_per_hour or not power:
            continue
        own = capacity((machine,), timezone, start, days)
        price = machine.count * machine.price_per_hour / power
        spent += price * np.interp(whole.at, own.at, own.done)
        later += price * float(own.rate[-1])
    if not whole.done[-1] and not whole.rate[-1]:
        return None
    return CostCurve(whole.done, spent, later / whole.rate[-1] if whole.rate[-1] else float("nan"))


def affordable_h(project: Project) -> float | None:
    """Return the machine-hours that the budget pays for; None without a budget or a price."""
    curve, budget = cost_curve(project), project.delivery.budget
    return None if curve is None or budget is None else curve.work_for(budget)


def unpriced(machines: Sequence[Machine]) -> tuple[str, ...]:
    """Return the machines without a price, where others have one."""
    if all(machine.price_per_hour is None for machine in machines):
        return ()
    return tuple(machine.name for machine in machines if machine.count and machine.price_per_hour is None)


def amount_words(amount: float, currency: str) -> str:
    """Write an amount of money.

    Examples
    --------
    >>> amount_words(1234.5, "EUR"), amount_words(9.5, "")
    ('1\u202f230 EUR', '9.5 in the prices given')
    """
    return f"{round_figures(amount)} {currency or 'in the prices given'}"


def cost_words(project: Project, hours: float) -> str:
    """Return what so many machine-hours cost, of which budget, and what has no price; empty where nothing has one."""
    curve, delivery = cost_curve(project), project.delivery
    if curve is None:
        return ""
    of = "" if delivery.budget is None else f" of a budget of {amount_words(delivery.budget, delivery.currency)}"
    free = unpriced(project.machines)
    verbs = ("has", "counts") if len(free) == 1 else ("have", "count")
    without = f"; {', '.join(free)} {verbs[0]} no price and {verbs[1]} as free" if free else ""
    return f"{amount_words(curve.at(hours), delivery.currency)}{of}{without}"
