"""The fall from as asked to the plan: what each lever saves of the film's hours, one after another. Pure NumPy."""

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass
from functools import cached_property

import numpy as np

from pemlo.core.arrays import Floats
from pemlo.core.cost.draws import FilmDraws
from pemlo.core.cost.posterior import Fit
from pemlo.core.forecast.ledger import in_units, known_to, unit_of
from pemlo.core.interval import Interval, interval_of
from pemlo.core.project.project import Project
from pemlo.core.project.settings import LeverName
from pemlo.core.project.shots import Shot
from pemlo.core.trade.options import mean_hours
from pemlo.core.trade.prices import LEAST_SHARE

# Fields that go with a lever. What samples, threshold or cap give depends on the others: they are one step.
_FIELDS: dict[LeverName, tuple[str, ...]] = {
    "saves": ("saves",),
    "samples": ("samples", "min_samples", "noise_threshold", "most_seconds"),
    "split": ("split",),
    "denoise": ("denoise",),
    "resolution_percent": ("resolution_percent",),
    "frame_step": ("frame_step", "between"),
    "keep": ("keep",),
    "switches": ("switches",),
}


@dataclass(frozen=True)
class ShotWaterfall:
    """The fall of one shot: the levers that move, and (L + 1, N) draws of its machine-hours before and after each."""

    shot: str
    levers: tuple[LeverName, ...]
    hours: Floats

    @cached_property
    def middle(self) -> Floats:
        """Middle machine-hours before and after each lever, (L + 1,)."""
        return np.asarray(np.median(self.hours, axis=1))


@dataclass(frozen=True)
class WaterfallStep:
    """What a lever saves: machine-hours of the film, and of each shot that it moves; below 0 where it costs."""

    lever: LeverName
    saved: float
    by_shot: Mapping[str, float]


@dataclass(frozen=True)
class WaterfallBar:
    """One bar as it is drawn: the step, or steps, that it stands for; where it begins and ends, machine-hours."""

    steps: tuple[WaterfallStep, ...]
    start: float
    end: float


@dataclass(frozen=True)
class Waterfall:
    """From as asked to the plan: 5 %, 50 % and 95 % points of the film's machine-hours at both ends, and the steps."""

    asked: Interval
    plan: Interval
    steps: tuple[WaterfallStep, ...]

    @property
    def unit(self) -> float:
        """In which steps its hours are written."""
        known = min(known_to(self.asked.low, self.asked.high), known_to(self.plan.low, self.plan.high))
        return max(unit_of(self.asked.middle, self.plan.middle), known)

    def bars(self) -> tuple[WaterfallBar, ...]:
        """Return the steps as they are drawn: in whole units, so that what is written sums; small ones are one."""
        least = LEAST_SHARE * self.asked.middle
        small = tuple(step for step in self.steps if abs(step.saved) < least)
        rows = [(step,) for step in self.steps if step not in small] + ([small] if small else [])
        level, found = self.asked.middle, []
        for steps in rows:
            before, level = level, level - sum(step.saved for step in steps)
            found.append(WaterfallBar(steps, in_units(before, self.unit), in_units(level, self.unit)))
        return tuple(found)


def shot_waterfall(project: Project, fit: Fit, draws: FilmDraws, shot: Shot) -> ShotWaterfall:
    """Return the fall of a shot from as asked to its plan, one lever after another; those that stay are not in it.

    By all draws, as the forecast: both ends of the film's fall are its likely hours.

    Parameters
    ----------
    project : Project
    fit : Fit
        Which knows the shot.
    draws : FilmDraws
        Of that fit.
    shot : Shot
    """
    row = [shot.asked]
    moved: list[LeverName] = []
    for lever, fields in _FIELDS.items():
        update = {name: getattr(shot.settings, name) for name in fields}
        if any(getattr(row[-1], name) != value for name, value in update.items()):
            moved.append(lever)
            row.append(row[-1].model_copy(update=update))
    mine = draws[shot.name]
    hours, _ = mean_hours(project, fit, draws, shot, row, len(mine.theta))
    spread = fit.spread.repeat_sd / np.sqrt([shot.rendered_count(settings) for settings in row])
    hours = hours * np.exp(spread[:, None] * mine.repeat)
    return ShotWaterfall(shot.name, tuple(moved), hours)


def film_waterfall(shots: Sequence[ShotWaterfall]) -> Waterfall:
    """Return the fall of a film, lever by lever over all its shots; from its one end the steps come to the other.

    A middle of a sum is no sum of middles: what shots save alone is brought to what the film saves with them.
    """
    now: dict[str, Floats] = {shot.shot: shot.hours[0] for shot in shots}
    asked = total = sum_of(now.values())
    steps = []
    for lever in _FIELDS:
        alone: dict[str, float] = {}
        for shot in shots:
            if lever in shot.levers:
                number = shot.levers.index(lever)
                alone[shot.shot] = float(shot.middle[number] - shot.middle[number + 1])
                now[shot.shot] = shot.hours[number + 1]
        if alone:
            before, total = total, sum_of(now.values())
            saved = float(np.median(before) - np.median(total))
            steps.append(WaterfallStep(lever, saved, _brought_to(saved, alone)))
    return Waterfall(interval_of(asked), interval_of(total), tuple(steps))


def sum_of(draws: Iterable[Floats]) -> Floats:
    """Return the sum of draws, (N,): those of a thousand shots in a few milliseconds."""
    rows = list(draws)
    return np.asarray(np.concatenate(rows).reshape(len(rows), -1).sum(axis=0)) if rows else np.zeros(1)


def _brought_to(saved: float, alone: Mapping[str, float]) -> dict[str, float]:
    """Return what shots save, so that it comes to what the film saves: the difference goes by how much they move."""
    sizes = sum(map(abs, alone.values()))
    off = saved - sum(alone.values())
    return {
        name: value + off * (abs(value) / sizes if sizes else 1 / len(alone)) for name, value in alone.items()
    }  # fmt: skip
