"""What each value of a film is made from, and all that it gets. Pure, and quick: worked out anew after every edit.

An input that leaves something out cannot give a stale answer, only a wrong one at once: what makes the value has
nothing else to look at. `tests/core/film` holds every value against one made of the whole project.
"""

from collections.abc import Iterator, Mapping
from dataclasses import replace
from datetime import datetime
from functools import cached_property
from pathlib import Path
from typing import TYPE_CHECKING, Any

from pemlo.core.cost.draws import DrawnShot, drawn_shot
from pemlo.core.cost.fit_input import FitInput
from pemlo.core.forecast.needs import as_one
from pemlo.core.project.delivery import Delivery
from pemlo.core.project.kept_plans import KeptPlan
from pemlo.core.project.lookup import looked_up, shots_by_name, speeds
from pemlo.core.project.machines import Machine
from pemlo.core.project.named_settings import NamedSettings
from pemlo.core.project.narrow import RecordRow, bare, frozen_input, narrowing
from pemlo.core.project.passing import Passing, passing_by_likes, passing_of
from pemlo.core.project.project import Project
from pemlo.core.project.running import Running
from pemlo.core.project.settings import LeverName, ShotSettings
from pemlo.core.project.shots import Shot
from pemlo.core.project.trials import TimedFrame, Trial

if TYPE_CHECKING:
    from pemlo.core.trade.best_plan import Goal

SHOWN_NOWHERE = "film"  # the title of a project that only a computation sees


@frozen_input
class DrawsInput:
    """What the draws of a shot are made from."""

    fit: FitInput
    shot: DrawnShot


@frozen_input
class RunInput:
    """What the run of a film, and its forecast, are made from.

    Attributes
    ----------
    trials : tuple of Trial
        What they take on disk and in memory; times are in the fit.
    """

    fit: FitInput
    start: datetime
    delivery: Delivery
    shots: tuple[Shot, ...]
    machines: tuple[Machine, ...]
    running: Running
    sets: tuple[NamedSettings, ...]
    trials: tuple[Trial, ...]

    def draws_of(self, shot: Shot) -> DrawsInput:
        """Return what the draws of one of the shots are made from."""
        return _draws_input(shot, self.fit)

    def film(self) -> Project:
        """Return it as a project in which nothing else stands."""
        return bare(
            Project,
            title=SHOWN_NOWHERE,
            start=self.start,
            delivery=self.delivery,
            shots=self.shots,
            machines=self.machines,
            running=self.running,
            sets=self.sets,
            trials=self.trials,
        )


@frozen_input
class LookInput:
    """What it depends on how a shot looks: its trials with pictures, and when those were written, ns."""

    trials: tuple[Trial, ...]
    folder: Path
    written: tuple[int, ...]


@frozen_input
class OptionsInput:
    """What the options of a shot are made from.

    Attributes
    ----------
    shot : Shot
        With its plan and pinned levers only where these are held.
    machine : Machine
        All of them as one.
    """

    fit: FitInput
    shot: Shot
    size: tuple[int, int]
    machine: Machine
    retake_share: float
    passing: Passing
    look: LookInput | None

    @property
    def draws(self) -> DrawsInput:
        """What the shot's draws are made from."""
        return DrawsInput(self.fit, drawn_shot(self.shot))

    def film(self) -> Project:
        """Return it as a project in which nothing else stands."""
        return self._film

    @cached_property
    def _film(self) -> Project:
        delivery = bare(Delivery, width=self.size[0], height=self.size[1], retake_share=self.retake_share)
        return bare(
            Project,
            title=SHOWN_NOWHERE,
            delivery=delivery,
            shots=(self.shot,),
            machines=(self.machine,),
            trials=self.fit.trials,
        )


@frozen_input
class SettingsInput:
    """What a shot costs and gives as it stands is made from: what it could be, and where its levers stand."""

    options: OptionsInput
    settings: ShotSettings

    def shot(self) -> Shot:
        """Return the shot as it stands."""
        return self.options.shot.model_copy(update={"plan": self.settings})


