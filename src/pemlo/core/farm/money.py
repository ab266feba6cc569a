"""What machine-hours cost. Pure."""

from collections.abc import Sequence

from pemlo.core.farm.capacity import machine_power, weekly_share
from pemlo.core.project.machines import Machine
from pemlo.core.project.project import Project
from pemlo.core.units import round_figures


def price_of_hour(machines: Sequence[Machine]) -> float | None:
    """Return what a machine-hour of work costs, if machines share the work out by what each can do in a week.

    Machines without a price count as free, which has to be said. None if no machine has one, or none is ever free.

    Examples
    --------
    Two machines always free, one twice as fast at 3 an hour: of three machine-hours it does two, for 3.

    >>> fast = Machine(name="fast", speed=2, price_per_hour=3)
    >>> price_of_hour((fast, Machine(name="own")))
    1.0
    """
    if all(machine.price_per_hour is None for machine in machines):
        return None
    shares = [(machine, weekly_share(machine.hours)) for machine in machines]
    work = sum(machine_power(machine) * share for machine, share in shares)
    cost = sum(machine.count * (machine.price_per_hour or 0.0) * share for machine, share in shares)
    return cost / work if work > 0 else None


def affordable_h(project: Project) -> float | None:
    """Return the machine-hours that the budget pays for; None without a budget or a price."""
    price, budget = price_of_hour(project.machines), project.delivery.budget
    return None if not price or budget is None else budget / price


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
    price, delivery = price_of_hour(project.machines), project.delivery
    if price is None:
        return ""
    of = "" if delivery.budget is None else f" of a budget of {amount_words(delivery.budget, delivery.currency)}"
    free = unpriced(project.machines)
    verbs = ("has", "counts") if len(free) == 1 else ("have", "count")
    without = f"; {', '.join(free)} {verbs[0]} no price and {verbs[1]} as free" if free else ""
    return f"{amount_words(price * hours, delivery.currency)}{of}{without}"
