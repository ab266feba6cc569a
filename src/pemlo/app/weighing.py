"""Weighs a film in the background: what each shot could be, and the best plan. Called by jobs, on another thread.

What was weighed before is taken over where what it was made from is the same.
"""

import time
from collections.abc import Callable, Mapping
from dataclasses import dataclass, field
from pathlib import Path
from typing import TYPE_CHECKING

from pemlo.app.forecaster import FittedFilm
from pemlo.app.worked_out import Key, Same
from pemlo.core.progress import Monitor
from pemlo.core.project.project import Project
from pemlo.core.project.settings import LeverName
from pemlo.core.project.shots import Shot

if TYPE_CHECKING:
    from pemlo.core.predict.shot_appearance import ShotAppearance
    from pemlo.core.trade.best_plan import Goal
    from pemlo.core.trade.options import Options
    from pemlo.core.trade.planning import FilmPlan


PART_S = 0.7


@dataclass(frozen=True)
class State:
    """One state of the film: the project, and what is known from just its trials and shots."""

    project: Project
    known: FittedFilm


@dataclass(frozen=True)
class FoundAppearance:
    """How a shot looks, what that was found from, and what stood in the way."""

    key: Key
    appearance: "ShotAppearance | None"
    trouble: str = ""


@dataclass
class Weighed:
    """What was made, each with what it was made from."""

    appearances: dict[str, FoundAppearance] = field(default_factory=dict)
    options: "dict[str, tuple[Key, Options]]" = field(default_factory=dict)


def appearance_key(project: Project, shot: Shot, folder: Path, written: Callable[[Path], int | None]) -> Key:
    """Return what it depends on how a shot looks: not on marks and notes, but on when its pictures were written."""
    return tuple(
        (
            trial.frame,
            *trial.frame_fields().values(),
            trial.seed,
            trial.mean_samples,
            trial.left_out,
            trial.region_percent,
            path,
            when,
        )
        for trial in project.trials
        if trial.shot == shot.name and trial.picture and (when := written(path := folder / trial.picture)) is not None
    )


def shapes_of(project: Project) -> dict[str, Key]:
    """Return what the options of each shot depend on, beside the fit and its appearance."""
    from pemlo.core.forecast.needs import tries_share  # noqa: PLC0415 - heavy to load

    fills = sum(machine.count * machine.frames_at_once for machine in project.machines)
    # A mark that was set for a look holds for the shots that have it: which those are is read of all.
    looks = tuple((shot.name, shot.look) for shot in project.shots)
    film = (_marks(project), looks, project.delivery.retake_share, fills, round(tries_share(project.machines, 1), 3))
    return {shot.name: (*_shape_of(project, shot), *film) for shot in project.shots}


def _marks(project: Project) -> Key:
    return tuple((one.shot, one.mark, one.mark_for, one.error) for one in project.trials if one.mark)


def _shape_of(project: Project, shot: Shot) -> Key:
    """Return what the options of a shot depend on beside fit and look, and beside what concerns the film.

    Of machines that is only how many fill kept data, and how many frames they lose.
    """
    return (
        *(shot.name, shot.first, shot.last, shot.step, shot.asked, shot.moves, project.size_of(shot)),
        *(shot.ceiling, shot.look, shot.marks, shot.still),
    )


def weigh(
    state: State,
    folder: Path,
    keys_now: Mapping[str, Key],
    kept: Weighed,
    first: str,
    publish: Callable[[Weighed], None],
    monitor: Monitor,
) -> Weighed:
    """Weigh all shots, `first` before the others; publish that one at once, and the others from time to time."""
    from pemlo.core.appraisal.shot_appearance import appearance_of  # noqa: PLC0415
    from pemlo.core.errors import FileError  # noqa: PLC0415 - all of this is heavy to load
    from pemlo.core.pixels.display import Srgb  # noqa: PLC0415
    from pemlo.core.trade.weigh import weigh_shots  # noqa: PLC0415

    project, known = state.project, state.known
    appearances, options, shapes = {}, {}, shapes_of(project)

    def appearance(shot: Shot) -> "ShotAppearance | None":
        key = keys_now[shot.name]
        before = kept.appearances.get(shot.name)
        if before is not None and before.key == key:
            appearances[shot.name] = before
        else:
            try:
                appearances[shot.name] = FoundAppearance(
                    key, appearance_of(project.trials_of(shot.name), folder, Srgb())
                )
            except FileError as error:
                appearances[shot.name] = FoundAppearance(key, None, str(error))
        return appearances[shot.name].appearance

    def made_from(shot: Shot, found: "ShotAppearance | None") -> Key:
        return Same(known), Same(found), *shapes[shot.name]

    def before(shot: Shot, found: "ShotAppearance | None") -> "Options | None":
        key, options = kept.options.get(shot.name, ((), None))
        return options if key == made_from(shot, found) else None

    plain = project.changed(shots=tuple(shot.changed(plan=None, pins=()) for shot in project.shots))
    published = 0.0
    for shot, found in weigh_shots(plain, (known.fit, known.draws), appearance, before, first, monitor):
        options[shot.name] = made_from(shot, appearances[shot.name].appearance), found
        is_new = kept.options.get(shot.name, ((), None))[1] is not found
        # Every part makes the window show a whole film anew: a few a second are enough to see that it goes on.
        if is_new and (shot.name == first or time.monotonic() - published > PART_S):
            published = time.monotonic()
            publish(Weighed({**kept.appearances, **appearances}, {**kept.options, **options}))
    return Weighed(appearances, options)


def find_plan(
    state: State,
    options: "Mapping[str, Options | None]",
    appearances: "Mapping[str, ShotAppearance | None]",
    goal: "Goal",
    alike: tuple[LeverName, ...],
    monitor: Monitor,
    *,
    few: bool = False,
) -> "FilmPlan":
    """Return the best plan of a film; options that are known are not weighed again, unless levers are held."""
    from pemlo.core.trade.planning import plan_film  # noqa: PLC0415 - heavy to load
    from pemlo.core.trade.weigh import weigh_shots  # noqa: PLC0415 - as above

    known = state.known.fit, state.known.draws

    def before(shot: Shot, _: "ShotAppearance | None") -> "Options | None":
        return None if shot.pins else options.get(shot.name)

    weighed = weigh_shots(state.project, known, lambda shot: appearances.get(shot.name), before, monitor=monitor)
    return plan_film(state.project, tuple(found for _, found in weighed), goal, known, alike, monitor, few=few)