@frozen_input
class HeldInput:
    """What options are made from that leave some levers where they stand."""

    standing: SettingsInput
    pins: tuple[LeverName, ...]


@frozen_input
class PlanInput:
    """What the best plan of a film is made from."""

    run: RunInput
    options: tuple[OptionsInput, ...]
    weights: tuple[float, ...]
    pins: tuple[tuple[LeverName, ...], ...]
    goal: "Goal"
    alike: tuple[LeverName, ...] = ()
    few: bool = False

    def film(self) -> Project:
        """Return it as a project in which nothing else stands."""
        film = self.run.film()
        shots = tuple(
            shot.model_copy(update={"weight": weight, "pins": pins})
            for shot, weight, pins in zip(film.shots, self.weights, self.pins, strict=True)
        )
        return film.model_copy(update={"shots": shots})


@frozen_input
class PlansInput:
    """What plans side by side are made from: the run, what each shot could be, and the plans that are kept."""

    run: RunInput
    options: tuple[OptionsInput, ...]
    plans: tuple[KeptPlan, ...]


@frozen_input
class AdviceInput:
    """What it depends on which trial of a shot tells most."""

    fit: FitInput
    shot: Shot
    size: tuple[int, int]
    speeds: tuple[tuple[str, float], ...]

    def film(self) -> Project:
        """Return it as a project in which nothing else stands."""
        machines = tuple(bare(Machine, name=name, speed=speed) for name, speed in self.speeds)
        delivery = bare(Delivery, width=self.size[0], height=self.size[1])
        return bare(
            Project,
            title=SHOWN_NOWHERE,
            delivery=delivery,
            shots=(self.shot,),
            machines=machines,
            trials=self.fit.trials,
        )


@narrowing
def _draws_input(shot: Shot, fit: FitInput) -> DrawsInput:
    return DrawsInput(fit, drawn_shot(shot))


@narrowing
def shot_to_run(shot: Shot) -> Shot:
    """Return a shot as its run knows it: what moves in it decides what can be kept; what passes does not count."""
    return shot.model_copy(
        update={
            "fps": None,
            "ceiling": None,
            "weight": 1.0,
            "pins": (),
            "allows": (),
            "marks": (),
            "place": "",
            "cameras": (),
            "extra_columns": (),
        }
    )


@narrowing
def shot_to_weigh(shot: Shot) -> Shot:
    """Return a shot as its options know it."""
    return shot_to_weigh_held(shot).model_copy(update={"plan": None, "pins": ()})


@narrowing
def shot_to_weigh_held(shot: Shot) -> Shot:
    """Return a shot as its options know it where its plan and pinned levers are held."""
    return shot.model_copy(
        update={
            "fps": None,
            "weight": 1.0,
            "only_on": (),
            "marks": (),
            "look": "",
            "part_of": "",
            "due": None,
            "priority": 0,
            "after": (),
            "place": "",
            "cameras": (),
            "approval": "waiting",
            "extra_columns": (),
        }
    )


@narrowing
def _machine(machine: Machine) -> Machine:
    return machine.model_copy(update={"extra_columns": ()})


_TAKEN = (*TimedFrame.model_fields, "memory_gib", "disk_mib")
_SEEN = (*TimedFrame.model_fields, "seed", "picture")


@narrowing
def _taken(trial: Trial) -> Trial:
    return Trial.model_construct(**{name: getattr(trial, name) for name in _TAKEN})


@narrowing
def _seen(trial: Trial) -> Trial:
    return Trial.model_construct(**{name: getattr(trial, name) for name in _SEEN})


