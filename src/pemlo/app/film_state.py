"""The film as it stands, what is known of it, and the work that finds out the rest. GUI thread; the work runs in jobs.

An edit makes another film, and what is known of it is looked up: nothing is made here. What is missing is asked for,
and heard of at most once a turn of the event loop. What was known last stays shown while something newer is worked
out; that it is older says the film it is of, and no flag.
"""

import operator
import threading
from collections.abc import Callable
from dataclasses import dataclass
from pathlib import Path
from typing import TYPE_CHECKING

from PySide6.QtCore import QObject, QTimer, Signal

from pemlo.app.document import Document
from pemlo.app.file_facts import FileFacts
from pemlo.app.jobs import Jobs
from pemlo.core.progress import Monitor
from pemlo.core.project.project import Project

if TYPE_CHECKING:
    from pemlo.core.arrivals.film_verdict import FilmVerdict
    from pemlo.core.arrivals.outlook import Outlook
    from pemlo.core.cost.draws import FilmDraws
    from pemlo.core.cost.fit_input import FitInput
    from pemlo.core.cost.next_trial import Advice
    from pemlo.core.cost.posterior import Fit
    from pemlo.core.film.film import Film
    from pemlo.core.film.memo import Memo
    from pemlo.core.forecast.finish import Finish
    from pemlo.core.forecast.verdict import Forecast

FORECAST = "forecast"
RUN = "run"
ADVICE = "advice"
REST_MS = 250  # a hand that drags is not held up by the run of what it only passes


@dataclass(frozen=True, eq=False)
class FittedFilm:
    """A film of which it is known what its shots cost."""

    film: "Film"
    fit: "Fit"
    draws: "FilmDraws"

    @property
    def project(self) -> Project:
        """The project of the film."""
        return self.film.project


@dataclass(frozen=True, eq=False)
class FilmForecast(FittedFilm):
    """A film with its forecast, the strongest that there is.

    Attributes
    ----------
    finish : Finish or None
        Once every frame of it was run; `not_run` says why it cannot be.
    """

    forecast: "Forecast"
    finish: "Finish | None" = None
    not_run: str = ""


@dataclass(frozen=True, eq=False)
class LearnedFilm:
    """What stands for a fit to trials where frames of the film told more: the fit and the draws of what is left."""

    project: Project
    fit: "Fit"
    draws: "FilmDraws"

    @property
    def given(self) -> "FitInput":
        """What a fit to trials would be made from."""
        from pemlo.core.cost.fit_input import fit_input  # noqa: PLC0415 - heavy to load

        return fit_input(self.project)

    def put(self, memo: "Memo") -> None:
        """Put it in the place of a fit to trials."""
        from pemlo.core.cost.draws import drawn_shot  # noqa: PLC0415 - heavy to load
        from pemlo.core.film.inputs import DrawsInput  # noqa: PLC0415 - as above
        from pemlo.core.film.values import DRAWS, FIT  # noqa: PLC0415 - as above

        given = self.given
        memo.put(FIT, given, self.fit)
        for shot in self.project.shots:
            memo.put(DRAWS, DrawsInput(given, drawn_shot(shot)), self.draws[shot.name])


def fitted(film: "Film") -> FittedFilm | None:
    """Return what is known of the cost of a film; None before it was fitted. Only looks."""
    from pemlo.core.film import values  # noqa: PLC0415 - heavy to load, and the window comes up first

    run, fit = film.run_input, film.peek(values.FIT, film.fit_input)
    draws = {shot.name: film.peek(values.DRAWS, run.draws_of(shot)) for shot in run.shots}
    drawn = {name: one for name, one in draws.items() if one is not None}
    return None if fit is None or len(drawn) < len(draws) else FittedFilm(film, fit, drawn)


def known_of(found: FittedFilm) -> FilmForecast | None:
    """Return what else is known of a film; None before there is a forecast of it. Only looks."""
    from pemlo.core.film import values  # noqa: PLC0415 - heavy to load, and the window comes up first

    film, run = found.film, found.film.run_input
    exact = film.peek(values.FORECAST, run)
    if exact is not None:
        trouble = film.memo.trouble(values.RUN, run)
        not_run = "" if trouble is None else trouble.message
        return FilmForecast(film, found.fit, found.draws, exact, film.peek(values.RUN, run), not_run)
    quick = film.peek(values.QUICK_FORECAST, run) or film.peek(values.FIRST_FORECAST, run)
    return None if quick is None else FilmForecast(film, found.fit, found.draws, quick)


