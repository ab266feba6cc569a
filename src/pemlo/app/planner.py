"""Looks up what each shot could be and what is best, and asks for the rest. GUI thread; the work is done by jobs.

Nothing is said of two states of the film at once: what is asked is answered for the film as it stands, or not at all.
"""

import time
from collections.abc import Callable
from dataclasses import dataclass
from typing import TYPE_CHECKING, Any

import numpy as np
from PySide6.QtCore import QObject, Signal

from pemlo.app.file_facts import FILES
from pemlo.app.film_state import FilmState
from pemlo.app.film_work import FORECAST
from pemlo.app.jobs import Jobs
from pemlo.app.shot_metrics import MOST_AT_ONCE, ShotMetrics
from pemlo.core.progress import Monitor
from pemlo.core.project.project import Project
from pemlo.core.project.settings import LeverName

if TYPE_CHECKING:
    from pemlo.core.film.film import Film
    from pemlo.core.film.memo import Value
    from pemlo.core.predict.shot_appearance import ShotAppearance
    from pemlo.core.project.shots import Shot
    from pemlo.core.trade.best_plan import Goal
    from pemlo.core.trade.options import Options
    from pemlo.core.trade.plan_comparison import PlanRow
    from pemlo.core.trade.planning import FilmPlan

Wanted = tuple[tuple["Value[Any, Any]", Any], ...]  # values, and what they are made from
OPTIONS, PLAN, COMPARE = "options", "plan", "compare plans"
PART_S = 0.7
MOST_NEAR = 60  # shots that are weighed before anybody looks at them


@dataclass(frozen=True)
class Found:
    """A plan, and the film that it was made for."""

    film: "Film"
    plan: "FilmPlan"

    @property
    def project(self) -> Project:
        """The project of the film."""
        return self.film.project


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
    _part = Signal()

    def __init__(self, state: FilmState, jobs: Jobs) -> None:
        super().__init__()
        self.state, self._jobs = state, jobs
        self.numbers = ShotMetrics(state, self)
        self._asked_for: Wanted = ()
        self.first = ""
        self._part.connect(self._on_part)

    @property
    def finding_out(self) -> bool:
        """Whether something is on its way for the film as it stands."""
        return bool({FORECAST, FILES, OPTIONS} & self._jobs.running.keys())

    # What shots could be

    def options_of(self, shot: str) -> "Options | None":
        """Return the options of a shot, as asked first; None while they are not known."""
        if self.state.known is None or shot not in self.state.film.options_inputs or not self.state.pictures_known():
            return None
        from pemlo.core.film.choices import OPTIONS as VALUE  # noqa: PLC0415 - heavy to load

        return self.state.film.peek(VALUE, self.state.film.options_inputs[shot])

    def plan_options(self) -> "dict[str, Options]":
        """Return what a plan may choose of the shots of which that is known, as asked first."""
        film = self.state.film
        if self.state.known is None or not self.state.pictures_known():
            return {}
        from pemlo.core.film.choices import PLAN_OPTIONS  # noqa: PLC0415 - heavy to load

        found = film.memo.peek_all(PLAN_OPTIONS, film.options_inputs.values())
        return {shot: one for shot, one in zip(film.options_inputs, found, strict=True) if one is not None}

    def weighed_shots(self) -> "tuple[Shot, ...]":
        """Return the shots of which all options are known."""
        film = self.state.film
        if self.state.known is None or not self.state.pictures_known():
            return ()
        from pemlo.core.film.choices import OPTIONS as VALUE  # noqa: PLC0415 - heavy to load

        found = film.memo.peek_all(VALUE, film.options_inputs.values())
        return tuple(shot for shot, one in zip(film.project.shots, found, strict=True) if one is not None)

    def appearance_of(self, shot: str) -> "ShotAppearance | None":
        """Return how a shot looks, if that is known of its pictures as they are."""
        from pemlo.core.film.choices import LOOK  # noqa: PLC0415 - heavy to load

        given = self.state.film.look_inputs.get(shot) if self.state.pictures_known() else None
        return None if given is None else self.state.film.peek(LOOK, given)

    def trouble_of(self, shot: str) -> str:
        """Return why it is not known how a shot looks though it has pictures; empty if nothing went wrong."""
        from pemlo.core.film.choices import LOOK  # noqa: PLC0415 - heavy to load

        given = self.state.film.look_inputs.get(shot)
        trouble = None if given is None else self.state.film.memo.trouble(LOOK, given)
        return "" if trouble is None else str(trouble)

    @property
    def weighing(self) -> bool:
        """Whether options are being weighed anew."""
        return OPTIONS in self._jobs.running

    def ask(self) -> None:
        """Ask for the options that are not known of the film as it stands."""
        self.state.ask_for_pictures()
        if self.state.known is None or not self.state.pictures_known():
            return  # it is asked again when that is known
        film = self.state.film
        values = wanted(film, self.first)
        film.memo.hold(self, [value.key(given) for value, given in values])
        missing = tuple((value, given) for value, given in values if not film.memo.has(value.key(given)))
        # Few that are made at once are made when they are shown.
        if len(missing) <= MOST_AT_ONCE and all(value.at_once for value, _ in missing):
            self._asked_for = ()
            self._jobs.cancel(OPTIONS)
        elif missing != self._asked_for:
            self._weigh(film, missing)

    def _weigh(self, film: "Film", missing: Wanted) -> None:
        self._asked_for = missing

        def work(monitor: Monitor) -> None:
            weigh(film, missing, self._part.emit, monitor)

        def done(_: None) -> None:
            self._asked_for = ()
            self.changed.emit()

        def again() -> None:
            self._asked_for = ()
            self.ask()

        self._jobs.submit(OPTIONS, "Weighing what each shot could be", work, done, again=again)

    def _on_part(self) -> None:
        """Show what was weighed so far, if anything still is."""
        if self.weighing:
            self.changed.emit()

    def hours_left(self) -> float:
        """Return the machine-hours that the plan leaves with the chance asked for; below 0 where it needs more."""
        confidence = self.state.film.project.delivery.confidence
        return self.hours_available_of() - float(np.quantile(self.numbers.film_hours(), confidence))

    def hours_available_of(self) -> float:
        """Return the machine-hours before the deadline that the film can use, as its last forecast says."""
        answer = self.state.answer
        return 0.0 if answer is None else answer.forecast.hours_usable

    # The best plan

    def plan(self, goal: "Goal", alike: tuple[LeverName, ...] = (), *, few: bool = False) -> None:
        """Look for the best plan of the film as it stands now."""
        film = self.state.film

        def work(monitor: Monitor) -> Found:
            return Found(film, find_plan(film, goal, alike, monitor, few=few))

        self._jobs.submit(
            PLAN,
            "Looking for the best plan",
            work,
            self.planned.emit,
            waited_for=True,
            again=lambda: self.plan(goal, alike, few=few),
        )

    def compare(self, take: "Callable[[tuple[PlanRow, ...]], None]") -> None:
        """Put as asked, the plan as it stands and all kept ones side by side, and hand that over."""
        film = self.state.film

        def work(monitor: Monitor) -> "tuple[PlanRow, ...]":
            from pemlo.core.film.choices import PLANS  # noqa: PLC0415 - heavy to load

            seen = film.with_pictures_seen()
            return seen.get(PLANS, seen.plans_input, monitor)

        self._jobs.submit(COMPARE, "Comparing plans", work, take, waited_for=True, again=lambda: self.compare(take))

    def is_current(self, found: Found) -> bool:
        """Whether a plan was made for the film as it stands now, but for what the plan changes itself."""
        now = self.state.film
        if found.film is now:
            return True
        stands = _without_plans(now.project)
        return stands in (_without_plans(found.project), _without_plans(found.plan.running.taken(found.project)))


