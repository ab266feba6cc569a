"""The machine-hours that shots and the film need, as draws. Pure NumPy; fast enough for every touch of a lever."""

from dataclasses import replace

import numpy as np

from pemlo.core.arrays import Floats
from pemlo.core.cost.draws import FilmDraws
from pemlo.core.cost.frame_model import Frames, frame_seconds, frames_of
from pemlo.core.cost.posterior import Fit
from pemlo.core.plan.project import Project
from pemlo.core.plan.settings import ShotSettings
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
    whole = np.array([whole_share(project, shot, shot.settings)])
    return np.asarray(mean_seconds(mine.theta, frames, whole) * mine.factor * repeat)


def whole_share(project: Project, shot: Shot, settings: ShotSettings) -> float:
    """Return the share of a shot's rendered frames that are worked out whole though stages are kept.

    Kept data live on each machine: the first frame that each of them takes fills them, and costs as much as without.
    """
    if not settings.keep:
        return 0.0
    first = sum(machine.count * machine.frames_at_once for machine in project.machines)
    return min(1.0, max(first, 1) / shot.rendered_count(settings))


def mean_seconds(theta: Floats, frames: Frames, whole: Floats) -> Floats:
    """Return the seconds of a shot's mean frame, some of them worked out whole; shapes as in `frame_seconds`.

    Parameters
    ----------
    theta : (..., D) ndarray
    frames : Frames
        Of shape (K,).
    whole : (K,) ndarray
        Share of the frames in which nothing is kept yet.
    """
    kept = frame_seconds(theta, frames)
    if not whole.any():
        return kept
    nothing = np.zeros_like(frames.keeps_prepare)
    full = frame_seconds(theta, replace(frames, keeps_prepare=nothing, keeps_light=nothing))
    return np.asarray(kept + whole * (full - kept))


def shot_hours(fit: Fit, draws: FilmDraws, project: Project, shot: Shot) -> Floats:
    """Return draws of the machine-hours that a shot needs, retakes not counted, (N,)."""
    count = shot.rendered_count(shot.settings)
    return shot_seconds(fit, draws, project, shot) * (count / HOUR_S)
