"""Keeps looks, options and plans true to the document. Lives on the GUI thread; the computing is done by jobs.

Options are cached shot by shot, by what they were made from: a lever that is dragged changes only where its shot stands
among them. Nothing is said of two states of the film at once: what is asked is answered for the document as it stands,
from a fit of just its trials and shots and from options of just that fit, or not at all.
"""

from collections.abc import Callable, Mapping
from dataclasses import dataclass
from pathlib import Path
from typing import TYPE_CHECKING

import numpy as np
from PySide6.QtCore import QObject, Signal

from pemlo.app.document import Document
from pemlo.app.file_facts import FILES, FileFacts
from pemlo.app.forecaster import FORECAST, FilmForecast, FittedFilm
from pemlo.app.jobs import Jobs
from pemlo.app.shot_numbers import ShotNumbers
from pemlo.app.weighing import State, Weighed, appearance_key, find_plan, shapes_of, weigh
from pemlo.app.worked_out import Key, Same
from pemlo.core.cost.draws import draw_input
from pemlo.core.progress import Monitor
from pemlo.core.project.project import Project
from pemlo.core.project.settings import LeverName

if TYPE_CHECKING:
    from pemlo.core.predict.shot_appearance import ShotAppearance
    from pemlo.core.trade.best_plan import Goal
    from pemlo.core.trade.options import Options
    from pemlo.core.trade.plan_comparison import PlanRow
    from pemlo.core.trade.planning import FilmPlan

OPTIONS, PLAN, COMPARE = "options", "plan", "compare plans"


@dataclass(frozen=True)
class Found:
    """A plan, and the film that it was made for."""

    project: Project
    plan: "FilmPlan"