def find_plan(film: "Film", goal: "Goal", alike: tuple[LeverName, ...], monitor: Monitor, *, few: bool) -> "FilmPlan":
    """Return the best plan of a film, with its pictures as they are now."""
    from pemlo.core.film.choices import PLAN as VALUE  # noqa: PLC0415 - heavy to load

    seen = film.with_pictures_seen()
    return seen.get(VALUE, seen.plan_input(goal, alike, few=few), monitor)


def wanted(film: "Film", first: str) -> Wanted:
    """Return what is looked at of a film: what the shot that somebody looks at could be, then what all shots come to.

    Then follow the shots beside it, which are looked at next: of a thousand shots only some.
    """
    from pemlo.core.film.choices import FALL, NUMBERS, PLAN_OPTIONS, SAVING_STEPS, STEPS  # noqa: PLC0415 - heavy to load
    from pemlo.core.film.choices import OPTIONS as VALUE  # noqa: PLC0415 - as above

    inputs = list(film.options_inputs.values())
    at = next((number for number, one in enumerate(inputs) if one.shot.name == first), 0)
    near = sorted(range(len(inputs)), key=lambda number: abs(number - at))[:MOST_NEAR]
    of_film = [(PLAN_OPTIONS, one) for one in inputs]
    if len(inputs) <= MOST_AT_ONCE:
        return (*((VALUE, inputs[number]) for number in near), *of_film)
    standing = film.settings_inputs
    as_they_stand = ((value, given) for given in standing for value in (FALL, NUMBERS))
    whole = [((VALUE, inputs[number]), (STEPS, standing[number]), (SAVING_STEPS, standing[number])) for number in near]
    return (*whole[0], *of_film, *as_they_stand, *(one for shot in whole[1:] for one in shot))


def weigh(film: "Film", missing: Wanted, part: Callable[[], None], monitor: Monitor) -> None:
    """Weigh shots side by side, in their order, and tell of it from time to time."""
    from pemlo.core.threads import in_order  # noqa: PLC0415 - heavy to load
    from pemlo.core.trade.film_options import SideBySide  # noqa: PLC0415 - as above

    watch = SideBySide(monitor)
    watch.say(0.0, "Weighing what shots could be")
    told = time.monotonic()
    for number, _ in enumerate(in_order(missing, lambda one: _made(film, one, watch))):
        watch.say((number + 1) / len(missing), "Weighing what shots could be")
        # Every part makes the window show a whole film anew: a few a second are enough to see that it goes on.
        if number + 1 < len(missing) and (
            time.monotonic() - told > PART_S or (number == 0 and len(missing) > MOST_AT_ONCE)
        ):
            told = time.monotonic()
            part()


def _made(film: "Film", one: "tuple[Value[Any, Any], Any]", monitor: Monitor) -> None:
    """Make a value, and the middle hours that are shown of it: of a thousand shots these take a while."""
    from pemlo.core.film.choices import FALL, NUMBERS, PLAN_OPTIONS  # noqa: PLC0415 - heavy to load

    value, made = one[0], film.get(*one, monitor)
    if value is FALL:
        _ = made.middle
    elif value in (NUMBERS, PLAN_OPTIONS):
        _ = made.middle_hours


def _without_plans(project: Project) -> tuple[Project, tuple[object, ...]]:
    """Return a film without what a plan changes, and where the pinned levers of its shots stand."""
    held = tuple((shot.name, tuple(getattr(shot.settings, lever) for lever in shot.pins)) for shot in project.shots)
    # Nothing of it needs to be checked again.
    shots = tuple(shot.model_copy(update={"plan": None}) for shot in project.shots)
    return project.model_copy(update={"shots": shots, "plans": ()}), held
