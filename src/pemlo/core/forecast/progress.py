"""How far a film is, shot by shot and machine by machine, and why it is not where it was expected. NumPy."""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from pemlo.core.arrays import Floats
from pemlo.core.cost.draws import FilmDraws, ShotDraws, mean_of
from pemlo.core.cost.frame_arrays import frames_of
from pemlo.core.cost.posterior import Fit
from pemlo.core.forecast.completed_frames import UNKNOWN_MACHINE, CompletedFrames, MachineRecord
from pemlo.core.forecast.updated_posterior import UpdatedPosterior, expected_of
from pemlo.core.interval import Interval
from pemlo.core.project.project import Project
from pemlo.core.project.shots import Shot
from pemlo.core.units import HOUR_S


@dataclass(frozen=True)
class FrameTimes:
    """What frames took on their machines, s: mean, standard deviation, least, most, and how many are known."""

    mean: float
    deviation: float
    least: float
    most: float
    count: int


@dataclass(frozen=True)
class Reasons:
    """Why the frames that are in took other hours than was predicted, hours of machines.

    Attributes
    ----------
    predicted, actual : float
        Of the frames whose time and machine are known.
    frames : float
        Since they cost more; negative if less.
    machines : float
        Since machines are slower than the brief says; negative if faster.
    losses : float
        In frames that were lost and rendered again, beside those hours.
    away : float
        In which machines were free and brought nothing, beside those hours.
    """

    predicted: float
    actual: float
    frames: float
    machines: float
    losses: float
    away: float


def frame_times(seconds: Floats) -> FrameTimes | None:
    """Return what frames took; None where that is not known of any."""
    known = seconds[np.isfinite(seconds)]
    if not len(known):
        return None
    return FrameTimes(float(known.mean()), float(known.std()), float(known.min()), float(known.max()), len(known))


def mean_seconds(project: Project, fit: Fit, draws: ShotDraws, shot: Shot, low: float = 0.05) -> Interval:
    """Return seconds of a shot's mean frame on the reference machine, with the interval from `low` to 1 - `low`."""
    wanted = frames_of([shot.settings], [project.size_of(shot)], fit.cost_factors, fit.shots[shot.name].shape())
    seconds = mean_of(draws, wanted)[0][:, 0]
    return Interval(*(float(np.quantile(seconds, q)) for q in (low, 0.5, 1 - low)))


def reasons_of(
    project: Project,
    fit: Fit,
    draws: FilmDraws,
    updated: UpdatedPosterior,
    frames: CompletedFrames,
    records: Sequence[MachineRecord],
) -> Reasons:
    """Return why frames took other hours than was predicted.

    Parameters
    ----------
    project : Project
    fit : Fit
    draws : FilmDraws
        Of what was known before the first frame.
    updated : UpdatedPosterior
        With the frames.
    frames : CompletedFrames
    records : sequence of MachineRecord
    """
    completed_frames = frames.those(frames.timed & (frames.machine != UNKNOWN_MACHINE))
    lost, away = (
        sum(machine_record.lost_hours for machine_record in records),
        sum(machine_record.away_hours for machine_record in records),
    )
    if not len(completed_frames):
        return Reasons(0.0, 0.0, 0.0, 0.0, lost, away)
    speed = np.array([machine.slot_speed() for machine in project.machines])[completed_frames.machine]
    before = expected_of(project, fit, draws, completed_frames) / speed
    after = expected_of(project, fit, updated.draws, completed_frames) / speed
    pace = updated.pace_of(completed_frames)
    slower = float((after * (1 / pace - 1)).sum()) / HOUR_S
    predicted, actual = float(before.sum()) / HOUR_S, float(completed_frames.seconds.sum()) / HOUR_S
    return Reasons(predicted, actual, actual - predicted - slower, slower, lost, away)
