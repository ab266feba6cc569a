"""How much slower machines are with frames larger than their memory, as trials there show. NumPy; fast."""

from collections import defaultdict
from collections.abc import Mapping, Sequence

import numpy as np

from pemlo.core.arrays import Floats
from pemlo.core.cost.along import between, knots, places_within
from pemlo.core.cost.draws import FilmDraws, seconds_along
from pemlo.core.cost.frame_arrays import frames_of
from pemlo.core.cost.posterior import Fit
from pemlo.core.forecast.disk_memory import disk_memory_of
from pemlo.core.project.machines import Machine
from pemlo.core.project.project import Project
from pemlo.core.project.settings import ShotSettings
from pemlo.core.project.shots import Shot
from pemlo.core.project.spilled import memory_of_slot, spilled_trials
from pemlo.core.project.trials import Trial

Spilled = Mapping[str, tuple[tuple[float, float], ...]]


def spilled_shares(project: Project, fit: Fit, draws: FilmDraws) -> Spilled:
    """Return what trials that spilled left of their machine's speed.

    Returns
    -------
    mapping of str to tuple of (GiB, share)
        Of each shot: the memory that a frame had, and the share of the machine's speed that was left, <= 1.
    """
    machines = {machine.name: machine for machine in project.machines}
    found: dict[str, list[tuple[float, float]]] = defaultdict(list)
    for index in sorted(spilled_trials(project)):
        trial = project.trials[index]
        machine = machines[trial.machine]
        expected = _expected(project, fit, draws, trial) / machine.slot_speed(trial.frames_at_once)
        had = (machine.memory_gib or 0.0) / trial.frames_at_once
        found[trial.shot].append((had, min(expected / trial.seconds, 1.0)))
    return {shot: tuple(rows) for shot, rows in found.items()}


def share_left(spilled: Spilled, project: Project, shot: Shot, settings: ShotSettings, machine: Machine) -> float:
    """Return the share of a machine's speed that is left with frames of a shot: 1 where they fit into its memory.

    A machine that was not tried is as slow as the largest that was, of those with no more memory.
    """
    rows = spilled.get(shot.name)
    if not rows:
        return 1.0
    memory = disk_memory_of(project, shot, settings).memory_gib
    has = memory_of_slot(machine)
    if memory is None or has >= memory.middle:
        return 1.0
    most = max((had for had, _ in rows if had <= has), default=None)
    return 1.0 if most is None else float(np.median([share for had, share in rows if had == most]))


def _expected(project: Project, fit: Fit, draws: FilmDraws, trial: Trial) -> float:
    """Return what is expected of a trial's frame on the reference machine with enough memory, s."""
    shot = project.shot(trial.shot)
    wanted = frames_of([trial], [project.size_of(shot)], fit.cost_factors, fit.shots[shot.name].shape())
    cost_profile: Floats = np.median(seconds_along(draws[shot.name], wanted), axis=0)[None]
    place = places_within(np.array([float(trial.frame)]), shot.first, shot.last)
    return float(between(cost_profile, knots(shot.span_count)[0], place)[0, 0])


def slot_speeds(project: Project, fit: Fit, draws: FilmDraws, machines: Sequence[Machine]) -> Floats:
    """Return the reference seconds that each frame at once gets done in a second, by machine and shot, (M, S)."""
    plain = np.array([machine.slot_speed() for machine in machines])
    found = np.repeat(plain[:, None], len(project.shots), axis=1)
    spilled = spilled_shares(project, fit, draws)
    for number, shot in enumerate(project.shots):
        if shot.name in spilled:
            found[:, number] *= [share_left(spilled, project, shot, shot.settings, machine) for machine in machines]
    return found