def run_input(project: Project, fit: FitInput) -> RunInput:
    """Return what the run of a project is made from."""
    return RunInput(
        fit,
        project.start,
        project.delivery.model_copy(update={"fps": 24.0, "seen_from": "desk", "currency": ""}),
        tuple(map(shot_to_run, project.shots)),
        tuple(map(_machine, project.machines)),
        project.running,
        project.sets,
        RecordRow(map(_taken, project.trials)),
    )


def look_trials(project: Project) -> dict[str, tuple[Trial, ...]]:
    """Return of each shot the trials that have a picture."""
    found: dict[str, list[Trial]] = {}
    for trial in project.trials:
        if trial.picture:
            found.setdefault(trial.shot, []).append(_seen(trial))
    return {shot: tuple(trials) for shot, trials in found.items()}


class OptionsInputs(Mapping[str, OptionsInput]):
    """What the options of each shot are made from; of a shot worked out once somebody asks for it.

    Parameters
    ----------
    project : Project
    fit : FitInput
    looks : mapping of str to LookInput
    held : bool
        Whether pinned levers stay where the plan has them, and the plan is an option.
    """

    def __init__(self, project: Project, fit: FitInput, looks: Mapping[str, LookInput], *, held: bool) -> None:
        self._project, self._fit, self._looks = project, fit, looks
        self._shots = shots_by_name(project.shots)
        # Marks are few, and hold for shots of the same look: they are sought among the trials that have one.
        self._marked = project.model_copy(update={"trials": tuple(trial for trial in project.trials if trial.mark)})
        self._machine = looked_up(project.machines, "as one", lambda: as_one(project.machines))
        self._make = _held_options_input if held else _options_input
        has_marks = self._marked.trials or any(shot.marks for shot in project.shots)
        self._likes = passing_by_likes(project) if has_marks else {}
        self._made: dict[str, OptionsInput] = {}

    def __getitem__(self, name: str) -> OptionsInput:
        made = self._made.get(name)
        if made is None:
            shot = self._shots[name]
            made = self._made[name] = self._make(
                shot,
                self._fit,
                self._project.size_of(shot),
                self._machine,
                self._project.delivery.retake_share,
                _passing(self._likes.get(name) or passing_of(self._marked, shot)),
                self._looks.get(name),
            )
        return made

    def __iter__(self) -> Iterator[str]:
        return iter(self._shots)

    def __len__(self) -> int:
        return len(self._shots)


# Of a shot that is what it was, what its options are made from is the very same: nothing is compared all the way up.


@narrowing
def _options_input(shot: Shot, fit: FitInput, *more: Any) -> OptionsInput:  # noqa: ANN401 - the fields that follow
    return OptionsInput(fit, shot_to_weigh(shot), *more)


@narrowing
def settings_input(shot: Shot, options: OptionsInput) -> SettingsInput:
    """Return what a shot costs and gives as it stands is made from."""
    return SettingsInput(options, shot.settings)


@narrowing
def _held_options_input(shot: Shot, fit: FitInput, *more: Any) -> OptionsInput:  # noqa: ANN401 - as above
    return OptionsInput(fit, shot_to_weigh_held(shot), *more)


def _passing(passing: Passing) -> Passing:
    """Return what passes of a shot, without what the marks are called and what was noted: that decides nothing."""
    if not passing.eye:
        return passing
    return replace(passing, eye=tuple(replace(mark, name="", note="", frame=None) for mark in passing.eye))


def advice_input(project: Project, fit: FitInput, shot: Shot) -> AdviceInput:
    """Return what it depends on which trial of a shot tells most."""
    return AdviceInput(fit, shot_to_advise(shot), project.size_of(shot), speeds(project.machines))


@narrowing
def shot_to_advise(shot: Shot) -> Shot:
    """Return a shot as it decides which of its frames to time."""
    return shot_to_run(shot).model_copy(
        update={
            "look": "",
            "part_of": "",
            "due": None,
            "priority": 0,
            "after": (),
            "only_on": (),
            "approval": "waiting",
        }
    )
