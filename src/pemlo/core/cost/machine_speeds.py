"""What trials say of machines: how fast each is, and how frames at once get into each other's way. Pure NumPy.

One frame that was timed with the same settings on two machines tells how much faster one of them is; one that was
timed alone and beside others on one machine, what frames at once are worth there.
"""

from collections import defaultdict
from collections.abc import Container, Hashable
from dataclasses import dataclass

import numpy as np

from pemlo.core.errors import InputError
from pemlo.core.interval import NINETY, Interval
from pemlo.core.project.concurrency import scaling_of
from pemlo.core.project.edits import set_machine
from pemlo.core.project.project import Project
from pemlo.core.project.trials import Trial

# How far one frame's times on one machine lie apart, log; common practice, no source.
REPEAT_SD = 0.03


@dataclass(frozen=True)
class MachineSpeed:
    """How fast a machine is against the reference, with its 90 % interval, and of how many frames that is known."""

    machine: str
    speed: Interval
    frames: int


@dataclass(frozen=True)
class Scaling:
    """What frames at once cost each other on a machine, and with how many at once it was timed."""

    machine: str
    contention: float
    coherency: float
    at_once: tuple[int, ...]


def measured_speeds(project: Project) -> tuple[MachineSpeed, ...]:
    """Return the speeds of machines that timed a frame which another machine, whose speed is known, timed as well.

    The log of a frame's seconds is what it takes less the log of its machine's speed, in least squares over all frames
    that several machines timed. Speeds are relative to the reference machine, or where that timed none of them to the
    first machine of speed 1.
    """
    machines = {machine.name: machine for machine in project.machines}
    groups: dict[Hashable, list[Trial]] = defaultdict(list)
    for trial in project.counted_trials:
        if trial.frames_at_once == 1 and not trial.assumed and not trial.stopped_by_cap:
            groups[trial.shot, trial.frame, trial.region_percent, *_settings(trial)].append(trial)
    rows = [trials for trials in groups.values() if len({_place(one, machines) for one in trials}) > 1]
    places = {_place(one, machines) for trials in rows for one in trials}
    fixed = "" if "" in places else next((m.name for m in project.machines if m.name in places and m.speed == 1), None)
    if fixed is None:
        return ()
    names = sorted(_joined(rows, machines, fixed) - {fixed})
    rows = [trials for trials in rows if _place(trials[0], machines) in {fixed, *names}]
    if not names:
        return ()
    timed = [(number, one) for number, trials in enumerate(rows) for one in trials]
    design = np.zeros((len(timed), len(rows) + len(names)))
    for line, (number, one) in enumerate(timed):
        design[line, number] = 1.0
        if (place := _place(one, machines)) != fixed:
            design[line, len(rows) + names.index(place)] = -1.0
    seconds = np.log([one.seconds for _, one in timed])
    found = np.linalg.lstsq(design, seconds, rcond=None)[0]
    free = len(timed) - design.shape[1]
    spread = float(np.sqrt(np.sum((seconds - design @ found) ** 2) / free)) if free > 0 else 0.0
    errors = max(spread, REPEAT_SD) * np.sqrt(np.diag(np.linalg.pinv(design.T @ design))[len(rows) :])
    return tuple(
        MachineSpeed(
            name,
            Interval(*(float(np.exp(value + k * NINETY * error)) for k in (-1, 0, 1))),
            sum(any(_place(one, machines) == name for one in trials) for trials in rows),
        )
        for name, value, error in zip(names, found[len(rows) :], errors, strict=True)
    )


def _place(trial: Trial, machines: Container[str]) -> str:
    """Return the machine that ran a trial; one that is not listed counts as the reference."""
    return trial.machine if trial.machine in machines else ""


def _settings(trial: Trial) -> tuple[Hashable, ...]:
    return tuple(trial.frame_fields().values())


def _joined(rows: list[list[Trial]], machines: Container[str], start: str) -> set[str]:
    """Return the machines that frames lead to from one."""
    known = {start}
    while more := {
        place
        for trials in rows
        if (places := {_place(trial, machines) for trial in trials}) & known
        for place in places - known
    }:
        known |= more
    return known


def measured_scaling(project: Project) -> tuple[Scaling, ...]:
    """Return what frames at once are worth on each machine that timed one frame alone and beside others."""
    scalings = []
    on_machine: dict[str, dict[Hashable, list[Trial]]] = defaultdict(lambda: defaultdict(list))
    for trial in project.counted_trials:
        if not trial.assumed and not trial.stopped_by_cap:
            frame = trial.shot, trial.frame, trial.region_percent, *_settings(trial)
            on_machine[trial.machine][frame].append(trial)
    for machine in project.machines:
        ratios: list[tuple[int, float]] = []
        for trials in on_machine[machine.name].values():
            alone = [one.seconds for one in trials if one.frames_at_once == 1]
            if alone and len(alone) < len(trials):
                middle = float(np.exp(np.mean(np.log(alone))))
                ratios += [(one.frames_at_once, one.seconds / middle) for one in trials if one.frames_at_once > 1]
        if not ratios:
            continue
        counts, seconds = [1, *(k for k, _ in ratios)], [1.0, *(ratio for _, ratio in ratios)]
        contention, coherency = scaling_of(counts, seconds)
        scalings.append(Scaling(machine.name, contention, coherency, tuple(sorted(set(counts)))))
    return tuple(scalings)


def with_measured_machines(project: Project) -> Project:
    """Return a film whose machines are as fast, and take frames at once as well, as its trials say.

    Raises
    ------
    InputError
        If no trials can be held against each other.
    """
    speeds, scalings = measured_speeds(project), measured_scaling(project)
    if not speeds and not scalings:
        raise InputError(
            "No trials say how fast the machines are.",
            "Time one frame with the same settings on two machines, or alone and beside others on one.",
        )
    for machine_speed in speeds:
        project = set_machine(project, machine_speed.machine, speed=float(f"{machine_speed.speed.middle:.3g}"))
    for scaling in scalings:
        project = set_machine(
            project, scaling.machine, contention=round(scaling.contention, 3), coherency=round(scaling.coherency, 4)
        )
    return project
