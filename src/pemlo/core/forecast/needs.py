"""The machine-hours that shots and the film need, as draws. Pure NumPy; fast enough for every touch of a lever."""

import numpy as np

from pemlo.core.arrays import Floats
from pemlo.core.cost.draws import FilmDraws
from pemlo.core.cost.frame_model import frame_seconds, frames_of
from pemlo.core.cost.posterior import Fit
from pemlo.core.plan.project import Project
from pemlo.core.plan.shots import Shot
from pemlo.core.units import HOUR_S


def shot_seconds(fit: Fit, draws: FilmDraws, project: Project, shot: Shot) -> Floats:
    """Return draws of the mean seconds of the frames of a shot that are rendered, on the reference machine, (N,).

    Repeatability averages out over the frames, and what is left of it is in the draws.
    """
    mine = draws[shot.name]
    frames = frames_of([shot.settings], [project.size_of(shot)], fit.denoisers, fit.shots[shot.name].shape())
    count = shot.rendered_count(shot.settings)
    repeat = np.exp(fit.spread.repeat_sd / np.sqrt(count) * mine.repeat)
    return np.asarray(frame_seconds(mine.theta, frames) * mine.factor * repeat)


def shot_hours(fit: Fit, draws: FilmDraws, project: Project, shot: Shot) -> Floats:
    """Return draws of the machine-hours that a shot needs, retakes not counted, (N,)."""
    count = shot.rendered_count(shot.settings)
    return shot_seconds(fit, draws, project, shot) * (count / HOUR_S)
