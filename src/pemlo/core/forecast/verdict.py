"""The answer: hours needed against hours there are, finish, chance, and the sentence that says so. Pure.

Fast enough to be asked at every touch of a lever: nothing is fitted or drawn here, and of the film only as many runs
are made as there is time for. An exact run says the same again, of all draws.
"""

from collections import Counter
from collections.abc import Mapping
from dataclasses import dataclass, field, replace
from datetime import datetime
from typing import Literal

import numpy as np
import numpy.typing as npt

from pemlo.core.arrays import Floats
from pemlo.core.cost.draws import FilmDraws
from pemlo.core.cost.posterior import Disagreement, Fit
from pemlo.core.farm.capacity import Capacity, capacity, exact_days
from pemlo.core.forecast.finish import Finish
from pemlo.core.forecast.needs import first_pass_hours, retry_factor, shot_seconds, whole_share
from pemlo.core.forecast.parts import Afresh, Parts
from pemlo.core.forecast.run_effect import QUICK_FRAMES, RunEffect, effect_in, quick_effect
from pemlo.core.interval import Interval, ends_of, interval_of, intervals_of
from pemlo.core.project.project import Project
from pemlo.core.project.shots import Shot
from pemlo.core.units import HOUR_S

Kind = Literal["unknown", "disagree", "makes it", "in doubt", "misses"]
BARELY = 1e-6  # by so much the hours are too few where only whole frames are in the way


@dataclass(frozen=True)
class ShotForecast:
    """One shot: frames that are rendered, seconds of the mean one, and machine-hours, retakes not counted.

    `drawn_hours` are draws of these hours, (N,), so that hours of several shots can be added.
    """

    shot: str
    frames: int
    trials: int
    seconds: Interval | None
    hours: Interval | None
    drawn_hours: "npt.NDArray[np.float32] | None" = field(default=None, compare=False, repr=False)


@dataclass(frozen=True)
class Forecast:
    """The film.

    Attributes
    ----------
    shots : tuple of ShotForecast
    hours : Interval or None
        Machine-hours needed, first passes and retakes counted; None if nothing was timed.
    hours_available : float
        Machine-hours there are before the deadline, less the minutes kept for assembly.
    hours_usable : float
        Those of them that this film can use: whole frames, waiting and the last of them to end take some away.
    finish : tuple of datetime or None
        5 %, 50 % and 95 % points, assembly counted; an entry is None if it is never.
    finish_h : (N,) ndarray
        Draws of the finish, hours since the start, rising; infinite if never.
    probability : float or None
        Chance of finishing by the deadline; None if nothing was timed, or trials do not agree.
    spare_h : float or None
        Machine-hours left at the wanted confidence; negative if short.
    late_h : float or None
        Hours by which the middle outcome is late; negative if early.
    kind : str
    capacity : Capacity
    disagreements : tuple of Disagreement
        What is wrong with trials: then hours are only what the fit makes of them, and there is no verdict.
    never : str
        Why the film is never done on these machines; empty if it is.
    """

    shots: tuple[ShotForecast, ...]
    hours: Interval | None
    hours_available: float
    hours_usable: float
    finish: tuple[datetime | None, datetime | None, datetime | None] | None
    finish_h: Floats
    probability: float | None
    spare_h: float | None
    late_h: float | None
    kind: Kind
    capacity: Capacity
    disagreements: tuple[Disagreement, ...] = ()
    never: str = ""


def forecast(
    project: Project,
    fit: Fit,
    draws: FilmDraws,
    before: Parts | None = None,
    *,
    most_frames: int = QUICK_FRAMES,
    finish: Finish | None = None,
) -> Forecast:
    """Say whether a project will be done in time.

    Parameters
    ----------
    project : Project
        Its settings, machines and deadline may differ from those that the fit saw; its shots and trials may not.
    fit : Fit
    draws : FilmDraws
        Of that fit.
    before : Parts, optional
        Of other forecasts of this fit: what still holds is taken from there.
    most_frames : int
        How many frames may be run, all draws together, to see what whole frames take; 0 for none.
    finish : Finish, optional
        The exact run of this project, if it was made: then nothing else is run.
    """
    curve = project_capacity(project)
    parts = before or Afresh()
    seconds = {} if not fit.known else {shot.name: _seconds(project, fit, draws, shot, parts) for shot in project.shots}
    shots = _shot_forecasts(project, seconds)
    if not seconds:
        return _without_finish(project, shots, None, curve, "unknown")
    hours = np.stack([seconds[shot.shot] * shot.frames for shot in shots]).sum(axis=0) / HOUR_S
    needed = hours * (1 + project.delivery.retake_share) + first_pass_hours(fit, draws, project)
    if fit.disagreements:
        found = _without_finish(project, shots, interval_of(needed), curve, "disagree")
        return replace(found, disagreements=fit.disagreements)
    effect = (
        quick_effect(project, fit, draws, curve, needed, most_frames, parts, _asked_hours(project, fit, draws, parts))
        if finish is None
        else effect_in(project, curve, needed, finish)
    )
    return verdict_of(project, curve, shots, needed, effect)


