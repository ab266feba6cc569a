"""Trials whose frame was larger than the memory of the machine that rendered it. Pure.

Such a frame spills to the disk and takes longer than the same one with enough memory: its time says how much slower
that machine is with frames so large, and nothing of what the shot takes elsewhere.
"""

from collections.abc import Mapping, Sequence

from pemlo.core.project.machines import Machine
from pemlo.core.project.project import Project
from pemlo.core.project.trials import Trial

SPILLED = "larger than the memory of its machine"


def memory_of_slot(machine: Machine) -> float:
    """Return the memory that each of a machine's frames at once has, GiB; infinite if it is not known."""
    return float("inf") if machine.memory_gib is None else machine.memory_gib / machine.frames_at_once


def spilled_trials(project: Project) -> frozenset[int]:
    """Return which trials were larger than their machine's memory, by index, where others of their shot were not.

    Where all of a shot's trials were, they count like any other: nothing else was timed of it.
    """
    machines = {machine.name: machine for machine in project.machines if machine.memory_gib is not None}
    if not machines:
        return frozenset()
    spilled = _spilled_of(project.trials, machines)
    return frozenset(index for index, trial in enumerate(project.trials) if id(trial) in spilled)


def spilled_of(project: Project, shot: str) -> tuple[Trial, ...]:
    """Return the trials of a shot that were larger than their machine's memory, as `spilled_trials`."""
    trials = project.trials_of(shot)
    if all(trial.memory_gib is None for trial in trials):
        return ()
    machines = {machine.name: machine for machine in project.machines if machine.memory_gib is not None}
    spilled = _spilled_of(trials, machines)
    return tuple(trial for trial in trials if id(trial) in spilled)


def _spilled_of(trials: Sequence[Trial], machines: Mapping[str, Machine]) -> set[int]:
    """Return which records are of trials that were too large."""
    needed = _needed(trials)
    fitted: set[str] = set()
    large: dict[int, str] = {}
    for trial in trials:
        if trial.left_out or trial.assumed:
            continue
        if _spills(trial, machines, needed):
            large[id(trial)] = trial.shot
        else:
            fitted.add(trial.shot)
    return {number for number, shot in large.items() if shot in fitted}


def _needed(trials: Sequence[Trial]) -> dict[tuple[str, int | None, int | None], float]:
    """Return the most that was said of frames of a shot at a size, GiB."""
    found: dict[tuple[str, int | None, int | None], float] = {}
    for trial in trials:
        if trial.memory_gib is not None and trial.region_percent is None:
            key = (trial.shot, trial.width, trial.height)
            found[key] = max(found.get(key, 0.0), trial.memory_gib)
    return found


def _spills(
    trial: Trial, machines: Mapping[str, Machine], needed: Mapping[tuple[str, int | None, int | None], float]
) -> bool:
    machine = machines.get(trial.machine)
    if machine is None or machine.memory_gib is None or trial.region_percent is not None:
        return False
    needs = needed.get((trial.shot, trial.width, trial.height))
    return needs is not None and needs > machine.memory_gib / trial.frames_at_once
