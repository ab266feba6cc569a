"""The work that all machines together can do by a moment: a rising curve of machine-hours over time. Pure NumPy.

A machine-hour is an hour of the reference machine rendering one frame at a time. Work is poured down the curve as if
it could be cut anywhere; frames handed out one by one take a little longer (see docs/method/model.md).
"""

from dataclasses import dataclass
from datetime import datetime
from functools import lru_cache

import numpy as np

from pemlo.core.arrays import Floats
from pemlo.core.farm.calendar import spans_of
from pemlo.core.project.hours import parse_week
from pemlo.core.project.machines import Machine
from pemlo.core.project.project import Project

EXACT_DAYS_AFTER = 42  # hours of machines are counted day by day so long past the deadline


@dataclass(frozen=True)
class Capacity:
    """A rising curve, straight between its points, and going on at its weekly mean after the last.

    Attributes
    ----------
    at : (B,) ndarray
        Hours since the start, rising from 0.
    rate : (B,) ndarray
        Machine-hours per hour from each point to the next; the last is the weekly mean.
    done : (B,) ndarray
        Machine-hours that can be done by each point.
    """

    at: Floats
    rate: Floats
    done: Floats

    def work_by(self, hours: float) -> float:
        """Return the machine-hours that can be done in so many hours since the start."""
        if hours >= self.at[-1]:
            return float(self.done[-1] + (hours - self.at[-1]) * self.rate[-1])
        return float(np.interp(hours, self.at, self.done))

    def hours_for(self, work: Floats) -> Floats:
        """Return when so much work is done, in hours since the start; infinity if never."""
        place = np.searchsorted(self.done, work, side="left")
        segment = np.maximum(place - 1, 0)
        left = work - self.done[segment]
        with np.errstate(divide="ignore", invalid="ignore"):
            within = np.where(left > 0, left / self.rate[segment], 0.0)
        return np.asarray(self.at[segment] + within)


def exact_days(project: Project) -> int:
    """Return for how many days since the start the hours of machines are counted day by day."""
    return int((project.delivery.deadline - project.start).total_seconds() / 86_400) + EXACT_DAYS_AFTER


def machine_power(machine: Machine) -> float:
    """Return machine-hours of work per hour while a machine, or group of equal ones, is free.

    Frames that are lost are rendered again: with a loss chance p a frame takes 1 / (1 - p) tries on average.
    """
    return machine.count * machine.frames_at_once * machine.slot_speed() * (1.0 - machine.loss_percent / 100)


@lru_cache(maxsize=64)
def capacity(machines: tuple[Machine, ...], timezone: str, start: datetime, days: int) -> Capacity:
    """Return the curve of a set of machines, exact for so many days and at the weekly mean after them."""
    begins: list[float] = []
    ends: list[float] = []
    powers: list[float] = []
    mean = 0.0
    for machine in machines:
        power = machine_power(machine)
        mean += power * weekly_share(machine.hours) if machine.most_hours is None else 0.0
        for begin, end in spans_of(machine, timezone, start, days):
            begins.append(begin)
            ends.append(end)
            powers.append(power)
    at, where = np.unique(np.array([0.0, *begins, *ends, 24.0 * days]), return_inverse=True)
    change = np.zeros(len(at))
    count = len(begins)
    np.add.at(change, where[1 : 1 + count], powers)
    np.add.at(change, where[1 + count : 1 + 2 * count], -np.array(powers))
    rate = np.maximum(np.cumsum(change), 0.0)
    rate[rate < 1e-9] = 0.0
    done = np.concatenate([[0.0], np.cumsum(rate[:-1] * np.diff(at))])
    rate[-1] = mean
    return Capacity(at, rate, done)


@lru_cache(maxsize=1024)
def weekly_share(hours: str) -> float:
    """Return the share of a week in which a machine is free."""
    minutes = sum(end - begin for day in parse_week(hours) for begin, end in day)
    return min(1.0, minutes / (7 * 24 * 60))
