"""The fall from as asked to the plan: what each lever saves of the film's hours, one after another. Pure NumPy."""

from collections.abc import Mapping
from dataclasses import dataclass

import numpy as np

from pemlo.core.arrays import Floats
from pemlo.core.cost.draws import FilmDraws
from pemlo.core.cost.frame_model import frame_seconds, frames_of
from pemlo.core.cost.posterior import Fit
from pemlo.core.plan.project import Project
from pemlo.core.plan.settings import LEVERS, LeverName, ShotSettings
from pemlo.core.plan.shots import Shot
from pemlo.core.trade.options import DRAWS
from pemlo.core.units import HOUR_S

# Fields that go with a lever.
_FIELDS: dict[LeverName, tuple[str, ...]] = {
    "samples": ("samples", "min_samples"),
    "noise_threshold": ("noise_threshold",),
    "denoise": ("denoise",),
    "resolution_percent": ("resolution_percent",),
    "frame_step": ("frame_step", "between"),
    "keep": ("keep",),
}


@dataclass(frozen=True)
class Step:
    """What one lever saves: machine-hours of the film, and of each shot that it moves; below 0 where it costs."""

    lever: LeverName
    saved: float
    by_shot: Mapping[str, float]


@dataclass(frozen=True)
class Fall:
    """From as asked to the plan: 5 %, 50 % and 95 % points of the film's machine-hours at both ends, and the steps."""

    asked: tuple[float, float, float]
    plan: tuple[float, float, float]
    steps: tuple[Step, ...]


def fall(project: Project, fit: Fit, draws: FilmDraws) -> Fall:
    """Return the fall of a film whose plan is in its shots. Levers that move nothing have no step.

    Parameters
    ----------
    project : Project
    fit : Fit
        Which knows something.
    draws : FilmDraws
        Of that fit.
    """
    asked = plan = np.zeros(1)
    saved: dict[LeverName, dict[str, float]] = {lever: {} for lever in LEVERS}
    for shot in project.shots:
        moved, row = _row(shot)
        hours = _hours(project, fit, draws, shot, row)
        asked, plan = asked + hours[0], plan + hours[-1]
        middle = np.median(hours, axis=1)
        for number, lever in enumerate(moved):
            saved[lever][shot.name] = float(middle[number] - middle[number + 1])
    steps = tuple(Step(lever, sum(found.values()), found) for lever, found in saved.items() if found)
    return Fall(_points(asked), _points(plan), steps)


def _row(shot: Shot) -> tuple[tuple[LeverName, ...], tuple[ShotSettings, ...]]:
    """Return the levers that move, and settings from as asked to the plan, one lever more in each."""
    row = [shot.asked]
    moved: list[LeverName] = []
    for lever in LEVERS:
        update = {name: getattr(shot.settings, name) for name in _FIELDS[lever]}
        if any(getattr(row[-1], name) != value for name, value in update.items()):
            moved.append(lever)
            row.append(row[-1].model_copy(update=update))
    return tuple(moved), tuple(row)


def _hours(project: Project, fit: Fit, draws: FilmDraws, shot: Shot, row: tuple[ShotSettings, ...]) -> Floats:
    frames = frames_of(list(row), [project.size_of(shot)] * len(row), fit.denoisers, fit.shots[shot.name].shape())
    mine = draws[shot.name]
    seconds = (frame_seconds(mine.theta[:DRAWS, None, :], frames) * mine.factor[:DRAWS, None]).T
    counts = np.array([shot.rendered_count(one) for one in row])
    return np.asarray(seconds * counts[:, None] * (1 + project.delivery.retake_share) / HOUR_S)


def _points(hours: Floats) -> tuple[float, float, float]:
    low, middle, high = (float(q) for q in np.quantile(hours, [0.05, 0.5, 0.95]))
    return low, middle, high
