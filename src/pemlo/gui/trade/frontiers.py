"""What the frontier shows: of a shot all ways to render it, of the film its best plans; and the limits. Qt-free."""

from collections.abc import Sequence
from dataclasses import dataclass, replace
from functools import lru_cache
from typing import TYPE_CHECKING

import numpy as np
import numpy.typing as npt

from pemlo.core.arrays import Floats
from pemlo.core.units import round_figures

if TYPE_CHECKING:
    from pemlo.core.farm.money import CostCurve
    from pemlo.core.trade.film_frontier import FilmPoint
    from pemlo.core.trade.options import Numbers, Options


@dataclass(frozen=True)
class Point:
    """A way to go: hours or cost, error (codes, or over its ceiling), and its place among those that can be taken."""

    hours: float
    error: float
    place: int = -1


@dataclass(frozen=True)
class MarkedPoint:
    """A trial that somebody marked: machine-hours of the shot with its settings, its error, and whether it passed."""

    hours: float
    error: float
    passed: bool
    words: str


@dataclass(frozen=True)
class Frontier:
    """What hours buy.

    Attributes
    ----------
    dots, line : tuple of Point
        All that may be proposed, and those that no other beats, from the most expensive.
    asked, plan : Point, optional
    ceiling : float
        NaN if none is known.
    left : float
        Machine-hours available for it; or the most that it may cost, infinity for any.
    unit : str
        Of the hours.
    names : tuple of str
        Of both scales: hours and error.
    limits : tuple of str
        Of both limits: hours and error.
    marks : tuple of MarkedPoint
    """

    dots: tuple[Point, ...]
    line: tuple[Point, ...]
    asked: Point | None
    plan: Point | None
    ceiling: float
    left: float
    names: tuple[str, str]
    limits: tuple[str, str]
    marks: tuple[MarkedPoint, ...] = ()
    unit: str = "machine-hours"


def frontier_of(options: "Options", now: "Numbers", left: float, marks: tuple[MarkedPoint, ...]) -> Frontier:
    """Return the frontier of a shot of which errors are known."""
    hours, error = options.middle_hours, options.error
    asked = Point(float(hours[0]), float(error[0]), 0) if options.known else None
    plan = None if now.found is None else Point(now.middle_hours, now.found.total.middle)
    dots, line = _points_of(options)
    ceiling = f"error limit {options.ceiling:.1f}, {options.ceiling_from}"
    names, limits = ("machine-hours of the shot, retakes counted", "error, levels"), ("most that is in time", ceiling)
    return Frontier(dots, line, asked, plan, options.ceiling, left, names, limits, marks)


@lru_cache(maxsize=64)
def _points_of(options: "Options") -> tuple[tuple[Point, ...], tuple[Point, ...]]:
    """Return all options that may be proposed, and the line of the best; while a lever is dragged they stay."""
    from pemlo.core.trade.frontier import frontier  # noqa: PLC0415 - with the rest of it

    hours, error = options.middle_hours, options.error
    usable = np.flatnonzero(options.usable & ~np.isnan(error))
    line = usable[frontier(hours[usable], error[usable])]

    def points(places: npt.NDArray[np.intp]) -> tuple[Point, ...]:
        return tuple(Point(float(hours[k]), float(error[k]), int(k)) for k in places)

    return points(usable), points(line)


def hours_left(waterfalls: Sequence[Floats], shot: int, available_h: float, confidence: float) -> float:
    """Return the machine-hours that the other shots leave of those there are, with the chance asked for.

    Parameters
    ----------
    waterfalls : sequence of (N,) ndarray
        Draws of each shot's machine-hours as planned.
    shot : int
        Which is left out.
    """
    others = [one for number, one in enumerate(waterfalls) if number != shot]
    return available_h - (float(np.quantile(np.sum(others, axis=0), confidence)) if others else 0.0)


def film_of(
    points: "Sequence[FilmPoint]", asked: Sequence[tuple[float, float]], now: Sequence[tuple[float, float]], left: float
) -> Frontier:
    """Return the frontier of the film.

    Parameters
    ----------
    points : sequence of FilmPoint
    asked, now : sequence of (float, float)
        Machine-hours and error over ceiling of each shot; NaN where that is not known.
    left : float
        Middle machine-hours that do with the chance asked for.
    """
    line = tuple(Point(film_point.hours, film_point.ratio, place) for place, film_point in enumerate(points))
    names, limits = (
        ("machine-hours of the film", "worst error over its limit"),
        ("most that is in time", "error limits"),
    )
    return Frontier((), line, _together(asked), _together(now), 1.0, left, names, limits)


def by_cost(of_hours: Frontier, curve: "CostCurve", budget: float | None, currency: str) -> Frontier:
    """Return the frontier of the film by what its hours cost; the limit is the budget, or what hours in time cost."""

    def priced(point: Point | None) -> Point | None:
        return None if point is None else replace(point, hours=curve.at(point.hours))

    line = tuple(replace(point, hours=curve.at(point.hours)) for point in of_hours.line)
    in_time = curve.at(max(of_hours.left, 0.0))
    by_budget = budget is not None and budget < in_time
    unit = currency or "in the prices given"
    return replace(
        of_hours,
        line=line,
        asked=priced(of_hours.asked),
        plan=priced(of_hours.plan),
        left=budget if by_budget and budget is not None else in_time,
        names=(f"cost of the film, {unit}", of_hours.names[1]),
        limits=("budget" if by_budget else of_hours.limits[0], of_hours.limits[1]),
        unit=unit,
    )


def _together(shots: Sequence[tuple[float, float]]) -> Point | None:
    known = [ratio for _, ratio in shots if not np.isnan(ratio)]
    return Point(sum(hours for hours, _ in shots), max(known)) if known else None


def film_words(points: "Sequence[FilmPoint]") -> dict[int, str]:
    """Return what each plan of the film is, by its place."""
    return {
        place: f"every shot within {round_figures(film_point.ratio, 2)} times its error limit"
        for place, film_point in enumerate(points)
    }
