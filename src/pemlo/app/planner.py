"""Keeps looks, options and plans true to the document. Lives on the GUI thread; the computing is done by jobs.

Options are cached shot by shot, by what they were made from: a lever that is dragged changes only where its shot stands
among them.
"""

from collections.abc import Callable
from dataclasses import dataclass, field
from pathlib import Path
from typing import TYPE_CHECKING, TypeVar

from PySide6.QtCore import QObject, Signal

from pemlo.app.document import Document
from pemlo.app.forecaster import Answer
from pemlo.app.jobs import Jobs
from pemlo.core.plan.project import Project
from pemlo.core.plan.settings import LeverName
from pemlo.core.plan.shots import Shot
from pemlo.core.progress import Monitor

if TYPE_CHECKING:
    from pemlo.core.trade.best_plan import Goal
    from pemlo.core.trade.comparing import PlanRow
    from pemlo.core.trade.fall import ShotFall
    from pemlo.core.trade.options import Numbers, Options
    from pemlo.core.trade.planning import FilmPlan
    from pemlo.core.trade.prices import Step
    from pemlo.core.trade.shot_look import ShotLook

OPTIONS, PLAN, COMPARE = "options", "plan", "compare plans"
Key = tuple[object, ...]
V = TypeVar("V")
_MOST_KEPT = 400


@dataclass
class _Kept:
    """What was made, each with what it was made from."""

    looks: "dict[str, tuple[Key, ShotLook | None]]" = field(default_factory=dict)
    options: "dict[str, tuple[Key, Options]]" = field(default_factory=dict)


@dataclass(frozen=True)
class Found:
    """A plan, and the film that it was made for."""

    project: Project
    plan: "FilmPlan"


class Planner(QObject):
    """Answers what each shot could be, and what is best.

    Signals
    -------
    changed()
        Options of some shot are new.
    planned(Found)
    """

    changed = Signal()
    planned = Signal(object)

    def __init__(self, document: Document, jobs: Jobs, folder: Callable[[], Path]) -> None:
        super().__init__()
        self._document, self._jobs, self._folder = document, jobs, folder
        self._kept = _Kept()
        self._numbers: dict[Key, Numbers] = {}
        self._falls: dict[Key, ShotFall] = {}
        self._standing: dict[Key, tuple[Options, int]] = {}
        self._steps: dict[Key, tuple[Step, ...]] = {}
        self.answer: Answer | None = None
        self._asked_for: Key = ()
        document.replaced.connect(self._forget)

    def _forget(self) -> None:
        self._kept, self._asked_for = _Kept(), ()
        self._forget_numbers()
        self.answer = None

    def _forget_numbers(self) -> None:
        self._numbers, self._falls, self._standing, self._steps = {}, {}, {}, {}

    def options_of(self, shot: str) -> "Options | None":
        """Return the options of a shot, as asked first; None while they are not known."""
        found = self._kept.options.get(shot)
        return None if found is None else found[1]

    def look_of(self, shot: str) -> "ShotLook | None":
        """Return how a shot looks, if that is known."""
        found = self._kept.looks.get(shot)
        return None if found is None else found[1]

    @property
    def ready(self) -> bool:
        """Whether the options of every shot are known."""
        return all(shot.name in self._kept.options for shot in self._document.project.shots)

    # What shots could be

    def ask(self, answer: Answer | None) -> None:
        """Bring options up to date with a forecast's fit, where anything they are made from has changed."""
        if answer is None or not answer.known.fit.known:
            return
        self.answer = answer
        project, folder, kept = self._document.project, self._folder(), self._kept
        wanted = (
            id(answer.known),
            tuple(_look_key(project, shot) + _shape_of(project, shot) for shot in project.shots),
        )
        if wanted == self._asked_for:
            return
        self._asked_for = wanted

        def work(monitor: Monitor) -> _Kept:
            return _make(project, answer, folder, kept, monitor)

        def done(found: _Kept) -> None:
            self._kept = found
            self._forget_numbers()  # they are told apart by what they were made from, which may be gone
            self.changed.emit()

        self._jobs.submit(OPTIONS, "Weighing what each shot could be", work, done)

    # Where shots stand

    def numbers_of(self, shot: Shot) -> "Numbers | None":
        """Return what a shot's settings cost and give; None while nothing is known. A few milliseconds at most."""
        if self.answer is None or shot.name not in self.answer.known.fit.shots:
            return None
        from pemlo.core.trade.options import numbers_of  # noqa: PLC0415 - heavy to load

        look, known, project = self.look_of(shot.name), self.answer.known, self._document.project
        key = (id(known), id(look), _shape_of(project, shot), shot.settings)
        return _kept(self._numbers, key, lambda: numbers_of(project, known.fit, known.draws, shot, look))

    def standing(self, shot: Shot) -> "tuple[Options, int] | None":
        """Return the options of a shot with its present settings, and their place; None while they are not known."""
        options, now = self.options_of(shot.name), self.numbers_of(shot)
        if options is None or now is None:
            return None
        from pemlo.core.trade.options import with_present  # noqa: PLC0415 - heavy to load

        key = (id(options), shot.settings)
        return _kept(self._standing, key, lambda: with_present(options, shot, now))

    def steps_of(self, shot: Shot) -> "tuple[Step, ...]":
        """Return one step of each lever of a shot from where it stands."""
        found = self.standing(shot)
        if found is None:
            return ()
        from pemlo.core.trade.prices import steps_from  # noqa: PLC0415 - heavy to load

        key = (id(found[0]), found[1])
        return _kept(self._steps, key, lambda: steps_from(*found))

    def falls(self) -> "tuple[ShotFall, ...]":
        """Return the fall of every shot from as asked to its plan."""
        if self.answer is None:
            return ()
        from pemlo.core.trade.fall import shot_fall  # noqa: PLC0415 - heavy to load

        project, known, found = self._document.project, self.answer.known, []
        for shot in project.shots:
            if shot.name not in known.fit.shots:
                return ()
            key = (id(known), _shape_of(project, shot), shot.settings)
            found.append(
                _kept(self._falls, key, lambda shot=shot: shot_fall(project, known.fit, known.draws, shot))  # type: ignore[misc]
            )
        return tuple(found)

    # The best plan

    def plan(self, goal: "Goal", alike: tuple[LeverName, ...] = ()) -> None:
        """Look for the best plan of the film as it stands now."""
        project, answer, kept = self._document.project, self.answer, self._kept
        if answer is None:
            return

        def work(monitor: Monitor) -> Found:
            return Found(project, _plan(project, answer, kept, goal, alike, monitor))

        self._jobs.submit(PLAN, "Looking for the best plan", work, self.planned.emit)

    def compare(self, take: "Callable[[tuple[PlanRow, ...]], None]") -> None:
        """Put as asked, the plan as it stands and all kept ones side by side, and hand that over."""
        project, answer, kept = self._document.project, self.answer, self._kept
        if answer is None:
            return
        looks = {name: look for name, (_, look) in kept.looks.items() if look is not None}
        ceilings = {name: options.ceiling for name, (_, options) in kept.options.items()}

        def work(monitor: Monitor) -> "tuple[PlanRow, ...]":
            from pemlo.core.trade.comparing import compare_plans  # noqa: PLC0415 - heavy to load

            monitor.step(0.0, "Comparing plans")
            return compare_plans(project, answer.known.fit, answer.known.draws, looks, ceilings)

        self._jobs.submit(COMPARE, "Comparing plans", work, take)

    def is_current(self, found: Found) -> bool:
        """Whether a plan was made for the film as it stands now, but for the settings that a plan may change."""
        return _without_plans(found.project) == _without_plans(self._document.project)


