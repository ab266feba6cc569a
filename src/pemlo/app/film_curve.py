"""Keeps the frontier of the film true to what its shots could be. GUI thread; the computing is done by jobs."""

from typing import TYPE_CHECKING

from PySide6.QtCore import QObject, Signal

from pemlo.app.document import Document
from pemlo.app.jobs import Jobs
from pemlo.app.planner import Planner
from pemlo.core.progress import Monitor
from pemlo.core.project.settings import ShotSettings

if TYPE_CHECKING:
    from pemlo.core.trade.film_frontier import FilmPoint
    from pemlo.core.trade.options import Options

FILM = "film frontier"


class FilmCurve(QObject):
    """The best plans of the film, from the best picture to the fewest hours.

    Attributes
    ----------
    points : tuple of FilmPoint
        Of the film as it was when somebody last asked; empty before that is there.

    Signals
    -------
    changed()
    """

    changed = Signal()

    def __init__(self, document: Document, jobs: Jobs, planner: Planner) -> None:
        super().__init__()
        self._document, self._jobs, self._planner = document, jobs, planner
        self.points: tuple[FilmPoint, ...] = ()
        self._of: tuple[Options, ...] = ()
        self._asked_for: tuple[Options, ...] = ()
        document.replaced.connect(self._forget)

    def _forget(self) -> None:
        self.points, self._of, self._asked_for = (), (), ()

    def ask(self) -> None:
        """Bring the frontier up to date, if anything that it depends on has changed."""
        held = [self._planner.numbers.held_options(shot) for shot in self._document.project.shots]
        options = tuple(one for one in held if one is not None)
        if self._of and _are_same(options, self._of):
            return
        self.points, self._of = (), ()  # they are of another state of the film
        under_way = FILM in self._jobs.running or FILM in self._jobs.not_done
        if len(options) < len(held) or (under_way and _are_same(options, self._asked_for)):
            return
        self._find(options)

    def _find(self, options: "tuple[Options, ...]") -> None:
        self._asked_for = options

        def work(monitor: Monitor) -> "tuple[FilmPoint, ...]":
            from pemlo.core.trade.film_frontier import film_frontier  # noqa: PLC0415 - heavy to load

            monitor.step(0.0, "Finding what hours buy for the film")
            return film_frontier(options)

        def done(points: "tuple[FilmPoint, ...]") -> None:
            self.points, self._of = points, options
            self.changed.emit()

        self._jobs.submit(FILM, "Finding what hours buy for the film", work, done, again=lambda: self._find(options))

    def settings_of(self, place: int) -> dict[str, ShotSettings]:
        """Return what a plan of the film has for each shot."""
        chosen = self.points[place].chosen
        return {one.shot: one.settings[k] for one, k in zip(self._of, chosen, strict=True)}


def _are_same(some: "tuple[Options, ...]", others: "tuple[Options, ...]") -> bool:
    return len(some) == len(others) and all(one is other for one, other in zip(some, others, strict=True))
