"""What the values of a film are made from, worked out once for each state of it. Frozen; any thread."""

from collections.abc import Callable, Collection, Mapping
from dataclasses import dataclass
from functools import cached_property
from pathlib import Path
from typing import TYPE_CHECKING, Self

from pemlo.core.cost.fit_input import FitInput, fit_input
from pemlo.core.files.written import when_written
from pemlo.core.film.inputs import (
    AdviceInput,
    HeldInput,
    LookInput,
    OptionsInput,
    OptionsInputs,
    PlanInput,
    PlansInput,
    RunInput,
    SettingsInput,
    advice_input,
    look_trials,
    run_input,
    settings_input,
)
from pemlo.core.project.project import Project
from pemlo.core.project.settings import LeverName
from pemlo.core.project.shots import Shot

if TYPE_CHECKING:
    from pemlo.core.trade.best_plan import Goal

Written = Callable[[Path], int | None]


@dataclass(frozen=True, eq=False)
class FilmInputs:
    """A project with its folder, and what each of its values is made from.

    Attributes
    ----------
    project : Project
    folder : Path
        From which names of pictures are taken.
    seed : int
        Of the draws; the same seed, the same numbers.
    written : callable
        Says when a picture was written, ns; None where there is none, or nobody looked yet.
    fitted_to : FitInput, optional
        To which the fit was made, where that is not the project's own.
    """

    project: Project
    folder: Path = Path()
    seed: int = 0
    written: Written = when_written
    fitted_to: FitInput | None = None

    @cached_property
    def fit_input(self) -> FitInput:
        """What the fit is made from."""
        return fit_input(self.project, self.seed) if self.fitted_to is None else self.fitted_to

    @cached_property
    def run_input(self) -> RunInput:
        """What the forecast is made from."""
        return run_input(self.project, self.fit_input)

    @cached_property
    def look_inputs(self) -> Mapping[str, LookInput]:
        """What it depends on how each shot looks, of those that have pictures."""
        found = {}
        for shot, trials in look_trials(self.project).items():
            times = [(trial, self.written(self.folder / trial.picture)) for trial in trials]
            pictured = [(trial, time) for trial, time in times if time is not None]
            if pictured:
                found[shot] = LookInput(
                    tuple(one for one, _ in pictured), self.folder, tuple(time for _, time in pictured)
                )
        return found

    @cached_property
    def options_inputs(self) -> Mapping[str, OptionsInput]:
        """What the options of each shot are made from, as it was asked for."""
        return OptionsInputs(self.project, self.fit_input, self.look_inputs, held=False)

    @cached_property
    def held_inputs(self) -> Mapping[str, OptionsInput]:
        """The same where the plan is an option, and pinned levers stay where it has them."""
        return OptionsInputs(self.project, self.fit_input, self.look_inputs, held=True)

    def with_pictures_of(self, other: "FilmInputs") -> Self:
        """Return the same, with the pictures as they were seen for another state of the film, if they are the same."""
        same = other.folder == self.folder and other.project.trials == self.project.trials
        if same and "look_inputs" in other.__dict__:
            self.__dict__["look_inputs"] = other.look_inputs
        return self

    def plan_input(self, goal: "Goal", alike: Collection[LeverName] = (), *, few: bool = False) -> PlanInput:
        """Return what the best plan is made from."""
        shots = self.project.shots
        return PlanInput(
            self.run_input,
            tuple(self.held_inputs[shot.name] for shot in shots),
            tuple(shot.weight for shot in shots),
            tuple(shot.pins for shot in shots),
            goal,
            tuple(alike),
            few,
        )

    @property
    def plans_input(self) -> PlansInput:
        """What plans side by side are made from."""
        return PlansInput(self.run_input, tuple(self.options_inputs.values()), self.project.plans)

    def advice_input(self, shot: Shot) -> AdviceInput:
        """Return what it depends on which trial of a shot tells most."""
        return advice_input(self.project, self.fit_input, shot)

    def settings_input(self, shot: Shot) -> SettingsInput:
        """Return what a shot costs and gives as it stands is made from."""
        return settings_input(shot, self.options_inputs[shot.name])

    @cached_property
    def settings_inputs(self) -> tuple[SettingsInput, ...]:
        """What each shot costs and gives as it stands is made from."""
        return tuple(self.settings_input(shot) for shot in self.project.shots)

    def options_now_input(self, shot: Shot) -> OptionsInput | HeldInput:
        """Return what those options of a shot are made from that leave its pinned levers where they are."""
        return HeldInput(self.settings_input(shot), shot.pins) if shot.pins else self.options_inputs[shot.name]

    @cached_property
    def frontier_input(self) -> tuple[OptionsInput | HeldInput, ...]:
        """What the best plans of the film, from the best picture to the fewest hours, are made from."""
        return tuple(self.options_now_input(shot) for shot in self.project.shots)
