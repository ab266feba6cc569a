"""The order of shots that keeps most dates: plain orders, and then small changes by hand. Seconds; with a monitor.

For one machine the earliest date first keeps the latest of all shots least late (J. Jackson, 1955), and on several the
longest first ends soonest of the plain rules (R. Graham, "Bounds on multiprocessing timing anomalies", 1969). Which of
them is best for a film, and whether it can be bettered by hand, its own runs say.
"""

from dataclasses import dataclass

import numpy as np

from pemlo.core.cost.draws import FilmDraws
from pemlo.core.cost.posterior import Fit
from pemlo.core.forecast.finish import Finish, finish_of
from pemlo.core.progress import Monitor, Unwatched
from pemlo.core.project.edits import set_running
from pemlo.core.project.project import Project
from pemlo.core.project.running import Order

TRIED_DRAWS = 100
MOST_TRIES = 60
PLAIN: tuple[Order, ...] = ("film", "due", "longest", "shortest")


@dataclass(frozen=True)
class TriedOrder:
    """An order, and what comes of it in some of the draws.

    Attributes
    ----------
    order : str
    queue : tuple of str
        The shots, where they stand by hand.
    probability : float
        Of being done by the deadline.
    dates : float
        How many of the dates that shots have of their own are kept, mean over the draws, of all of them; 1 if there
        are none.
    end_h : float
        Middle end, hours since the start.
    """

    order: Order
    queue: tuple[str, ...]
    probability: float
    dates: float
    end_h: float

    @property
    def worth(self) -> tuple[float, float, float]:
        """What is better is more: dates and the deadline first, then an early end."""
        return (round(self.dates + self.probability, 3), round(self.dates, 3), -self.end_h)

    def taken(self, project: Project) -> Project:
        """Return a film whose shots are handed out so."""
        return set_running(project, order=self.order, queue=self.queue)


def orders_tried(
    project: Project, fit: Fit, draws: FilmDraws, monitor: Monitor | None = None
) -> tuple[TriedOrder, ...]:
    """Return the order as it stands, and then the others that were tried, the best first.

    All have the same random numbers, so that only the order differs.

    Raises
    ------
    InputError
        If nothing was timed, or no machine is ever free.
    Cancelled
        From the monitor.
    """
    watch = monitor or Unwatched()
    which = np.arange(min(TRIED_DRAWS, len(next(iter(draws.values())).theta)))

    def tried(order: Order, queue: tuple[str, ...] = ()) -> TriedOrder:
        watch.step(0.0, "Trying orders of the shots")
        changed = set_running(project, order=order, queue=queue)
        return _said(order, queue, finish_of(changed, fit, draws, which=which))

    now = tried(project.running.order, project.running.queue)
    dated = any(shot.due is not None for shot in project.shots)
    others = [tried(order) for order in PLAIN if order != now.order and (dated or order != "due")]
    best = max((now, *others), key=lambda one: one.worth)
    if dated:
        by_hand = _by_hand(project, fit, draws, best, which, watch)
        if by_hand.worth > best.worth:
            others.append(by_hand)
    return (now, *sorted(others, key=lambda one: one.worth, reverse=True))


def _said(order: Order, queue: tuple[str, ...], finish: Finish) -> TriedOrder:
    dates = float(np.mean([date.probability for date in finish.dates])) if finish.dates else 1.0
    return TriedOrder(order, queue, finish.probability, dates, finish.film.middle)


def _by_hand(
    project: Project, fit: Fit, draws: FilmDraws, best: TriedOrder, which: np.ndarray, watch: Monitor
) -> TriedOrder:
    """Move single shots of the best order to the front of others, while that is better."""
    finish = finish_of(best.taken(project), fit, draws, which=which)
    names = list(dict.fromkeys(finish.jobs[k].shot.name for k in finish.work.order))
    late = [date.what for date in sorted(finish.dates, key=lambda one: one.probability) if date.probability < 1]
    tries = 0
    for name in late:
        for place in range(names.index(name) if name in names else 0):
            if tries >= MOST_TRIES:
                return best
            watch.step(tries / MOST_TRIES, "Trying orders of the shots")
            moved = [one for one in names if one != name]
            moved.insert(place, name)
            queue = tuple(moved)
            changed = set_running(project, order="by hand", queue=queue)
            candidate = _said("by hand", queue, finish_of(changed, fit, draws, which=which))
            tries += 1
            if candidate.worth > best.worth:
                best, names = candidate, moved
                break
    return best
