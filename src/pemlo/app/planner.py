"""Keeps looks, options and plans true to the document. Lives on the GUI thread; the computing is done by jobs.

Options are cached shot by shot, by what they were made from: a lever that is dragged changes only where its shot stands
among them. Nothing is told of two states of the film at once: what is asked is answered for the document as it stands,
from a fit of just its trials and shots and from options of just that fit, or not at all.
"""

from collections.abc import Callable, Mapping
from dataclasses import dataclass, field, fields, is_dataclass
from pathlib import Path
from typing import TYPE_CHECKING, Any, TypeVar

import cachetools
import numpy as np
from PySide6.QtCore import QObject, Signal

from pemlo.app.document import Document
from pemlo.app.file_facts import FILES, FileFacts
from pemlo.app.forecaster import FORECAST, FilmForecast, FittedFilm
from pemlo.app.jobs import Jobs
from pemlo.core.cost.fit import fit_inputs
from pemlo.core.progress import Monitor
from pemlo.core.project.project import Project
from pemlo.core.project.record import Record
from pemlo.core.project.settings import LeverName
from pemlo.core.project.shots import Shot

if TYPE_CHECKING:
    from pemlo.core.predict.shot_appearance import ShotAppearance
    from pemlo.core.trade.best_plan import Goal
    from pemlo.core.trade.options import Numbers, Options
    from pemlo.core.trade.plan_comparison import PlanRow
    from pemlo.core.trade.planning import FilmPlan
    from pemlo.core.trade.prices import LeverStep
    from pemlo.core.trade.waterfall import ShotWaterfall

OPTIONS, PLAN, COMPARE = "options", "plan", "compare plans"
Key = tuple[object, ...]
V = TypeVar("V")
MOST_BYTES = 64 * 2**20  # of what was worked out for settings that a lever came by


class _Same:
    """Part of a key that is equal to itself only, and keeps alive what it stands for."""

    def __init__(self, what: object) -> None:
        self.what = what

    def __eq__(self, other: object) -> bool:
        return isinstance(other, _Same) and self.what is other.what

    def __hash__(self) -> int:
        return id(self.what)


@dataclass(frozen=True)
class _ShotAppearance:
    """How a shot looks, what that was found from, and what stood in the way."""

    key: Key
    appearance: "ShotAppearance | None"
    trouble: str = ""


@dataclass
class _Kept:
    """What was made, each with what it was made from."""

    appearances: dict[str, _ShotAppearance] = field(default_factory=dict)
    options: "dict[str, tuple[Key, Options]]" = field(default_factory=dict)


