"""The same row twice is one measurement, unless its owner says that it was timed again. Pure."""

from collections.abc import Iterable, Sequence
from dataclasses import dataclass

from pemlo.core.project.project import Project
from pemlo.core.project.timed_sizes import with_timed_sizes
from pemlo.core.project.trials import STAGES, TimedFrame, Trial

Measured = tuple[object, ...]


def measured(trial: TimedFrame) -> Measured:
    """Return what tells one measurement from another: frame, settings, pixels, machine, times, which repeat it is."""
    return (
        *(trial.shot, trial.frame, trial.width, trial.height, trial.region_percent, trial.machine),
        *(trial.frames_at_once, trial.seconds, trial.assumed, trial.repeat),
        *(value for name, value in trial.frame_fields().items() if name != "resolution_percent"),
        *(getattr(trial, f"{stage}_seconds") for stage in STAGES),
    )


def counted_once(trials: Iterable[TimedFrame]) -> frozenset[int]:
    """Return which trials count, by their index: of the same measurement the one that says most, or the first."""
    best: dict[Measured, tuple[int, int]] = {}
    for index, trial in enumerate(trials):
        if trial.left_out:
            continue
        says = sum(1 for one in (trial.mean_samples, trial.noise_shape or None) if one is not None)
        key = measured(trial)
        if key not in best or says > best[key][0]:
            best[key] = says, index
    return frozenset(index for _, index in best.values())


@dataclass(frozen=True)
class Incoming:
    """Trials that come in: those that are new, and those that are here already."""

    new: tuple[Trial, ...]
    here: tuple[Trial, ...]


def incoming(project: Project, trials: Sequence[Trial]) -> Incoming:
    """Part trials that come in by whether they are among those of a film, or among themselves.

    A row that says less than one that is here - a table without the times of stages, say - is the same row.
    """
    known = _known(project)
    new: list[Trial] = []
    here: list[Trial] = []
    for trial in _with_pixels(project, trials):
        key = measured(trial)
        (here if key in known else new).append(trial)
        known.add(key)
    return Incoming(tuple(new), tuple(here))


def _known(project: Project) -> set[Measured]:
    return {measured(trial) for trial in project.trials} | {_shorter(trial) for trial in project.trials}


def _with_pixels(project: Project, trials: Sequence[Trial]) -> tuple[Trial, ...]:
    return with_timed_sizes(tuple(trials), {shot.name: project.size_of(shot) for shot in project.shots})


def _shorter(trial: Trial) -> Measured:
    return measured(trial.model_copy(update={f"{stage}_seconds": None for stage in STAGES}))


def timed_again(project: Project, trials: Sequence[Trial]) -> tuple[Trial, ...]:
    """Return trials as repeats of those that are in a film: each counts for itself."""
    known = _known(project)
    found = []
    for trial in _with_pixels(project, trials):
        again = trial
        while measured(again) in known:
            again = again.model_copy(update={"repeat": again.repeat + 1})
        known.add(measured(again))
        found.append(again)
    return tuple(found)
