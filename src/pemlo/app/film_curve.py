"""Asks for the frontier of the film as it stands. GUI thread; the work is done by jobs."""

from typing import TYPE_CHECKING

from PySide6.QtCore import QObject, Signal

from pemlo.app.jobs import Jobs
from pemlo.app.planner import Planner
from pemlo.core.progress import Monitor
from pemlo.core.project.settings import ShotSettings

if TYPE_CHECKING:
    from pemlo.core.trade.film_frontier import FilmFrontier, FilmPoint

FILM = "film frontier"


class FilmCurve(QObject):
    """The best plans of the film, from the best picture to the fewest hours.

    Signals
    -------
    changed()
    """

    changed = Signal()

    def __init__(self, jobs: Jobs, planner: Planner) -> None:
        super().__init__()
        self._jobs, self._planner = jobs, planner
        self._asked_for: object = None

    def _is_weighed(self) -> bool:
        """Whether it is known of every shot what a plan may choose."""
        planner = self._planner
        return len(planner.plan_options()) == len(planner.state.film.project.shots)

    @property
    def _frontier(self) -> "FilmFrontier | None":
        """Of the film as it stands; None before that is known."""
        if self._planner.state.known is None or not self._planner.state.pictures_known():
            return None
        from pemlo.core.film.choices import FRONTIER  # noqa: PLC0415 - heavy to load

        film = self._planner.state.film
        return film.peek(FRONTIER, film.frontier_input)

    @property
    def points(self) -> "tuple[FilmPoint, ...]":
        """Of the film as it stands; empty before that is known."""
        frontier = self._frontier
        return () if frontier is None else frontier.points

    def ask(self) -> None:
        """Ask for the frontier, if that of the film as it stands is not known."""
        if not self._is_weighed():
            return
        from pemlo.core.film.choices import FRONTIER  # noqa: PLC0415 - heavy to load

        film = self._planner.state.film
        given = film.frontier_input
        under_way = FILM in self._jobs.running or FILM in self._jobs.not_done
        if film.memo.has(FRONTIER.key(given)) or (under_way and self._asked_for == given):
            return
        self._find()

    def _find(self) -> None:
        film = self._planner.state.film
        given = self._asked_for = film.frontier_input

        def work(monitor: Monitor) -> None:
            from pemlo.core.film.choices import FRONTIER  # noqa: PLC0415 - heavy to load

            film.get(FRONTIER, given, monitor)

        text = "Finding what hours buy for the film"
        self._jobs.submit(FILM, text, work, lambda _: self.changed.emit(), again=self._find)

    def settings_of(self, place: int) -> dict[str, ShotSettings]:
        """Return what a plan of the film has for each shot."""
        frontier = self._frontier
        return {} if frontier is None else frontier.settings_of(place)