class Planner(QObject):
    """Answers what each shot could be, and what is best.

    Attributes
    ----------
    first : str
        Shot that is weighed before the others: somebody looks at it.

    Signals
    -------
    changed()
        Options of some shot are new.
    planned(Found)
    """

    changed = Signal()
    planned = Signal(object)
    _part = Signal(object, object)

    def __init__(self, document: Document, jobs: Jobs, written: FileFacts, folder: Callable[[], Path]) -> None:
        super().__init__()
        self._document, self._jobs, self._written, self._folder = document, jobs, written, folder
        self._kept = Weighed()
        self.numbers = ShotNumbers(self)
        self._answer: FilmForecast | None = None
        self._asked_for: Key = ()
        self._state: tuple[Project | None, FittedFilm | None, State | None] = None, None, None
        self._there: tuple[Project | None, float] = None, 0.0
        self._when_known: dict[str, Callable[[State], None]] = {}
        self._shapes: tuple[Project | None, dict[str, Key]] = None, {}
        self._appearance_keys_now: tuple[Key, dict[str, Key]] = (), {}
        self._paths: tuple[Key, tuple[Path, ...]] = (), ()
        self.first = ""
        document.replaced.connect(self._forget)
        self._part.connect(self._on_part)

    def _forget(self) -> None:
        self._kept, self._asked_for, self._answer = Weighed(), (), None
        self.numbers.forget()
        self._when_known.clear()

    @property
    def state(self) -> State | None:
        """The document as it stands with what is known of it; None while that is found out, or nothing was timed."""
        project, known = self._document.project, None if self._answer is None else self._answer.known
        if self._state[0] is not project or self._state[1] is not known:
            fits = known is not None and known.fit.known and known.inputs == draw_input(project)
            self._state = project, known, State(project, known) if fits and known is not None else None
        return self._state[2]

    @property
    def finding_out(self) -> bool:
        """Whether something is on its way for the document as it stands."""
        return bool({FORECAST, FILES, OPTIONS} & self._jobs.running.keys())

    def options_of(self, shot: str) -> "Options | None":
        """Return the options of a shot, as asked first; None while they are not known."""
        found, state = self._kept.options.get(shot), self.state
        if found is None or state is None or shot not in self.shapes(state.project):
            return None
        return found[1] if found[0] == self._options_key(state, shot) else None

    def _options_key(self, state: State, shot: str) -> Key:
        return (Same(state.known), Same(self.appearance_of(shot)), *self.shapes(state.project)[shot])

    def appearance_of(self, shot: str) -> "ShotAppearance | None":
        """Return how a shot looks, if that is known of its pictures as they are."""
        found = self._kept.appearances.get(shot)
        return found.appearance if found is not None and found.key == self._appearance_keys_now[1].get(shot) else None

    def trouble_of(self, shot: str) -> str:
        """Return why it is not known how a shot looks though it has pictures; empty if nothing went wrong."""
        return self._kept.appearances[shot].trouble if shot in self._kept.appearances else ""

    @property
    def weighing(self) -> bool:
        """Whether options are being weighed anew."""
        return OPTIONS in self._jobs.running

    # What shots could be

    def ask(self, answer: FilmForecast | None) -> None:
        """Bring options up to date with a forecast's fit, where anything they are made from has changed."""
        if answer is not None and answer is not self._answer:
            if self._answer is None or answer.known is not self._answer.known:
                self.numbers.forget()
            self._answer = answer
        state = self.state
        if state is None:
            return
        for act in (self._when_known.pop(key) for key in tuple(self._when_known)):
            act(state)
        project, folder = state.project, self._folder()
        keys_now = self._appearance_keys(project, folder)
        if keys_now is None:
            return  # it is asked again when it is known which pictures there are
        shots = tuple((*keys_now[shot.name], *self.shapes(project)[shot.name]) for shot in project.shots)
        wanted = (Same(state.known), shots)
        if wanted == self._asked_for:
            return
        self._weigh(state, folder, keys_now, wanted)

    def _weigh(self, state: State, folder: Path, keys_now: Mapping[str, Key], wanted: Key) -> None:
        self._asked_for = wanted
        kept, first = self._kept, self.first

        def work(monitor: Monitor) -> Weighed:
            return weigh(state, folder, keys_now, kept, first, lambda part: self._part.emit(wanted, part), monitor)

        def done(found: Weighed) -> None:
            self._kept = found
            self.changed.emit()

        self._jobs.submit(
            OPTIONS,
            "Weighing what each shot could be",
            work,
            done,
            again=lambda: self._weigh(state, folder, keys_now, wanted),
        )

    def _on_part(self, wanted: Key, part: Weighed) -> None:
        """Take what was weighed so far, if it is still what is wanted."""
        if wanted == self._asked_for and self.weighing:
            self._kept = part
            self.changed.emit()

    def _appearance_keys(self, project: Project, folder: Path) -> dict[str, Key] | None:
        """Return what it depends on how each shot looks; None while it is not known which pictures there are."""
        # Records that did not change are the same objects: comparing them takes no time.
        if self._paths[0] != (project.trials, folder):
            paths = tuple(folder / trial.picture for trial in project.trials if trial.picture)
            self._paths = (project.trials, folder), paths
        paths = self._paths[1]
        if not self._written.known(paths):
            return None
        of, keys = self._appearance_keys_now
        now = project.trials, folder, tuple(shot.name for shot in project.shots), tuple(map(self._written.of, paths))
        if of != now:
            keys = {shot.name: appearance_key(project, shot, folder, self._written.of) for shot in project.shots}
            self._appearance_keys_now = now, keys
        return keys

    def shapes(self, project: Project) -> dict[str, Key]:
        """Return what the options of each shot depend on; worked out once for each state of the document."""
        if self._shapes[0] is not project:
            self._shapes = project, shapes_of(project)
        return self._shapes[1]

    def hours_left(self) -> float:
        """Return the machine-hours that the plan leaves with the wanted chance; below 0 where it needs more."""
        draws = [one.hours[-1] for one in self.numbers.waterfalls()]
        confidence = self._document.project.delivery.confidence
        return self.hours_there() - (float(np.quantile(np.sum(draws, axis=0), confidence)) if draws else 0.0)

    def hours_there(self) -> float:
        """Return the machine-hours before the deadline that the document as it stands can use."""
        from pemlo.core.trade.planning import hours_there  # noqa: PLC0415 - heavy to load

        project = self._document.project
        if self._there[0] is not project:
            self._there = project, hours_there(project)
        found = None if self._answer is None else self._answer.forecast
        # The share of them that the film can use is as its last runs say.
        usable = found.hours_usable / found.hours_available if found is not None and found.hours_available else 1.0
        return self._there[1] * usable

    # The best plan

    def plan(self, goal: "Goal", alike: tuple[LeverName, ...] = (), *, few: bool = False) -> None:
        """Look for the best plan of the film as it stands now; once it is known what its shots take, if it is not."""

        def begin(state: State) -> None:
            options = {shot.name: self.options_of(shot.name) for shot in state.project.shots}
            appearances = {shot.name: self.appearance_of(shot.name) for shot in state.project.shots}

            def work(monitor: Monitor) -> Found:
                return Found(state.project, find_plan(state, options, appearances, goal, alike, monitor, few=few))

            self._jobs.submit(
                PLAN,
                "Looking for the best plan",
                work,
                self.planned.emit,
                waited_for=True,
                again=lambda: self.plan(goal, alike, few=few),
            )

        self._once_known(PLAN, begin)

    def compare(self, take: "Callable[[tuple[PlanRow, ...]], None]") -> None:
        """Put as asked, the plan as it stands and all kept ones side by side, and hand that over."""

        def begin(state: State) -> None:
            appearances = {
                one.name: appearance
                for one in state.project.shots
                if (appearance := self.appearance_of(one.name)) is not None
            }
            known = {shot.name: self.options_of(shot.name) for shot in state.project.shots}
            ceilings = {name: options.ceiling for name, options in known.items() if options is not None}

            def work(monitor: Monitor) -> "tuple[PlanRow, ...]":
                from pemlo.core.trade.plan_comparison import compare_plans  # noqa: PLC0415 - heavy to load

                monitor.step(0.0, "Comparing plans")
                return compare_plans(state.project, state.known.fit, state.known.draws, appearances, ceilings)

            self._jobs.submit(COMPARE, "Comparing plans", work, take, waited_for=True, again=lambda: self.compare(take))

        self._once_known(COMPARE, begin)

    def _once_known(self, key: str, act: Callable[[State], None]) -> None:
        """Do something now, or as soon as the document as it stands is known."""
        state = self.state
        if state is None:
            self._when_known[key] = act
        else:
            act(state)

    def is_current(self, found: Found) -> bool:
        """Whether a plan was made for the film as it stands now, but for the settings that a plan may change."""
        return _without_plans(found.project) == _without_plans(self._document.project)


def _without_plans(project: Project) -> tuple[Project, Key]:
    """Return a film without what a plan changes, and where the pinned levers of its shots stand."""
    held = tuple((shot.name, tuple(getattr(shot.settings, lever) for lever in shot.pins)) for shot in project.shots)
    # Nothing of it needs to be checked again.
    shots = tuple(shot.model_copy(update={"plan": None}) for shot in project.shots)
    return project.model_copy(update={"shots": shots, "plans": ()}), held
