"""Weighs what a plan may choose of a shot as a task that travels to another machine. Pure."""

from dataclasses import dataclass, replace

from pemlo.core.cost.draws import FilmDraws
from pemlo.core.cost.posterior import Fit
from pemlo.core.predict.shot_appearance import ShotAppearance
from pemlo.core.project.passing import Passing
from pemlo.core.project.project import Project
from pemlo.core.project.shots import Shot
from pemlo.core.trade.hour_draws import HourDraws
from pemlo.core.trade.options import Options, hour_rows, options_of


@dataclass(frozen=True)
class WeighTask:
    """What the options of a shot are weighed from, and nothing of other shots: see `options_of`."""

    project: Project
    fit: Fit
    draws: FilmDraws
    shot: Shot
    look: ShotAppearance | None
    passing: Passing


def weigh_task(_: None, task: WeighTask) -> Options:
    """Return what a plan may choose of a shot, on a worker."""
    return options_of(task.project, task.fit, task.draws, task.shot, task.look, passing=task.passing, for_plan=True)


def rows_made_here(task: WeighTask, options: Options) -> Options:
    """Return options that came back, with the draws of their hours made here."""
    assert isinstance(options.hours, HourDraws)
    make = hour_rows(task.project, task.fit, task.draws, task.shot, options.settings)
    return replace(options, hours=options.hours.made_by(make))
