"""What a change of the film does to its hours and its deadline: the forecast before and after. A second."""

from dataclasses import dataclass

from pemlo.core.cost.draws import draw_film
from pemlo.core.cost.fit import fit
from pemlo.core.cost.fit_input import fit_input
from pemlo.core.forecast.verdict import Forecast, forecast
from pemlo.core.interval import Interval
from pemlo.core.project.project import Project
from pemlo.core.units import format_interval
from pemlo.words.verdicts import headline


@dataclass(frozen=True)
class ChangeEffect:
    """The forecast of a film before and after a change, and both in words."""

    before: Forecast
    after: Forecast
    lines: tuple[str, ...]


def change_effect(before: Project, after: Project, seed: int = 0) -> ChangeEffect:
    """Return what a change does.

    Parameters
    ----------
    before, after : Project
    seed : int
        >= 0; both are forecast with the same random numbers.
    """
    found = [_forecast(project, seed) for project in (before, after)]
    lines = [
        f"Machine-hours: {_hours(found[0].hours)} before, {_hours(found[1].hours)} after.",
        f"Before: {headline(before, found[0])}",
        f"After: {headline(after, found[1])}",
    ]
    return ChangeEffect(found[0], found[1], tuple(lines))


def _forecast(project: Project, seed: int) -> Forecast:
    known = fit(fit_input(project, seed))
    return forecast(project, known, draw_film(known, project, seed))


def _hours(hours: Interval | None) -> str:
    return "not known" if hours is None else format_interval(hours)
