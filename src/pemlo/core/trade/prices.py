"""What one step of each lever gives and costs from where it stands, and which gives most for least. Pure NumPy."""

from collections.abc import Iterable, Iterator
from dataclasses import dataclass
from operator import itemgetter
from typing import Literal

import numpy as np

from pemlo.core.plan.settings import LEVERS, LeverName, ShotSettings
from pemlo.core.trade.levers import rank
from pemlo.core.trade.options import FIELDS, Options

Way = Literal["down", "up"]
_FREE = 0.02  # codes: nobody sees less


@dataclass(frozen=True)
class Step:
    """One step of a lever.

    Attributes
    ----------
    shot : str
    lever : str
    way : str
        ``down`` to the value before among those that there are, ``up`` to the one after.
    settings : ShotSettings
        After it.
    hours : float
        Middle machine-hours that it adds; below 0 where it saves.
    error : float
        Codes that it adds; NaN if that is not known.
    usable : bool
        Whether it may be proposed.
    """

    shot: str
    lever: LeverName
    way: Way
    settings: ShotSettings
    hours: float
    error: float
    usable: bool

    @property
    def price(self) -> float:
        """Machine-hours saved for a code of error; infinite where the eye loses nothing."""
        return -self.hours / self.error if self.error > _FREE else float("inf") if self.hours < 0 else -float("inf")


def steps_from(options: Options, place: int) -> tuple[Step, ...]:
    """Return one step down and up of every lever that has such, from an option."""
    return tuple(step for lever in LEVERS for step in _steps(options, place, lever))


def _steps(options: Options, place: int, lever: LeverName) -> Iterator[Step]:
    others = itemgetter(*(number for number, name in enumerate(FIELDS) if name not in _moves(lever)))
    wanted = others(options.values[place])
    alike = [k for k, values in enumerate(options.values) if others(values) == wanted]
    values = [_order(options.settings[k], lever) for k in alike]
    ordered = [k for _, k in sorted(zip(values, alike, strict=True))]
    at = ordered.index(place)
    middle = options.middle_hours
    for way, there in (("down", at - 1), ("up", at + 1)):
        if 0 <= there < len(ordered):
            k = ordered[there]
            yield Step(
                options.shot,
                lever,
                way,  # type: ignore[arg-type]
                options.settings[k],
                float(middle[k] - middle[place]),
                float(options.error[k] - options.error[place]),
                bool(options.usable[k]),
            )


def _moves(lever: LeverName) -> tuple[str, ...]:
    return ("frame_step", "between") if lever == "frame_step" else (lever,)


def _order(settings: ShotSettings, lever: LeverName) -> tuple[float, str]:
    value, text = rank(lever, getattr(settings, lever))
    return value, settings.between if lever == "frame_step" else text


def most_for_least(steps: Iterable[Step], count: int) -> tuple[Step, ...]:
    """Return the steps that save the most hours for the least error, the best first.

    Of steps that cost nothing to the eye the one that saves most comes first; those that may not be proposed, and those
    of which it is not known what they cost, are left out.
    """
    saving = [step for step in steps if step.hours < 0 and not np.isnan(step.error) and step.usable]
    return tuple(sorted(saving, key=lambda step: (-step.price, step.hours, step.shot))[:count])
