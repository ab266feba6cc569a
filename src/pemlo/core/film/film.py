"""A film: the project, its folder, and all that follows from them. Frozen; any thread.

What is asked for is made, or taken from the memo if anybody made it of the same. `peek` only looks: a window asks that.
"""

from collections.abc import Callable, Collection, Hashable, Mapping
from dataclasses import dataclass, field, replace
from functools import cached_property
from pathlib import Path
from typing import TYPE_CHECKING, TypeVar

from pemlo.core.cost.draws import FilmDraws
from pemlo.core.cost.fit_input import FitInput, fit_input
from pemlo.core.cost.next_trial import Advice
from pemlo.core.cost.posterior import Fit
from pemlo.core.errors import FileError
from pemlo.core.film import values
from pemlo.core.film.inputs import (
    AdviceInput,
    HeldInput,
    LookInput,
    OptionsInput,
    PlanInput,
    PlansInput,
    RunInput,
    SettingsInput,
    advice_input,
    look_trials,
    options_inputs,
    run_input,
)
from pemlo.core.film.memo import Key, Memo, Value
from pemlo.core.forecast.finish import Finish
from pemlo.core.forecast.verdict import Forecast
from pemlo.core.persistence.document import read_project
from pemlo.core.progress import Monitor
from pemlo.core.project.project import Project
from pemlo.core.project.settings import LeverName
from pemlo.core.project.shots import Shot

if TYPE_CHECKING:
    from pemlo.core.predict.shot_appearance import ShotAppearance
    from pemlo.core.trade.best_plan import Goal
    from pemlo.core.trade.options import Options
    from pemlo.core.trade.plan_comparison import PlanRow
    from pemlo.core.trade.planning import FilmPlan

I = TypeVar("I", bound=Hashable)  # noqa: E741 - an input
V = TypeVar("V")
Written = Callable[[Path], int | None]


def when_written(path: Path) -> int | None:
    """Return when a file was written, ns; None if it is not there, or is no file."""
    try:
        return path.stat().st_mtime_ns if path.is_file() else None
    except OSError:
        return None


def open_film(path: Path, seed: int = 0) -> "Film":
    """Read a film from a file.

    Raises
    ------
    FileError, InputError
        If it cannot be read.
    """
    return Film(read_project(path), path.resolve().parent, seed=seed)


