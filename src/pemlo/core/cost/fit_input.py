"""All that a fit gets of a project: two projects with the same have the same fit. Imports the plan only. Pure."""

from collections.abc import Mapping
from dataclasses import dataclass

from pemlo.core.project.concurrency import throughput_gain
from pemlo.core.project.machines import ASSUMED_CONTENTION
from pemlo.core.project.narrow import RecordRow, frozen_input, narrowing, same_as_last
from pemlo.core.project.project import Project
from pemlo.core.project.settings import CostFactors, FrameSettings
from pemlo.core.project.shots import Shot
from pemlo.core.project.spilled import SPILLED, spilled_trials
from pemlo.core.project.trials import TimedFrame, Trial


@dataclass(frozen=True)
class FitShot:
    """A shot as a fit knows it: its frames, their size at 100 %, and how one of them is asked for."""

    name: str
    first: int
    last: int
    size: tuple[int, int]
    asked: FrameSettings


@dataclass(frozen=True)
class FitMachine:
    """A machine that a trial ran on: how fast it is, and what frames at once cost each other."""

    speed: float = 1.0
    contention: float = 0.0
    coherency: float = 0.0

    def slot_speed(self, frames_at_once: int) -> float:
        """Return the reference seconds that each of so many frames at once gets done in a second."""
        return self.speed * throughput_gain(frames_at_once, self.contention, self.coherency) / frames_at_once


REFERENCE = FitMachine(contention=ASSUMED_CONTENTION)


@frozen_input
class FitInput:
    """What a fit is made from.

    Attributes
    ----------
    shots : tuple of FitShot
    trials : tuple of TimedFrame
        In the order of the project, those that are left out among them: readings name them by their index. Those that
        spilled are left out: they say how slow their machine was.
    machines : tuple of (str, FitMachine)
        Those that trials name. One that the brief does not list counts as the reference.
    cost_factors : CostFactors
    seed : int
        Of the draws, >= 0.
    """

    shots: tuple[FitShot, ...]
    trials: tuple[TimedFrame, ...]
    machines: tuple[tuple[str, FitMachine], ...]
    cost_factors: CostFactors
    seed: int = 0

    @property
    def machine(self) -> Mapping[str, FitMachine]:
        """The machines by name."""
        return dict(self.machines)


@narrowing
def _shot(shot: Shot, size: tuple[int, int]) -> FitShot:
    asked = shot.asked
    frame = FrameSettings.model_construct(**{name: getattr(asked, name) for name in FrameSettings.model_fields})
    return FitShot(shot.name, shot.first, shot.last, size, frame)


@narrowing
def timed_frame(trial: Trial) -> TimedFrame:
    """Return what was timed in a trial, without what was said of it."""
    return TimedFrame.model_construct(**{name: getattr(trial, name) for name in TimedFrame.model_fields})


@narrowing
def _spilled(trial: Trial) -> TimedFrame:
    return timed_frame(trial).model_copy(update={"left_out": SPILLED})


@same_as_last
def fit_input(project: Project, seed: int = 0) -> FitInput:
    """Return all that a fit of a project is made from."""
    named = {trial.machine for trial in project.trials}
    spilled = spilled_trials(project)
    return FitInput(
        RecordRow(_shot(shot, project.size_of(shot)) for shot in project.shots),
        RecordRow(_spilled(one) if k in spilled else timed_frame(one) for k, one in enumerate(project.trials)),
        tuple(
            (machine.name, FitMachine(machine.speed, machine.contention, machine.coherency))
            for machine in project.machines
            if machine.name in named
        ),
        project.cost_factors(),
        seed,
    )
