"""What one step of each lever gives and costs from where it stands, and which gives most for least. Pure NumPy."""

from collections.abc import Iterable, Iterator, Sequence
from dataclasses import dataclass, replace
from typing import Literal

import numpy as np
import numpy.typing as npt

from pemlo.core.project.settings import LEVERS, LeverName, ShotSettings
from pemlo.core.trade.levers import rank
from pemlo.core.trade.options import Options
from pemlo.core.trade.settings_table import FIELDS

Way = Literal["down", "up"]
_BIT = {name: 1 << number for number, name in enumerate(FIELDS)}
LEAST_SHARE = 0.005  # of the film's hours: less is within the noise of the estimate
FREE = 0.1  # codes: nobody sees less


@dataclass(frozen=True)
class LeverStep:
    """One step of a lever.

    Attributes
    ----------
    shot : str
    lever : str
    way : str
        ``down`` to the value before among those that there are, ``up`` to the one after.
    before, settings : ShotSettings
        Before and after it.
    hours : float
        Middle machine-hours that it adds; below 0 where it saves.
    error : float
        Codes that it adds; NaN if that is not known.
    usable : bool
        Whether it may be proposed.
    by_eye : int, optional
        1 where marks by eye let it pass, -1 where they do not, 0 where somebody has to look first; None without marks.
    """

    shot: str
    lever: LeverName
    way: Way
    before: ShotSettings
    settings: ShotSettings
    hours: float
    error: float
    usable: bool
    by_eye: int | None = None

    @property
    def worth(self) -> float:
        """Codes of error that an hour takes away; infinite where it costs no hours."""
        return -self.error / self.hours if self.hours > 0 else float("inf") if self.error < -FREE else -float("inf")

    @property
    def price(self) -> float:
        """Machine-hours saved for a code of error; infinite where the eye loses nothing."""
        return -self.hours / self.error if self.error > FREE else float("inf") if self.hours < 0 else -float("inf")


def steps_from(options: Options, place: int) -> tuple[LeverStep, ...]:
    """Return one step down and up of every lever that has such, from an option.

    Combinations have as many saves as pay. Saves do not change the picture, and what they cost hardly depends on the
    other levers. So where the option has another number of saves, its steps are those of the same option with as many
    saves as pay.
    """
    found = _all_steps(options, place, LEVERS)
    like = _with_saves_that_pay(options, place)
    if like is None:
        return found
    saves = options.settings[place].saves
    known = {(step.lever, step.way) for step in found}
    others = [
        replace(
            step,
            before=step.before.model_copy(update={"saves": saves}),
            settings=step.settings.model_copy(update={"saves": saves}),
        )
        for step in _all_steps(options, like, [lever for lever in LEVERS if lever != "saves"])
        if (step.lever, step.way) not in known
    ]
    return tuple(sorted((*found, *others), key=lambda step: LEVERS.index(step.lever)))


def _with_saves_that_pay(options: Options, place: int) -> int | None:
    """Return the option like another but for its saves; None if there is none."""
    found = np.flatnonzero(options.changed_fields(place) == _BIT["saves"])
    return int(found[0]) if len(found) else None


def _all_steps(options: Options, place: int, levers: Sequence[LeverName]) -> tuple[LeverStep, ...]:
    apart = options.changed_fields(place)
    return tuple(step for lever in levers for step in _steps(options, place, lever, apart))


def _steps(options: Options, place: int, lever: LeverName, apart: npt.NDArray[np.intp]) -> Iterator[LeverStep]:
    """Yield the steps of a lever; `apart` (K,) says in which fields options differ, see `Options.changed_fields`."""
    own = sum(_BIT[name] for name in own_fields(lever))
    alike = np.flatnonzero((apart | own) == own).tolist()
    if len(alike) < 2:
        return
    values = [_order(options.settings[k], lever) for k in alike]
    ordered = [k for _, k in sorted(zip(values, alike, strict=True))]
    at = ordered.index(place)
    middle = options.middle_hours
    for way, there in (("down", at - 1), ("up", at + 1)):
        if 0 <= there < len(ordered):
            k = ordered[there]
            yield LeverStep(
                options.shot,
                lever,
                way,  # type: ignore[arg-type]
                options.settings[place],
                options.settings[k],
                float(middle[k] - middle[place]),
                float(options.error[k] - options.error[place]),
                bool(options.usable[k]),
                None if options.eye is None else int(options.eye[k]),
            )


def own_fields(lever: LeverName) -> tuple[str, ...]:
    """Return the fields of settings that a lever moves."""
    return ("frame_step", "between") if lever == "frame_step" else (lever,)


def _order(settings: ShotSettings, lever: LeverName) -> tuple[float, str]:
    value, text = rank(lever, getattr(settings, lever))
    return value, settings.between if lever == "frame_step" else text


def most_for_an_hour(steps: Iterable[LeverStep], count: int) -> tuple[LeverStep, ...]:
    """Return the steps that take away the most error for an hour, the best first: where to put hours that are left."""
    better = [step for step in steps if step.error < -FREE and step.usable]
    return tuple(sorted(better, key=lambda step: (-step.worth, step.error, step.shot))[:count])