@dataclass(frozen=True, eq=False)
class Film:
    """A project with everything derived from it.

    Attributes
    ----------
    project : Project
    folder : Path
        From which names of pictures are taken.
    memo : Memo
        Where values are kept; films that share one share what is the same in them.
    seed : int
        Of the draws; the same seed, the same numbers.
    written : callable
        Says when a picture was written, ns; None where there is none, or nobody looked yet.
    fitted_to : FitInput, optional
        To which the fit was made, where that is not the project's own.
    """

    project: Project
    folder: Path = Path()
    memo: Memo = field(default_factory=Memo)
    seed: int = 0
    written: Written = when_written
    fitted_to: FitInput | None = None

    # What values are made from

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
            there = [(trial, time) for trial, time in times if time is not None]
            if there:
                found[shot] = LookInput(tuple(one for one, _ in there), self.folder, tuple(time for _, time in there))
        return found

    @cached_property
    def options_inputs(self) -> Mapping[str, OptionsInput]:
        """What the options of each shot are made from, as it was asked for."""
        return options_inputs(self.project, self.fit_input, self.look_inputs, held=False)

    @cached_property
    def held_inputs(self) -> Mapping[str, OptionsInput]:
        """The same where the plan is an option, and pinned levers stay where it has them."""
        return options_inputs(self.project, self.fit_input, self.look_inputs, held=True)

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
        return SettingsInput(self.options_inputs[shot.name], shot.settings)

    def options_now_input(self, shot: Shot) -> OptionsInput | HeldInput:
        """Return what those options of a shot are made from that leave its pinned levers where they are."""
        return HeldInput(self.settings_input(shot), shot.pins) if shot.pins else self.options_inputs[shot.name]

    @cached_property
    def frontier_input(self) -> tuple[OptionsInput | HeldInput, ...]:
        """What the best plans of the film, from the best picture to the fewest hours, are made from."""
        return tuple(self.options_now_input(shot) for shot in self.project.shots)

    # Values

    def get(self, value: Value[I, V], given: I, monitor: Monitor | None = None) -> V:
        """Return a value; made if nobody made it of the same."""
        return self.memo.get(value, given, monitor)

    def peek(self, value: Value[I, V], given: I) -> V | None:
        """Return a value if it is there."""
        return self.memo.peek(value, given)

    @property
    def fit(self) -> Fit:
        """What is known of the cost of every shot."""
        return self.get(values.FIT, self.fit_input)

    @property
    def draws(self) -> FilmDraws:
        """Draws of what each shot costs."""
        run = self.run_input
        return {shot.name: self.get(values.DRAWS, run.draws_of(shot)) for shot in run.shots}

    @property
    def known(self) -> tuple[Fit, FilmDraws]:
        """The fit and its draws."""
        return self.fit, self.draws

    @property
    def forecast(self) -> Forecast:
        """Hours, finish and chance: with every frame run, if that can be done."""
        return self.get(values.FORECAST, self.run_input)

    @property
    def run(self) -> Finish:
        """Who renders what when, in many draws.

        Raises
        ------
        InputError
            If nothing was timed, no machine is ever free, or there are too many to run one by one.
        """
        return self.get(values.RUN, self.run_input)

    def look(self, shot: str) -> "ShotAppearance | None":
        """Return how a shot looks; None if its pictures do not tell.

        Raises
        ------
        FileError
            If a picture is damaged.
        """
        from pemlo.core.film import choices  # noqa: PLC0415 - loads what reads pictures

        given = self.look_inputs.get(shot)
        return None if given is None else self.get(choices.LOOK, given)

    def looks(self, monitor: Monitor | None = None) -> "tuple[Mapping[str, ShotAppearance], tuple[FileError, ...]]":
        """Return how the shots look of which that is known, and what could not be read."""
        from pemlo.core.film import choices  # noqa: PLC0415 - loads what reads pictures

        found, troubles = {}, []
        for shot, given in self.look_inputs.items():
            try:
                look = self.get(choices.LOOK, given, monitor)
            except FileError as error:
                troubles.append(error)
                continue
            if look is not None:
                found[shot] = look
        return found, tuple(troubles)

    def options(self, shot: str) -> "Options":
        """Return what a shot could be."""
        from pemlo.core.film import choices  # noqa: PLC0415 - loads what reads pictures

        return self.get(choices.OPTIONS, self.options_inputs[shot])

    def plan(self, goal: "Goal" = "picture", alike: Collection[LeverName] = (), *, few: bool = False) -> "FilmPlan":
        """Return the best plan that leaves pinned levers where they are."""
        from pemlo.core.film import choices  # noqa: PLC0415 - loads what reads pictures

        return self.get(choices.PLAN, self.plan_input(goal, alike, few=few))

    def plans(self) -> "tuple[PlanRow, ...]":
        """Return as asked, the plan as it stands, and every kept plan, side by side."""
        from pemlo.core.film import choices  # noqa: PLC0415 - loads what reads pictures

        return self.get(choices.PLANS, self.plans_input)

    def advice(self) -> tuple[Advice, ...]:
        """Return next trials, the most telling first."""
        found = [one for shot in self.project.shots for one in self.get(values.ADVICE, self.advice_input(shot))]
        return tuple(sorted(found, key=lambda one: -one.variance_per_minute))

    # Other films

    def changed(self, project: Project) -> "Film":
        """Return the film with another project."""
        return replace(self, project=project)

    def with_pictures_seen(self) -> "Film":
        """Return the film as its folder has it: the disk is asked when each picture was written."""
        return replace(self, written=when_written)

    def hold(self, holder: object, *, looks: bool = True) -> None:
        """Let what is made of this film stay in the memo, in place of what the holder held before.

        Parameters
        ----------
        looks : bool
            Also how shots look and what they could be; for that the disk is asked for their pictures.
        """
        self.memo.hold(holder, [*self._keys(), *(self._look_keys() if looks else ())])

    def _keys(self) -> list[Key]:
        run = self.run_input
        of_run = (values.FIRST_FORECAST, values.QUICK_FORECAST, values.FORECAST, values.RUN)
        of_facts = (values.KEPT, values.ORDERS, values.MOVES)
        return [
            values.FIT.key(self.fit_input),
            *(values.DRAWS.key(run.draws_of(shot)) for shot in run.shots),
            *(value.key(run) for value in (*of_run, *of_facts)),
            *(values.ADVICE.key(self.advice_input(shot)) for shot in self.project.shots),
        ]

    def _look_keys(self) -> list[Key]:
        from pemlo.core.film import choices  # noqa: PLC0415 - loads what reads pictures

        return [
            *(choices.LOOK.key(given) for given in self.look_inputs.values()),
            *(choices.OPTIONS.key(given) for given in self.options_inputs.values()),
        ]