@dataclass(frozen=True)
class State:
    """One state of the film: the project, and what is known from just its trials and shots."""

    project: Project
    known: FittedFilm


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
        self._kept = _Kept()
        self._worked_out: cachetools.LRUCache[Key, Any] = cachetools.LRUCache(MOST_BYTES, _bytes_of)
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
        self._kept, self._asked_for, self._answer = _Kept(), (), None
        self._worked_out.clear()
        self._when_known.clear()

    @property
    def state(self) -> State | None:
        """The document as it stands with what is known of it; None while that is found out, or nothing was timed."""
        project, known = self._document.project, None if self._answer is None else self._answer.known
        if self._state[0] is not project or self._state[1] is not known:
            fits = known is not None and known.fit.known and known.inputs == fit_inputs(project)
            self._state = project, known, State(project, known) if fits and known is not None else None
        return self._state[2]

    @property
    def finding_out(self) -> bool:
        """Whether something is on its way for the document as it stands."""
        return bool({FORECAST, FILES, OPTIONS} & self._jobs.running.keys())

    def options_of(self, shot: str) -> "Options | None":
        """Return the options of a shot, as asked first; None while they are not known."""
        found, state = self._kept.options.get(shot), self.state
        if found is None or state is None or shot not in self._shapes_of(state.project):
            return None
        return found[1] if found[0] == self._options_key(state, shot) else None

    def _options_key(self, state: State, shot: str) -> Key:
        return (_Same(state.known), _Same(self.appearance_of(shot)), *self._shapes_of(state.project)[shot])

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
                self._worked_out.clear()
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
        shots = tuple((*keys_now[shot.name], *self._shapes_of(project)[shot.name]) for shot in project.shots)
        wanted = (_Same(state.known), shots)
        if wanted == self._asked_for:
            return
        self._weigh(state, folder, keys_now, wanted)

    def _weigh(self, state: State, folder: Path, keys_now: Mapping[str, Key], wanted: Key) -> None:
        self._asked_for = wanted
        kept, first = self._kept, self.first

        def work(monitor: Monitor) -> _Kept:
            return _make(state, folder, keys_now, kept, first, lambda part: self._part.emit(wanted, part), monitor)

        def done(found: _Kept) -> None:
            self._kept = found
            self.changed.emit()

        self._jobs.submit(
            OPTIONS,
            "Weighing what each shot could be",
            work,
            done,
            again=lambda: self._weigh(state, folder, keys_now, wanted),
        )

    def _on_part(self, wanted: Key, part: _Kept) -> None:
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
            keys = {shot.name: _appearance_key(project, shot, folder, self._written.of) for shot in project.shots}
            self._appearance_keys_now = now, keys
        return keys

    def _shapes_of(self, project: Project) -> dict[str, Key]:
        """Return what the options of each shot depend on; worked out once for each state of the document."""
        if self._shapes[0] is not project:
            self._shapes = project, _shapes(project)
        return self._shapes[1]

    # Where shots stand

    def numbers_of(self, shot: Shot) -> "Numbers | None":
        """Return what a shot's settings cost and give; None while nothing is known. A few milliseconds at most."""
        state = self.state
        if state is None or shot.name not in state.known.fit.shots:
            return None
        from pemlo.core.trade.options import numbers_of  # noqa: PLC0415 - heavy to load

        appearance, known, project = self.appearance_of(shot.name), state.known, state.project
        options = self.options_of(shot.name)
        key = ("numbers", _Same(appearance), _Same(options), self._shapes_of(project)[shot.name], shot.settings)
        return self._once(key, lambda: numbers_of(project, known.fit, known.draws, shot, appearance, options))

    def _once(self, key: Key, make: Callable[[], V]) -> V:
        """Return what was worked out before, or make it; what nobody asked for longest gives way."""
        if key in self._worked_out:
            found: V = self._worked_out[key]
            return found
        made = make()
        if _bytes_of(made) <= MOST_BYTES:
            self._worked_out[key] = made
        return made

    def standing(self, shot: Shot) -> "tuple[Options, int] | None":
        """Return the options of a shot with its present settings, and their place; None while they are not known."""
        options, now = self.options_of(shot.name), self.numbers_of(shot)
        if options is None or now is None:
            return None
        if options.has(shot.settings):
            return options, options.place(shot.settings)
        from pemlo.core.trade.options import with_present  # noqa: PLC0415 - heavy to load

        key = ("standing", _Same(options), shot.settings)
        return self._once(key, lambda: with_present(options, shot, now))

    def held_options(self, shot: Shot) -> "Options | None":
        """Return the options of a shot that leave its pinned levers where they are; None while they are not known."""
        found = self.standing(shot) if shot.pins else None
        if found is None:
            return self.options_of(shot.name)
        from pemlo.core.trade.options import holding  # noqa: PLC0415 - heavy to load

        options, _ = found
        held = tuple(getattr(shot.settings, lever) for lever in shot.pins)
        key = ("held", _Same(self.options_of(shot.name)), shot.pins, held)
        return self._once(key, lambda: holding(options, shot))

    def steps_of(self, shot: Shot) -> "tuple[LeverStep, ...]":
        """Return one step of each lever of a shot from where it stands."""
        found = self.standing(shot)
        if found is None:
            return ()
        from pemlo.core.trade.prices import steps_from  # noqa: PLC0415 - heavy to load

        key = ("steps", _Same(found[0]), found[1])
        return self._once(key, lambda: steps_from(*found))

    def waterfalls(self) -> "tuple[ShotWaterfall, ...]":
        """Return the fall of every shot from as asked to its plan."""
        state = self.state
        if state is None:
            return ()
        from pemlo.core.trade.waterfall import shot_waterfall  # noqa: PLC0415 - heavy to load

        project, known, found = state.project, state.known, []
        for shot in project.shots:
            options = self.options_of(shot.name)
            key = ("fall", _Same(options), self._shapes_of(project)[shot.name], shot.settings)
            found.append(
                self._once(key, lambda shot=shot, options=options: shot_waterfall(  # type: ignore[misc]
                    project, known.fit, known.draws, shot, options))
            )  # fmt: skip
        return tuple(found)

    def hours_there(self) -> float:
        """Return the machine-hours before the deadline of the document as it stands."""
        from pemlo.core.trade.planning import hours_there  # noqa: PLC0415 - heavy to load

        project = self._document.project
        if self._there[0] is not project:
            self._there = project, hours_there(project)
        return self._there[1]

    # The best plan

    def plan(self, goal: "Goal", alike: tuple[LeverName, ...] = ()) -> None:
        """Look for the best plan of the film as it stands now; once it is known what its shots take, if it is not."""

        def begin(state: State) -> None:
            options = {shot.name: self.options_of(shot.name) for shot in state.project.shots}
            appearances = {shot.name: self.appearance_of(shot.name) for shot in state.project.shots}

            def work(monitor: Monitor) -> Found:
                return Found(state.project, _plan(state, options, appearances, goal, alike, monitor))

            self._jobs.submit(
                PLAN,
                "Looking for the best plan",
                work,
                self.planned.emit,
                waited_for=True,
                again=lambda: self.plan(goal, alike),
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


def _bytes_of(value: object) -> int:
    """Return about how much memory something takes: that of its arrays, and a little for what is not one."""
    if isinstance(value, np.ndarray):
        return int(value.nbytes)
    if isinstance(value, tuple | list):
        # Of many records each takes as little as the first.
        return 64 + (64 * len(value) if value and isinstance(value[0], Record) else sum(map(_bytes_of, value)))
    if isinstance(value, Mapping):
        return 64 + sum(map(_bytes_of, value.values()))
    if is_dataclass(value):
        return 64 + sum(_bytes_of(getattr(value, one.name)) for one in fields(value))
    return 64


def _without_plans(project: Project) -> tuple[Project, Key]:
    """Return a film without what a plan changes, and where the pinned levers of its shots stand."""
    held = tuple((shot.name, tuple(getattr(shot.settings, lever) for lever in shot.pins)) for shot in project.shots)
    # Nothing of it needs to be checked again.
    shots = tuple(shot.model_copy(update={"plan": None}) for shot in project.shots)
    return project.model_copy(update={"shots": shots, "plans": ()}), held


def _appearance_key(project: Project, shot: Shot, folder: Path, written: Callable[[Path], int | None]) -> Key:
    """Return what it depends on how a shot looks: not on marks and notes, but on when its pictures were written."""
    return tuple(
        (
            trial.frame,
            *trial.frame_fields().values(),
            trial.seed,
            trial.mean_samples,
            trial.left_out,
            path,
            when,
        )
        for trial in project.trials
        if trial.shot == shot.name and trial.picture and (when := written(path := folder / trial.picture)) is not None
    )


def _shapes(project: Project) -> dict[str, Key]:
    from pemlo.core.forecast.needs import tries_share  # noqa: PLC0415 - heavy to load

    fills = sum(machine.count * machine.frames_at_once for machine in project.machines)
    film = (_marks(project), project.delivery.retake_share, fills, round(tries_share(project.machines, 1), 3))
    return {shot.name: (*_shape_of(project, shot), *film) for shot in project.shots}


def _marks(project: Project) -> Key:
    return tuple((one.shot, one.mark, one.mark_for, one.error) for one in project.trials if one.mark)


def _shape_of(project: Project, shot: Shot) -> Key:
    """Return what the options of a shot depend on beside fit and look, and beside what concerns the film.

    Of machines that is only how many fill kept data, and how many frames they lose.
    """
    return (
        *(shot.name, shot.first, shot.last, shot.step, shot.asked, shot.moves, project.size_of(shot)),
        *(shot.ceiling, shot.look),
    )


def _make(
    state: State,
    folder: Path,
    keys_now: Mapping[str, Key],
    kept: _Kept,
    first: str,
    publish: Callable[[_Kept], None],
    monitor: Monitor,
) -> _Kept:
    """Weigh all shots, `first` before the others, and publish what is there after each that took a while."""
    from pemlo.core.appraisal.shot_appearance import appearance_of  # noqa: PLC0415
    from pemlo.core.errors import FileError  # noqa: PLC0415 - all of this is heavy to load
    from pemlo.core.pixels.display import Srgb  # noqa: PLC0415
    from pemlo.core.trade.weigh import weigh_shots  # noqa: PLC0415

    project, known = state.project, state.known
    appearances, options, shapes = {}, {}, _shapes(project)

    def appearance(shot: Shot) -> "ShotAppearance | None":
        key = keys_now[shot.name]
        before = kept.appearances.get(shot.name)
        if before is not None and before.key == key:
            appearances[shot.name] = before
        else:
            try:
                appearances[shot.name] = _ShotAppearance(
                    key, appearance_of(project.trials_of(shot.name), folder, Srgb())
                )
            except FileError as error:
                appearances[shot.name] = _ShotAppearance(key, None, str(error))
        return appearances[shot.name].appearance

    def made_from(shot: Shot, found: "ShotAppearance | None") -> Key:
        return _Same(known), _Same(found), *shapes[shot.name]

    def before(shot: Shot, found: "ShotAppearance | None") -> "Options | None":
        key, options = kept.options.get(shot.name, ((), None))
        return options if key == made_from(shot, found) else None

    plain = project.changed(shots=tuple(shot.changed(plan=None, pins=()) for shot in project.shots))
    for shot, found in weigh_shots(plain, (known.fit, known.draws), appearance, before, first, monitor):
        options[shot.name] = made_from(shot, appearances[shot.name].appearance), found
        if kept.options.get(shot.name, ((), None))[1] is not found:
            publish(_Kept({**kept.appearances, **appearances}, {**kept.options, **options}))
    return _Kept(appearances, options)


def _plan(
    state: State,
    options: "Mapping[str, Options | None]",
    appearances: "Mapping[str, ShotAppearance | None]",
    goal: "Goal",
    alike: tuple[LeverName, ...],
    monitor: Monitor,
) -> "FilmPlan":
    from pemlo.core.trade.planning import plan_film  # noqa: PLC0415 - heavy to load
    from pemlo.core.trade.weigh import weigh_shots  # noqa: PLC0415 - as above

    known = state.known.fit, state.known.draws

    def before(shot: Shot, _: "ShotAppearance | None") -> "Options | None":
        return None if shot.pins else options.get(shot.name)

    weighed = weigh_shots(state.project, known, lambda shot: appearances.get(shot.name), before, monitor=monitor)
    return plan_film(state.project, tuple(found for _, found in weighed), goal, known, alike, monitor)
