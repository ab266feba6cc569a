"""The film as it stands and what is known of it. GUI thread.

An edit makes another film, and what is known of it is looked up: nothing is made here. What is missing is asked for,
and heard of at most once a turn of the event loop. What was known last stays shown while something newer is worked
out; that it is older says the film it is of, and no flag.
"""

import operator
import threading
from collections.abc import Callable
from pathlib import Path
from typing import TYPE_CHECKING

from PySide6.QtCore import QObject, QTimer, Signal

from pemlo.app.document import Document
from pemlo.app.file_facts import FileFacts
from pemlo.app.film_known import FilmForecast, FittedFilm, UpdatedFilm, advice_known, first_known, fitted, known_of
from pemlo.app.film_work import MANY_SHOTS, FilmWork
from pemlo.app.jobs import Jobs
from pemlo.core.progress import Monitor

if TYPE_CHECKING:
    from pemlo.core.arrivals.live_forecast import LiveForecast
    from pemlo.core.cluster import Cluster
    from pemlo.core.cost.next_trial import Advice
    from pemlo.core.film.film import Film
    from pemlo.core.film.memo import Memo
    from pemlo.words.film_verdict import FilmVerdict


HOLD = "hold"


class FilmState(QObject):
    """What is known of a document's film.

    Attributes
    ----------
    film : Film
        As it stands.
    answer : FilmForecast or None
        What is known of it; of an earlier state of it while that is found out.
    live_forecast : LiveForecast or None
        What frames that are in tell.

    Signals
    -------
    changed()
        Something else is known, or the film is another; at most once a turn.
    """

    changed = Signal()
    _first = Signal()

    def __init__(
        self,
        document: Document,
        jobs: Jobs,
        written: FileFacts,
        folder: Callable[[], Path],
        updated: "UpdatedFilm | None" = None,
    ) -> None:
        super().__init__()
        self._document, self._jobs, self._written, self._folder = document, jobs, written, folder
        self._memo: Memo | None = None
        self._cluster: Cluster | None = None
        self._learned = updated
        self._film: Film | None = None
        self._before: Film | None = None  # the last edit
        self._seen: Film | None = None
        self.live_forecast: LiveForecast | None = None
        self._fitted: FittedFilm | None = None
        self.answer: FilmForecast | None = None
        self._advice: tuple[Advice, ...] = ()
        self._telling = self._looked_at = self._looks_held = False
        self._pictures: tuple[object, Path | None, list[Path]] = None, None, []
        # Where frames come in nobody asks for trials.
        self.work = FilmWork(self, jobs, self, self._first.emit, advises=updated is None)
        self._first.connect(self._on_first)
        document.changed.connect(self._on_changed)
        document.replaced.connect(self._on_replaced)
        written.changed.connect(self._on_written)

    # The film

    @property
    def film(self) -> "Film":
        """The film as it stands."""
        if self._film is None:
            from pemlo.core.film.film import Film  # noqa: PLC0415 - heavy to load, and the window comes up first

            fitted_to = None if self._learned is None else self._learned.given
            project = self._document.project
            made = Film(project, self._folder(), memo=self.memo, written=self._written.of, fitted_to=fitted_to)
            self._film = made if self._before is None else made.with_pictures_of(self._before)
        return self._film

    @property
    def memo(self) -> "Memo":
        """Where its values are kept."""
        if self._memo is None:
            from pemlo.core.film.memo import Memo  # noqa: PLC0415 - as above

            self._memo = Memo()
            self._memo.cluster = self._cluster
            self._memo.never_on(threading.get_ident())
            if self._learned is not None:
                self._learned.put(self._memo)
        return self._memo

    def work_on(self, cluster: "Cluster | None") -> None:
        """Let other machines do large work from now on; None for this one alone. The numbers are the same."""
        self._cluster = cluster
        if self._memo is not None:
            self._memo.cluster = cluster

    @property
    def current(self) -> bool:
        """Whether there is a forecast of the film as it stands."""
        return self.answer is not None and self.answer.film is self._film and not self.answer.first

    @property
    def rests(self) -> bool:
        """Whether all is known of the film as it stands, and was told, or is on its way in a job."""
        return self.current and not self.work.waits and not self._telling

    @property
    def known(self) -> FittedFilm | None:
        """What is known of the cost of the film as it stands; None while it is found out, or nothing was timed."""
        fitted_film = self._fitted
        return (
            fitted_film
            if fitted_film is not None and fitted_film.film is self._film and fitted_film.fit.known
            else None
        )

    @property
    def verdict(self) -> "FilmVerdict | None":
        """The verdict of what is known; None before anything is."""
        answer = self.answer
        if answer is None:
            return None
        from pemlo.words.film_verdict import film_verdict  # noqa: PLC0415 - heavy to load

        trials, first = answer.fit.timed_trials, answer.first
        return film_verdict(answer.project, answer.forecast, answer.finish, trials, self.live_forecast, first=first)

    def hold(self) -> None:
        """Let what is made of the film as it stands stay; the disk is asked for no picture that nobody wants.

        What the last film held stays until then: it is almost the same.
        """
        film = self.film
        self._looks_held = looks = self._looked_at

        def work(monitor: Monitor) -> None:
            film.hold(self, looks=looks, monitor=monitor)  # what a newer film holds is not let go of again

        self._jobs.submit(HOLD, "Keeping what is known", work, lambda _: None, waited_for=True, quiet=True)

    def pictures_known(self) -> bool:
        """Whether it is known which of the film's pictures there are; what is not is asked for."""
        if self._seen is not None and self._seen is self._film:
            return True
        self._looked_at = True
        trials, folder = self.film.project.trials, self.film.folder
        if self._pictures[0] is not trials or self._pictures[1] != folder:
            # Records that did not change are the same objects: comparing rows of them takes no time.
            same = self._pictures[0] == trials and self._pictures[1] == folder
            paths = self._pictures[2] if same else [folder / trial.picture for trial in trials if trial.picture]
            self._pictures = trials, folder, paths
        if self._written.known(self._pictures[2]):
            self._seen = self.film
        return self._seen is self._film

    def ask_for_pictures(self) -> None:
        """Have the disk asked again, after a while, when the film's pictures were written."""
        if self.pictures_known():
            if not self._looks_held:
                self.hold()  # from now on also what shots could be
            for path in self._pictures[2]:
                self._written.of(path)

    def _on_changed(self, _fields: frozenset[str]) -> None:
        self._before, self._film = self._film, None
        if len(self._document.project.shots) < MANY_SHOTS:
            self.ask()
        else:
            self._fitted = fitted(self.film)
            self.work.ask_soon()

    def _on_replaced(self) -> None:
        self._jobs.cancel(HOLD)
        if self._memo is not None:
            self._memo.let_go(self)
        self._film = self._before = self._fitted = self.answer = self.live_forecast = None
        self._looked_at = self._looks_held = False

    def _on_written(self) -> None:
        """Know the film with the pictures that there are now; times and hours stay as they are."""
        was_current, self._film, self._before = self.current, None, None
        if was_current:
            self.hold()
            self.look_up()
        self.tell()

    def look_up(self) -> bool:
        """Look up what is known of the film as it stands; whether there is a forecast of it."""
        self._fitted = fitted(self.film)
        forecast = None if self._fitted is None else known_of(self._fitted)
        if forecast is not None:
            self.answer = forecast
        return forecast is not None

    def _on_first(self) -> None:
        """Show a first answer, unless more is known already."""
        found = None if self.current else first_known(self.film)
        if found is not None:
            self.answer = found
            self.tell()

    def tell(self) -> None:
        """Say, once in this turn, that something is new."""
        if not self._telling:
            self._telling = True
            QTimer.singleShot(0, self, self._told)

    def _told(self) -> None:
        self._telling = False
        self.changed.emit()

    def ask(self) -> None:
        """Ask for what is not known of the film as it stands."""
        self.work.ask()

    @property
    def advice(self) -> "tuple[Advice, ...]":
        """Next trials of the film as it stands, the most telling first; empty while they are not known."""
        found = advice_known(self.film, self.answer.forecast) if self.current and self.answer is not None else ()
        if len(found) != len(self._advice) or any(map(operator.is_not, found, self._advice)):
            self._advice = found
        return self._advice
