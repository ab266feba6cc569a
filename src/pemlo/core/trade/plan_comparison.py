"""Plans side by side: hours, chance, the worst shot, money, disk. Pure; some tens of milliseconds a plan."""

from collections.abc import Callable, Mapping
from dataclasses import dataclass

import numpy as np

from pemlo.core.cost.draws import FilmDraws
from pemlo.core.cost.posterior import Fit
from pemlo.core.farm.money import cost_curve
from pemlo.core.forecast.disk_memory import disk_memory_of, sum_of
from pemlo.core.forecast.verdict import Forecast
from pemlo.core.interval import Interval
from pemlo.core.predict.shot_appearance import Appearances
from pemlo.core.project.edits import take_plan
from pemlo.core.project.project import Project
from pemlo.core.trade.options import numbers_of

AS_ASKED, NOW = "as asked", "now"


@dataclass(frozen=True)
class PlanRow:
    """What a plan comes to.

    Attributes
    ----------
    name : str
        `AS_ASKED`, `NOW`, or the name it is kept under.
    kept : bool
    hours : Interval, optional
        Machine-hours, retakes counted.
    probability : float, optional
    worst_shot : str
        Whose error is highest over its ceiling; empty if no error is known.
    worst_ratio : float
    money : float, optional
        Of the middle hours; None if no machine has a price.
    disk_gib : Interval, optional
        Of all shots; None if nothing is known of one.
    """

    name: str
    kept: bool
    hours: Interval | None
    probability: float | None
    worst_shot: str
    worst_ratio: float
    money: float | None
    disk_gib: Interval | None


def compare_plans(
    project: Project,
    fit: Fit,
    draws: FilmDraws,
    appearances: Appearances,
    ceilings: Mapping[str, float],
    forecast_of: Callable[[Project], Forecast],
) -> tuple[PlanRow, ...]:
    """Return as asked, the plan now, and every kept plan.

    Parameters
    ----------
    ceilings : mapping of str to float
        Of the shots of which it is known, codes.
    forecast_of : callable
        Says when a film is done, as it is said of the film everywhere else.
    """
    asked = project.replace(shots=tuple(shot.replace(plan=None) for shot in project.shots))
    films = [(AS_ASKED, False, asked), (NOW, False, project)]
    films += [(plan.name, True, take_plan(project, plan.name)) for plan in project.plans]
    return tuple(
        _row(name, film, fit, draws, appearances, ceilings, forecast_of(film), kept=kept) for name, kept, film in films
    )


def _row(
    name: str,
    film: Project,
    fit: Fit,
    draws: FilmDraws,
    appearances: Appearances,
    ceilings: Mapping[str, float],
    forecast: Forecast,
    *,
    kept: bool,
) -> PlanRow:
    ratios = []
    for shot in film.shots:
        appearance, ceiling = appearances.get(shot.name), ceilings.get(shot.name, np.nan)
        numbers = (
            numbers_of(film, fit, draws, shot, appearance) if appearance is not None and not np.isnan(ceiling) else None
        )
        if numbers is not None and numbers.found is not None:
            ratios.append((numbers.found.total.middle / ceiling, shot.name))
    worst, shot_name = max(ratios, default=(float("nan"), ""))
    curve = cost_curve(film)
    money = None if curve is None or forecast.hours is None else curve.at(forecast.hours.middle)
    return PlanRow(name, kept, forecast.hours, forecast.probability, shot_name, worst, money, _disk(film))


def _disk(film: Project) -> Interval | None:
    parts = [disk_memory_of(film, shot, shot.settings).disk_gib for shot in film.shots]
    known = [part for part in parts if part is not None]
    return sum_of(known) if len(known) == len(parts) and parts else None