def _kept(cache: dict[Key, V], key: Key, make: Callable[[], V]) -> V:
    """Return what is in a cache, or make it; the oldest give way, so that long drags do not fill the memory."""
    if key not in cache:
        cache[key] = make()
        while len(cache) > _MOST_KEPT:
            del cache[next(iter(cache))]
    return cache[key]


def _without_plans(project: Project) -> Project:
    shots = tuple(shot.changed(plan=None) if not shot.pins else shot for shot in project.shots)
    return project.changed(shots=shots)


def _look_key(project: Project, shot: Shot) -> Key:
    return tuple(trial for trial in project.trials if trial.shot == shot.name and trial.picture)


def _shape_of(project: Project, shot: Shot) -> Key:
    return (
        *(shot.name, shot.first, shot.last, shot.step, shot.asked, shot.moves, project.size_of(shot)),
        *(shot.ceiling, project.delivery.retake_share),
    )


def _make(project: Project, answer: Answer, folder: Path, kept: _Kept, monitor: Monitor) -> _Kept:
    from pemlo.core.errors import FileError  # noqa: PLC0415 - all of this is heavy to load
    from pemlo.core.images.shot_looks import look_of  # noqa: PLC0415
    from pemlo.core.picture.display import Srgb  # noqa: PLC0415
    from pemlo.core.trade.options import options_of  # noqa: PLC0415

    looks, options = {}, {}
    for number, shot in enumerate(project.shots):
        monitor.step(number / len(project.shots), f"Weighing what {shot.name} could be")
        key = (folder, *_look_key(project, shot))
        if kept.looks.get(shot.name, ((), None))[0] == key:
            looks[shot.name] = kept.looks[shot.name]
        else:
            try:
                look = look_of(project.trials_of(shot.name), folder, Srgb())
            except FileError:  # what cannot be read is not known: Judge says why when it is looked at
                look = None
            looks[shot.name] = key, look
        look = looks[shot.name][1]
        of = (id(answer.known), id(look), *_shape_of(project, shot), _look_key(project, shot))
        if kept.options.get(shot.name, ((), None))[0] == of:
            options[shot.name] = kept.options[shot.name]
        else:
            plain = shot.changed(plan=None, pins=())
            options[shot.name] = of, options_of(project, answer.known.fit, answer.known.draws, plain, look)
    return _Kept(looks, options)


def _plan(
    project: Project, answer: Answer, kept: _Kept, goal: "Goal", alike: tuple[LeverName, ...], monitor: Monitor
) -> "FilmPlan":
    from pemlo.core.trade.options import options_of  # noqa: PLC0415 - heavy to load
    from pemlo.core.trade.planning import plan_film  # noqa: PLC0415 - as above

    found = []
    for number, shot in enumerate(project.shots):
        monitor.step(0.5 * number / len(project.shots), f"Weighing what {shot.name} could be")
        known = kept.options.get(shot.name)
        if known is None or shot.pins:
            look = kept.looks.get(shot.name, ((), None))[1]
            found.append(options_of(project, answer.known.fit, answer.known.draws, shot, look))
        else:
            found.append(known[1])
    return plan_film(project, tuple(found), goal, alike, monitor)
