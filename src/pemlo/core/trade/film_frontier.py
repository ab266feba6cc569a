"""What hours buy for the whole film: for each worst error over its ceiling, the plan with the fewest hours. Pure NumPy.

At a worst ratio the plan of fewest middle hours is each shot's own: so these are exact, and quick.
"""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from pemlo.core.project.settings import ShotSettings
from pemlo.core.trade.best_plan import Reduced, usable_of
from pemlo.core.trade.options import Options

MOST_POINTS = 64


@dataclass(frozen=True)
class FilmPoint:
    """A plan of the film.

    Attributes
    ----------
    hours : float
        Middle machine-hours, retakes counted.
    ratio : float
        The worst of error over ceiling, of the shots whose error is known.
    chosen : tuple of int
        Place of the option among each shot's.
    """

    hours: float
    ratio: float
    chosen: tuple[int, ...]


@dataclass(frozen=True)
class FilmFrontier:
    """The points of a film, and of each shot the options among which they choose."""

    points: tuple[FilmPoint, ...]
    options: tuple[Options, ...]

    def settings_of(self, place: int) -> dict[str, ShotSettings]:
        """Return what a point has for each shot."""
        chosen = self.points[place].chosen
        return {one.shot: one.settings[k] for one, k in zip(self.options, chosen, strict=True)}


def film_frontier(options: Sequence[Options], most: int = MOST_POINTS) -> tuple[FilmPoint, ...]:
    """Return plans of which none is beaten in hours and worst ratio, from the best picture to the fewest hours.

    Parameters
    ----------
    options : sequence of Options
        Of every shot.
    most : int
        So many points at most, spread evenly over the logarithm of the ratio. The ends are always among them.
    """
    reduced = Reduced(options, usable_of(options))
    known = [ratio for is_known, ratio in zip(reduced.is_known, reduced.ratio, strict=True) if is_known]
    if not known:
        return ()
    best, worst = max(float(ratio.min()) for ratio in known), max(float(ratio.max()) for ratio in known)
    levels = np.unique(np.concatenate(known))
    levels = levels[(levels >= best) & (levels <= worst)]
    if len(levels) > most:
        even = np.geomspace(max(best, 1e-9), max(worst, 1e-9), most)
        levels = np.unique(levels[np.clip(np.searchsorted(levels, even), 0, len(levels) - 1)])
    points: list[FilmPoint] = []
    for level in levels:
        chosen = reduced.fastest(float(level))
        if chosen is None:
            continue
        point = FilmPoint(reduced.middle(chosen), reduced.worst(chosen), reduced.places(chosen))
        if not points or point.hours < points[-1].hours:
            points.append(point)
    return tuple(points)
