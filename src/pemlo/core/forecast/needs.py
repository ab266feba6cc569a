"""The machine-hours that shots and the film need, as draws. Pure NumPy; fast enough for every touch of a lever."""

from collections.abc import Sequence
from dataclasses import replace

import numpy as np

from pemlo.core.arrays import Floats
from pemlo.core.cost.draws import FilmDraws, ShotDraws, mean_of
from pemlo.core.cost.frame_arrays import Frames, frames_of
from pemlo.core.cost.posterior import Fit
from pemlo.core.farm.capacity import machine_power, weekly_share
from pemlo.core.project.machines import Machine
from pemlo.core.project.project import Project
from pemlo.core.project.settings import ShotSettings
from pemlo.core.project.shots import Shot
from pemlo.core.units import HOUR_S


def shot_seconds(fit: Fit, draws: FilmDraws, project: Project, shot: Shot) -> Floats:
    """Return draws of the mean seconds of the frames of a shot that are rendered, on the reference machine, (N,).

    Repeatability averages out over the frames, and what is left of it is in the draws.
    """
    mine = draws[shot.name]
    frames = frames_of([shot.settings], [project.size_of(shot)], fit.cost_factors, fit.shots[shot.name].shape())
    count = shot.rendered_count(shot.settings)
    repeat = np.exp(fit.spread.repeat_sd / np.sqrt(count) * mine.repeat)
    whole = np.array([whole_share(project, shot, shot.settings)])
    once = retry_factor(project.machines, shot.settings.saves)
    return np.asarray(mean_frame(mine, frames, whole)[0][:, 0] * once * repeat)


def whole_share(project: Project, shot: Shot, settings: ShotSettings) -> float:
    """Return the share of a shot's rendered frames that are worked out whole though stages are kept.

    Kept data live on each machine: the first frame that each of them takes fills them, and costs as much as without.
    """
    if not settings.keep:
        return 0.0
    first = sum(machine.count * machine.frames_at_once for machine in project.machines)
    return min(1.0, max(first, 1) / shot.rendered_count(settings))


def retry_factor(machines: Sequence[Machine], saves: int) -> float:
    """Return the work of a frame that is saved while it renders, over that of one that starts again when it breaks.

    With a chance p to be lost a frame takes 1 / (1 - p) tries, and that is in what machines can do. Of one that was
    saved s times only a part in s + 1 is lost with each: 1 + p / (1 - p) / (s + 1) of its work in all.

    Examples
    --------
    >>> desk = [Machine(name="desk", loss_percent=20)]
    >>> retry_factor(desk, 0), retry_factor(desk, 3)
    (1.0, 0.85)
    """
    return 1.0 - _lost(machines) * saves / (saves + 1) if saves else 1.0


def _lost(machines: Sequence[Machine]) -> float:
    """Return the chance that a frame is lost, mean over what the machines do."""
    power = [machine_power(machine) * weekly_share(machine.hours) for machine in machines]
    if not sum(power):
        return 0.0
    return float(np.average([machine.loss_percent / 100 for machine in machines], weights=power))


def as_one(machines: Sequence[Machine]) -> Machine:
    """Return a machine that fills kept data as often as all of these together, and loses as many frames."""
    at_once = sum(machine.count * machine.frames_at_once for machine in machines)
    return Machine.model_construct(name="all", count=at_once, loss_percent=100 * _lost(machines))


def mean_frame(draws: ShotDraws, frames: Frames, whole: Floats, count: int | None = None) -> tuple[Floats, Floats]:
    """Return seconds and samples of a shot's mean frame, some of them worked out whole, (N, K) each; as `mean_of`.

    Parameters
    ----------
    whole : (K,) ndarray
        Share of the frames in which nothing is kept yet.
    """
    kept, spent = mean_of(draws, frames, count)
    if not whole.any():
        return kept, spent
    nothing = np.zeros_like(frames.keeps_prepare)
    full, _ = mean_of(draws, replace(frames, keeps_prepare=nothing, keeps_light=nothing), count)
    return np.asarray(kept + whole * (full - kept)), spent


def shot_hours(fit: Fit, draws: FilmDraws, project: Project, shot: Shot) -> Floats:
    """Return draws of the machine-hours that a shot needs, retakes not counted, (N,)."""
    count = shot.rendered_count(shot.settings)
    return shot_seconds(fit, draws, project, shot) * (count / HOUR_S)


def first_pass_hours(fit: Fit, draws: FilmDraws, project: Project) -> Floats | float:
    """Return draws of the machine-hours of the first pass over shots that are not approved yet, (N,); 0 without one."""
    first = project.running.first_pass
    if first is None:
        return 0.0
    named_settings = next(preset for preset in project.sets if preset.name == first.settings)
    waiting = [shot for shot in project.shots if shot.approval == "waiting"]
    early = [shot.replace(plan=named_settings.on(shot.settings)) for shot in waiting]
    return np.asarray(np.sum([shot_hours(fit, draws, project, shot) for shot in early], axis=0)) if early else 0.0