def _shot_forecasts(project: Project, seconds: Mapping[str, Floats]) -> tuple[ShotForecast, ...]:
    """Return what is known of each shot, from draws of the seconds of a frame of those that are known."""
    tried, shots = Counter(trial.shot for trial in project.trials), []
    frames = dict(zip(seconds, intervals_of(np.stack([*seconds.values()])), strict=True)) if seconds else {}
    for shot in project.shots:
        count, drawn = shot.rendered_count(shot.settings), seconds.get(shot.name)
        frame = frames.get(shot.name)
        hours = None if frame is None else frame.times(count / HOUR_S)
        of_each = None if drawn is None else (drawn * (count / HOUR_S)).astype(np.float32)
        shots.append(ShotForecast(shot.name, count, tried[shot.name], frame, hours, of_each))
    return tuple(shots)


def _without_finish(
    project: Project, shots: tuple[ShotForecast, ...], hours: Interval | None, curve: Capacity, kind: Kind
) -> Forecast:
    """Return a forecast that says no finish."""
    available_h = curve.work_by(max(project.render_by_h, 0.0))
    return Forecast(shots, hours, available_h, available_h, None, np.zeros(0), None, None, None, kind, curve)


def _seconds(project: Project, fit: Fit, draws: FilmDraws, shot: Shot, parts: Parts) -> Floats:
    """Return draws of a shot's seconds, made anew only if what they are made from is not what it was."""
    machines = whole_share(project, shot, shot.settings), retry_factor(project.machines, shot.settings.saves)
    of = (shot, project.size_of(shot), *machines)
    return parts.once((shot.name,), of, lambda: shot_seconds(fit, draws, project, shot))


def _asked_hours(project: Project, fit: Fit, draws: FilmDraws, parts: Parts) -> Floats:
    """Return the machine-hours that a film needs as it was asked for, retakes and first passes not counted, (N,)."""
    shots = [shot.model_copy(update={"plan": None}) if shot.plan else shot for shot in project.shots]
    seconds = [_seconds(project, fit, draws, shot, parts) * shot.rendered_count(shot.settings) for shot in shots]
    return np.asarray(np.sum(seconds, axis=0) / HOUR_S)


def project_capacity(project: Project) -> Capacity:
    """Return the curve of the project's machines, exact until well after the deadline."""
    return capacity(project.machines, project.delivery.timezone, project.start, exact_days(project))


def verdict_of(
    project: Project,
    curve: Capacity,
    shots: tuple[ShotForecast, ...],
    needed: Floats,
    effect: RunEffect,
) -> Forecast:
    """Return the forecast of a film from draws of the machine-hours that it needs, (N,), and what runs of it say."""
    assembly_h = project.delivery.assembly_minutes / 60
    needed = np.sort(needed)
    if effect.never:
        finish_h = np.full(len(needed), np.inf)
    elif effect.end_h is not None:
        finish_h = np.sort(effect.end_h) + assembly_h
    else:
        finish_h = curve.hours_for(np.sort(effect.taken(needed))) + assembly_h
    deadline_h = project.deadline_h
    probability = float(np.mean(finish_h <= deadline_h + 1e-9))
    ends = ends_of(finish_h)
    early, middle, late = (project.end(hours) for hours in ends)
    confidence = project.delivery.confidence
    kind: Kind = "makes it" if probability >= confidence else "in doubt" if probability >= 0.5 else "misses"
    wanted = float(np.quantile(needed, confidence))
    available_h = curve.work_by(max(project.render_by_h, 0.0))
    usable = _usable(effect, available_h, wanted, in_time=probability >= confidence)
    return Forecast(
        shots,
        interval_of(needed),
        available_h,
        usable,
        (early, middle, late),
        finish_h,
        probability,
        usable - wanted,
        ends.middle - deadline_h,
        kind,
        curve,
        never=effect.never,
    )


def _usable(effect: RunEffect, available_h: float, wanted: float, *, in_time: bool) -> float:
    """Return the hours there are that a film can use, from what goes by in most of its runs.

    A run may end much later than its hours say, with one frame that waits for Monday: that says nothing of the hours
    before the deadline. Where the runs are in time, the hours are enough, and where not, they are not.
    """
    usable = available_h / float(np.median(effect.factor)) if len(effect.factor) else available_h
    return max(usable, wanted) if in_time else min(usable, wanted * (1 - BARELY))