class FilmState(QObject):
    """What is known of a document's film.

    Attributes
    ----------
    film : Film
        As it stands.
    answer : FilmForecast or None
        What is known of it; of an earlier state of it while that is found out.
    outlook : Outlook or None
        What frames that are in tell.

    Signals
    -------
    changed()
        Something else is known, or the film is another; at most once a turn.
    """

    changed = Signal()

    def __init__(
        self,
        document: Document,
        jobs: Jobs,
        written: FileFacts,
        folder: Callable[[], Path],
        learned: "LearnedFilm | None" = None,
    ) -> None:
        super().__init__()
        self._document, self._jobs, self._written, self._folder = document, jobs, written, folder
        self._memo: Memo | None = None
        self._learned = learned
        self._film: Film | None = None
        self.outlook: Outlook | None = None
        self._held: Film | None = None
        self._fitted: FittedFilm | None = None
        self.answer: FilmForecast | None = None
        self._advice: tuple[Advice, ...] = ()
        self._runs = False  # before the first run what runs is not loaded, or not even compiled
        self._telling = self._looked_at = False
        self._pictures: tuple[object, Path | None, list[Path]] = None, None, []
        self._rest = QTimer(self)
        self._rest.setSingleShot(True)
        self._rest.setInterval(REST_MS)
        self._rest.timeout.connect(self._run)
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
            self._film = Film(project, self._folder(), self.memo, written=self._written.of, fitted_to=fitted_to)
        return self._film

    @property
    def memo(self) -> "Memo":
        """Where its values are kept."""
        if self._memo is None:
            from pemlo.core.film.memo import Memo  # noqa: PLC0415 - as above

            self._memo = Memo()
            self._memo.never_on(threading.get_ident())
            if self._learned is not None:
                self._learned.put(self._memo)
        return self._memo

    @property
    def current(self) -> bool:
        """Whether there is a forecast of the film as it stands."""
        return self.answer is not None and self.answer.film is self._film

    @property
    def rests(self) -> bool:
        """Whether all is known of the film as it stands, and was told, or is on its way in a job."""
        return self.current and not self._rest.isActive() and not self._telling

    @property
    def known(self) -> FittedFilm | None:
        """What is known of the cost of the film as it stands; None while it is found out, or nothing was timed."""
        found = self._fitted
        return found if found is not None and found.film is self._film and found.fit.known else None

    def take_outlook(self, outlook: "Outlook | None") -> None:
        """Take what frames that are in tell; None where they tell nothing any more."""
        self.outlook = outlook

    @property
    def verdict(self) -> "FilmVerdict | None":
        """The verdict of what is known; None before anything is."""
        answer = self.answer
        if answer is None:
            return None
        from pemlo.core.arrivals.film_verdict import film_verdict  # noqa: PLC0415 - heavy to load

        trials = answer.fit.timed_trials
        return film_verdict(answer.project, answer.forecast, answer.finish, trials, self.outlook)

    def _hold(self) -> None:
        """Let what is made of the film as it stands stay; the disk is asked for no picture that nobody wants."""
        self.film.hold(self, looks=self._looked_at)
        self._held = self.film if self._looked_at else None

    def pictures_known(self) -> bool:
        """Whether it is known which of the film's pictures there are; what is not is asked for."""
        self._looked_at = True
        trials, folder = self.film.project.trials, self.film.folder
        if self._pictures[0] is not trials or self._pictures[1] != folder:
            # Records that did not change are the same objects: comparing rows of them takes no time.
            same = self._pictures[0] == trials and self._pictures[1] == folder
            paths = self._pictures[2] if same else [folder / one.picture for one in trials if one.picture]
            self._pictures = trials, folder, paths
        return self._written.known(self._pictures[2])

    def ask_for_pictures(self) -> None:
        """Have the disk asked again, after a while, when the film's pictures were written."""
        if self.pictures_known():
            if self._held is not self.film:
                self._hold()  # from now on also what shots could be
            for path in self._pictures[2]:
                self._written.of(path)

    def _on_changed(self, _fields: frozenset[str]) -> None:
        self._film = None
        self.ask()

    def _on_replaced(self) -> None:
        if self._memo is not None:
            self._memo.let_go(self)
        self._film = self._fitted = self.answer = self.outlook = None
        self._looked_at = False

    def _on_written(self) -> None:
        """Know the film with the pictures that there are now; times and hours stay as they are."""
        was_current, self._film = self.current, None
        if was_current:
            self._hold()
            self._look_up()
        self._tell()

    def _look_up(self) -> bool:
        """Look up what is known of the film as it stands; whether there is a forecast of it."""
        self._fitted = fitted(self.film)
        known = None if self._fitted is None else known_of(self._fitted)
        if known is not None:
            self.answer = known
        return known is not None

    def _tell(self) -> None:
        """Say, once in this turn, that something is new."""
        if not self._telling:
            self._telling = True
            QTimer.singleShot(0, self, self._told)

    def _told(self) -> None:
        self._telling = False
        self.changed.emit()

    # The work

    def ask(self) -> None:
        """Look up what is known of the film as it stands, and ask for what is not."""
        self._jobs.cancel(RUN)
        self._rest.stop()
        self._hold()
        if self._look_up():
            self._jobs.cancel(FORECAST)
            self._go_on()
            return
        self._jobs.cancel(ADVICE)
        film, runs = self.film, self._runs
        self._jobs.submit(
            FORECAST,
            "Forecasting",
            lambda monitor: _forecast(film, monitor, runs=runs),
            lambda _: self._on_forecast(),
            waited_for=True,
            again=self.ask,
        )
        self._tell()

    def _on_forecast(self) -> None:
        if self._look_up():
            self._go_on()

    def _go_on(self) -> None:
        """Ask for what a forecast leaves open: a run of every frame, and which trial to run next."""
        from pemlo.core.film import values  # noqa: PLC0415 - heavy to load

        answer = self.answer
        assert answer is not None
        exact = self.film.peek(values.FORECAST, self.film.run_input)
        if exact is None and values.can_be_run(answer.forecast):
            self._rest.start()
        self._ask_advice()
        self._tell()

    def _run(self) -> None:
        """Run every frame of the film as it stands."""
        film = self.film

        def work(monitor: Monitor) -> None:
            from pemlo.core.film import values  # noqa: PLC0415 - heavy to load

            film.get(values.FORECAST, film.run_input, monitor)

        self._jobs.submit(RUN, "Running every frame", work, lambda _: self._on_run(), again=self._run)

    def _on_run(self) -> None:
        if self._look_up() and self.answer is not None:
            self._runs = self._runs or self.answer.finish is not None
            self._tell()

    # Next trials

    @property
    def advice(self) -> "tuple[Advice, ...]":
        """Next trials of the film as it stands, the most telling first; empty while they are not known."""
        from pemlo.core.film import values  # noqa: PLC0415 - heavy to load

        if not self.current:
            return ()
        film = self.film
        found = [film.peek(values.ADVICE, film.advice_input(shot)) for shot in film.project.shots]
        if any(one is None for one in found):
            return ()
        all_of_them = [advice for one in found for advice in one or ()]
        sorted_now = tuple(sorted(all_of_them, key=lambda one: -one.variance_per_minute))
        if len(sorted_now) != len(self._advice) or any(map(operator.is_not, sorted_now, self._advice)):
            self._advice = sorted_now
        return self._advice

    def _ask_advice(self) -> None:
        if self._learned is not None:
            return  # frames come in by themselves
        from pemlo.core.film import values  # noqa: PLC0415 - heavy to load

        film = self.film
        inputs = [film.advice_input(shot) for shot in film.project.shots]
        if all(film.memo.has(values.ADVICE.key(one)) for one in inputs):
            self._jobs.cancel(ADVICE)
            return

        def work(monitor: Monitor) -> None:
            for number, one in enumerate(inputs):
                monitor.step(number / len(inputs), "Weighing which trial tells most")
                film.get(values.ADVICE, one, monitor)

        self._jobs.submit(
            ADVICE, "Weighing which trial tells most", work, lambda _: self._tell(), again=self._ask_advice
        )


def _forecast(film: "Film", monitor: Monitor, *, runs: bool) -> None:
    from pemlo.core.film import values  # noqa: PLC0415 - heavy to load, and the window comes up first

    # What is shown is made of all three: any of them may have given way while the others stayed.
    film.get(values.FIT, film.fit_input, monitor)
    for shot in film.run_input.shots:
        film.get(values.DRAWS, film.run_input.draws_of(shot), monitor)
    film.get(values.QUICK_FORECAST if runs else values.FIRST_FORECAST, film.run_input, monitor)
