"""A film: the project, its folder, and all that follows from them. Frozen; any thread.

What is asked for is made, or taken from the memo if anybody made it of the same. `peek` only looks: a window asks that.
"""

from collections.abc import Collection, Hashable, Mapping
from dataclasses import dataclass, field, replace
from datetime import datetime
from pathlib import Path
from typing import TYPE_CHECKING, TypeVar

from pemlo.core.cost.draws import FilmDraws
from pemlo.core.cost.next_trial import Advice
from pemlo.core.cost.posterior import Fit
from pemlo.core.errors import FileError
from pemlo.core.files.written import when_written
from pemlo.core.film import values
from pemlo.core.film.film_inputs import FilmInputs
from pemlo.core.film.inputs import SettingsInput, run_input
from pemlo.core.film.memo import Key, Maker, Memo, Value
from pemlo.core.forecast.finish import Finish
from pemlo.core.forecast.verdict import Forecast
from pemlo.core.persistence.document import read_project
from pemlo.core.progress import Monitor, Unwatched
from pemlo.core.project.project import Project
from pemlo.core.project.settings import LeverName
from pemlo.core.project.shots import Shot
from pemlo.core.project.start import with_start_now

if TYPE_CHECKING:
    from pemlo.core.predict.shot_appearance import ShotAppearance
    from pemlo.core.trade.best_plan import Goal
    from pemlo.core.trade.options import Options
    from pemlo.core.trade.plan_comparison import PlanRow
    from pemlo.core.trade.planning import FilmPlan

I = TypeVar("I", bound=Hashable)  # noqa: E741 - an input
V = TypeVar("V")


def open_film(path: Path, seed: int = 0, now: datetime | None = None) -> "Film":
    """Read a film from a file; the start of one that begins now is this minute, if it is said which that is.

    Raises
    ------
    FileError, InputError
        If it cannot be read.
    """
    project = read_project(path)
    return Film(project if now is None else with_start_now(project, now), path.resolve().parent, seed=seed)


@dataclass(frozen=True, eq=False)
class Film(FilmInputs):
    """A project with everything derived from it.

    Attributes
    ----------
    memo : Memo
        Where values are kept; films that share one share what is the same in them.
    """

    memo: Memo = field(default_factory=Memo)

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
        return self.known[1]

    @property
    def known(self) -> tuple[Fit, FilmDraws]:
        """The fit and its draws."""
        return values.known_of(self.run_input, Maker(self.memo, Unwatched()))

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
        found = [advice for shot in self.project.shots for advice in self.get(values.ADVICE, self.advice_input(shot))]
        return tuple(sorted(found, key=lambda advice: -advice.variance_per_minute))

    # Other films

    def with_project(self, project: Project) -> "Film":
        """Return the film with another project."""
        return replace(self, project=project)

    def forecast_with(self, project: Project, monitor: Monitor | None = None) -> Forecast:
        """Return the forecast of the film as a project has its settings, by the fit of this one."""
        return self.get(values.FORECAST, run_input(project, self.fit_input), monitor)

    def with_pictures_seen(self) -> "Film":
        """Return the film as its folder has it: the disk is asked when each picture was written."""
        return replace(self, written=when_written)

    def as_known(self, shot: Shot) -> SettingsInput:
        """Return what a shot's numbers are made from now: without its look while nobody has looked.

        Numbers are made at once, and do not wait for pictures; what they lack then is in their input.
        """
        from pemlo.core.film import choices  # noqa: PLC0415 - loads what reads pictures

        given = self.settings_input(shot)
        look = given.options.look
        if look is None or self.memo.has(choices.LOOK.key(look)):
            return given
        return replace(given, options=replace(given.options, look=None))

    def hold(self, holder: object, *, looks: bool = True, monitor: Monitor | None = None) -> None:
        """Let what is made of this film stay in the memo, in place of what the holder held before.

        Parameters
        ----------
        looks : bool
            Also how shots look and what a plan may choose; for that the disk is asked for their pictures.
        monitor : Monitor, optional
            Asked before anything is let go of.
        """
        keys = [*self._keys(), *(self._look_keys() if looks else ())]
        if monitor is not None:
            monitor.step(1.0, "Keeping what is known")
        self.memo.hold(holder, keys)

    def _keys(self) -> list[Key]:
        run = self.run_input
        return [
            values.FIT.key(self.fit_input),
            # Of a very large film larger than all that gives way; let go of once the fit is there.
            values.BEGUN.key(self.fit_input),
            values.FIRST_ANSWER.key(run),
            *(value.key(run) for value in values.OF_RUN),
            *(values.DRAWS.key(run.draws_of(shot)) for shot in run.shots),
            *(value.key(run) for value in (values.KEPT, values.ORDERS, values.MOVES)),
            *(values.ADVICE.key(self.advice_input(shot)) for shot in self.project.shots),
        ]

    def _look_keys(self) -> list[Key]:
        from pemlo.core.film import choices  # noqa: PLC0415 - loads what reads pictures

        return [
            *(choices.LOOK.key(given) for given in self.look_inputs.values()),
            *(choices.PLAN_OPTIONS.key(given) for given in self.options_inputs.values()),
            *(value.key(given) for given in self.settings_inputs for value in (choices.FALL, choices.NUMBERS)),
        ]
