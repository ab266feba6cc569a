"""What each shot can keep between frames, what that saves on a film's machines, and what it takes. NumPy."""

from dataclasses import dataclass
from typing import Literal

import numpy as np

from pemlo.core.cost.draws import FilmDraws
from pemlo.core.cost.posterior import Fit
from pemlo.core.farm.capacity import weekly_share
from pemlo.core.forecast.disk_memory import disk_memory_of, too_small
from pemlo.core.forecast.needs import shot_hours
from pemlo.core.interval import Interval, interval_of
from pemlo.core.project.keeping import Stage, stages_kept, why_not_kept
from pemlo.core.project.project import Project
from pemlo.core.project.settings import KEEPABLE, ShotSettings
from pemlo.core.project.shots import Shot
from pemlo.core.units import HOUR_S

State = Literal["kept", "could be kept", "nothing can be kept", "wrong"]


@dataclass(frozen=True)
class ShotKeeping:
    """What of a shot is kept, or could be.

    Attributes
    ----------
    shot : str
    state : str
        ``wrong`` where stages are kept that depend on what moves.
    keep : tuple of str
        The stages that it is about: those that are kept, and else all that could be.
    why_not : tuple of str
        In sentences, why other stages cannot be kept.
    saves_h : Interval, optional
        Machine-hours that keeping them saves, what filling them takes on each machine counted; None where that is not
        known, or nothing can be kept.
    filling_h : float, optional
        Machine-hours that all machines together take to fill them.
    fillings : int
        How many machines, or frames at once on them, fill them.
    memory_gib : Interval, optional
        What a frame takes; None where no trial says it.
    too_small : tuple of str
        Machines that have less.
    """

    shot: str
    state: State
    keep: tuple[Stage, ...]
    why_not: tuple[str, ...]
    saves_h: Interval | None
    filling_h: float | None
    fillings: int
    memory_gib: Interval | None
    too_small: tuple[str, ...]


def kept_data(project: Project, fit: Fit, draws: FilmDraws) -> tuple[ShotKeeping, ...]:
    """Return what each shot of a film keeps, or could, in the order of the film."""
    return tuple(_of_shot(project, fit, draws, shot) for shot in project.shots)


def _of_shot(project: Project, fit: Fit, draws: FilmDraws, shot: Shot) -> ShotKeeping:
    settings = shot.settings
    could = stages_kept(shot)[-1]
    wrong = any(why_not_kept(shot, stage) for stage in settings.keep)
    keep = settings.keep or could
    why = tuple(filter(None, (why_not_kept(shot, stage) for stage in KEEPABLE)))
    fillings = min(
        sum(machine.count * machine.frames_at_once for machine in project.machines if weekly_share(machine.hours)),
        shot.rendered_count(settings),
    )
    state: State = (
        "wrong" if wrong else "kept" if settings.keep else "could be kept" if could else "nothing can be kept"
    )
    memory = disk_memory_of(project, shot, settings).memory_gib
    small = () if memory is None else too_small(project, shot, settings, memory)
    saves, filling = None, None
    if keep and not wrong and fit.known and shot.rendered_count(settings) > 1:
        without, kept = settings.replace(keep=()), settings.replace(keep=keep)
        hours = [shot_hours(fit, draws, project, shot.replace(plan=one)) for one in (without, kept)]
        saves = interval_of(hours[0] - hours[1])
        filling = _filling(hours, shot, settings, fillings)
    return ShotKeeping(shot.name, state, keep, why, saves, filling, fillings, memory, small)


def _filling(hours: list[np.ndarray], shot: Shot, settings: ShotSettings, fillings: int) -> float:
    """Return what it takes to fill kept data: what whole frames cost more than others, once for each that fills them.

    Of F frames on M machines M are whole: all of them cost M w + (F - M) k, and without keeping F w.
    """
    count = shot.rendered_count(settings)
    if fillings >= count:
        return 0.0
    saved = float(np.median(hours[0] - hours[1])) * HOUR_S
    each = saved / (count - fillings)
    return each * fillings / HOUR_S
