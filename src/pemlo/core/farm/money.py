"""What machine-hours cost. Pure."""

from collections.abc import Sequence

from pemlo.core.farm.capacity import machine_power, weekly_share
from pemlo.core.project.machines import Machine


def price_of_hour(machines: Sequence[Machine]) -> float | None:
    """Return what a machine-hour of work costs, if machines share the work out by what each can do in a week.

    Machines without a price cost nothing. None if no machine has one, or none is ever free.

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
