"""What of a shot is missing, and how it is shared out so that all machines end together. NumPy."""

from collections.abc import Iterable, Sequence
from dataclasses import dataclass

import numpy as np

from pemlo.core.arrays import Floats
from pemlo.core.arrivals.scan import Arrival
from pemlo.core.cost.along import places
from pemlo.core.cost.draws import FilmDraws, seconds_along
from pemlo.core.cost.frame_arrays import frames_of
from pemlo.core.cost.posterior import Fit
from pemlo.core.errors import InputError
from pemlo.core.farm.capacity import Capacity, capacity
from pemlo.core.frames import missing
from pemlo.core.project.machines import Machine
from pemlo.core.project.project import Project
from pemlo.core.project.shots import Shot
from pemlo.core.units import HOUR_S

_HALVINGS = 60
_DAYS = 400


def wanted_frames(shot: Shot) -> tuple[int, ...]:
    """Return the frames of a shot that are rendered, as it is planned."""
    return tuple(shot.rendered_frames(shot.settings))


def missing_frames(shot: Shot, arrivals: Iterable[Arrival]) -> tuple[int, ...]:
    """Return the frames of a shot that are not there; a file without a byte is not one."""
    return missing(wanted_frames(shot), frames_there(shot, arrivals))


def frames_there(shot: Shot, arrivals: Iterable[Arrival]) -> tuple[int, ...]:
    """Return the frames of a shot that are there, and must not be overwritten; a file without a byte is none."""
    arrived_frames = {
        arrival.found.frame for arrival in arrivals if arrival.size and arrival.found.shot in ("", shot.name)
    }
    return tuple(sorted(arrived_frames & set(wanted_frames(shot))))


@dataclass(frozen=True)
class NextRange:
    """What a machine is to render next.

    Attributes
    ----------
    machine : str
    frames : tuple of int
    hours : float
        When it is done, since the start; the middle of what is expected.
    """

    machine: str
    frames: tuple[int, ...]
    hours: float


def expected_seconds(project: Project, fit: Fit, draws: FilmDraws, shot: Shot, frames: Sequence[int]) -> Floats:
    """Return the seconds that frames of a shot are expected to take on the reference machine, (F,)."""
    mine = draws[shot.name]
    wanted = frames_of([shot.settings], [project.size_of(shot)], fit.cost_factors, fit.shots[shot.name].shape())
    cost_profile = np.median(seconds_along(mine, wanted), axis=0)
    at = places(np.asarray(frames, float), shot.first, shot.last) * (len(cost_profile) - 1)
    return np.asarray(np.interp(at, np.arange(len(cost_profile)), cost_profile))


def next_ranges(
    project: Project, fit: Fit, draws: FilmDraws, shot: Shot, frames: Sequence[int], names: Sequence[str]
) -> tuple[NextRange, ...]:
    """Share frames out in runs, so that all machines end together.

    Parts follow what the frames are expected to take and what each machine can do by a moment, not their number.

    Parameters
    ----------
    frames : sequence of int
        Rising.
    names : sequence of str
        Machines, in the order in which they take the frames.

    Raises
    ------
    InputError
        If a machine is not in the brief, or none of them is ever free, or nothing was timed.
    """
    if not fit.known:
        raise InputError("Nothing was timed yet: how to share frames out is not known.", "Time one frame first.")
    known = {machine.name: machine for machine in project.machines}
    unknown = [name for name in names if name not in known]
    if unknown:
        raise InputError(f"There is no machine called {unknown[0]}.", f"There are {', '.join(known)}.")
    seconds = expected_seconds(project, fit, draws, shot, frames) if len(frames) else np.zeros(0)
    curves = [_curve(project, known[name]) for name in names]
    done_h = _all_done(curves, float(seconds.sum()) / HOUR_S)
    shares = np.array([curve.work_by(done_h) for curve in curves])
    edges = np.concatenate([[0.0], np.cumsum(shares)]) * HOUR_S
    # A frame goes to the machine in whose part its middle lies.
    middles = np.cumsum(seconds) - seconds / 2
    owner = np.clip(np.searchsorted(edges, middles, side="right") - 1, 0, len(names) - 1)
    ranges = []
    for number, name in enumerate(names):
        mine = owner == number
        work = float(seconds[mine].sum()) / HOUR_S
        ends = float(curves[number].hours_for(np.array([work]))[0]) if work else 0.0
        ranges.append(NextRange(name, tuple(int(f) for f, here in zip(frames, mine, strict=True) if here), ends))
    return tuple(ranges)


def _curve(project: Project, machine: Machine) -> Capacity:
    return capacity((machine,), project.delivery.timezone, project.start, _DAYS)


def _all_done(curves: Sequence[Capacity], work: float) -> float:
    """Return when machines together have done so much work, hours since the start."""
    high = 1.0
    while sum(curve.work_by(high) for curve in curves) < work:
        high *= 2
        if high > 24 * _DAYS * 50:
            raise InputError("None of these machines is free long enough.", "Name others, or give them hours.")
    low = 0.0
    for _ in range(_HALVINGS):
        middle = (low + high) / 2
        low, high = (low, middle) if sum(curve.work_by(middle) for curve in curves) >= work else (middle, high)
    return high
