"""Keeps fit, forecast and advice true to the document. Lives on the GUI thread; the computing is done by jobs.

Results are cached by what they were made from: a new deadline asks for a new forecast but not for a new fit.
"""

from collections.abc import Callable
from dataclasses import dataclass, field, replace
from typing import TYPE_CHECKING, Any, TypeVar

from PySide6.QtCore import QObject, QTimer, Signal

from pemlo.app.document import Document
from pemlo.app.jobs import Jobs
from pemlo.core.progress import Monitor
from pemlo.core.project.project import Project

if TYPE_CHECKING:
    from pemlo.core.cost.draws import FilmDraws
    from pemlo.core.cost.next_trial import Advice
    from pemlo.core.cost.posterior import Fit
    from pemlo.core.forecast.finish import Finish
    from pemlo.core.forecast.verdict import Forecast

T = TypeVar("T")
FORECAST = "forecast"
RUN = "run"
ADVICE = "advice"
REST_MS = 250  # a hand that drags is not held up by the run of what it only passes


@dataclass
class Remembered:
    """Parts of forecasts of one fit, the last of each."""

    kept: dict[tuple[str, ...], tuple[object, Any]] = field(default_factory=dict)

    def once(self, name: tuple[str, ...], of: object, make: Callable[[], T]) -> T:
        """Return what is kept under a name if it was made from the same, or make it."""
        entry = self.kept.get(name)
        if entry is None or entry[0] != of:
            entry = self.kept[name] = of, make()
        found: T = entry[1]
        return found


@dataclass(frozen=True)
class FittedFilm:
    """A fit with its draws, what it was made from, and what was found with it of shots."""

    inputs: tuple[object, ...]
    fit: "Fit"
    draws: "FilmDraws"
    numbers: Remembered = field(default_factory=Remembered)


@dataclass(frozen=True)
class FilmForecast:
    """Everything that is known of one state of the document.

    `finish` once every frame of it was run; `not_run` says why it cannot be.
    """

    project: Project
    known: FittedFilm
    forecast: "Forecast"
    finish: "Finish | None" = None
    not_run: str = ""


class Forecaster(QObject):
    """Asks for answers whenever the document changes.

    Signals
    -------
    answered(FilmForecast)
        A forecast for the document as it stands: at once from a few runs, and once more when every frame was run.
    advised(tuple of Advice)
        Next trials, the most telling first.
    outdated()
        The last answer no longer holds; a new one is on its way.
    """

    answered = Signal(object)
    advised = Signal(object)
    outdated = Signal()

    def __init__(self, document: Document, jobs: Jobs) -> None:
        super().__init__()
        self._document, self._jobs = document, jobs
        self._known: FittedFilm | None = None
        self.answer: FilmForecast | None = None
        self.advice: tuple[Advice, ...] = ()
        self._advised_for: tuple[object, ...] = ()
        self.current = False
        self._runs = False  # before the first run what runs is not loaded, or not even compiled
        self._rest = QTimer(self)
        self._rest.setSingleShot(True)
        self._rest.setInterval(REST_MS)
        self._rest.timeout.connect(self._run)
        document.changed.connect(self._on_changed)
        document.replaced.connect(self._on_replaced)

    def ask(self) -> None:
        """Ask for an answer for the document as it stands."""
        project, known = self._document.project, self._known
        self.current = False
        self.outdated.emit()
        self._jobs.cancel(ADVICE)
        self._jobs.cancel(RUN)
        self._rest.stop()
        runs = self._runs
        self._jobs.submit(
            FORECAST,
            "Forecasting",
            lambda monitor: _answer(project, known, monitor, runs=runs),
            self._on_answered,
            waited_for=True,
            again=self.ask,
        )

    def _on_changed(self, fields: frozenset[str]) -> None:
        if fields - {"title", "watching"}:
            self.ask()

    def _on_replaced(self) -> None:
        self._known = self.answer = None
        self.advice = ()
        self.ask()

    def _on_answered(self, answer: FilmForecast) -> None:
        inputs = (answer.known.inputs, tuple((shot.settings, shot.still) for shot in answer.project.shots))
        is_new = bool(self.advice) and inputs == self._advised_for
        self._known, self.answer, self.current = answer.known, answer, True
        self.answered.emit(answer)
        if answer.forecast.probability is not None and answer.forecast.hours_available:
            self._rest.start()
        if is_new:  # hours and deadlines change nothing of what a trial tells
            self.advised.emit(self.advice)
            return
        self._advised_for = inputs
        self.advice = ()
        self._ask_advice(answer)

    @property
    def rests(self) -> bool:
        """Whether all is known of the document as it stands, or on its way in a job."""
        return self.current and not self._rest.isActive()

    def _run(self) -> None:
        """Run every frame of what was answered last."""
        answer = self.answer
        if answer is not None and self.current:
            self._jobs.submit(
                RUN, "Running every frame", lambda monitor: _with_run(answer, monitor), self._on_run, again=self._run
            )

    def _on_run(self, answer: FilmForecast) -> None:
        self._runs = answer.finish is not None
        self.answer = answer
        self.answered.emit(answer)

    def _ask_advice(self, answer: FilmForecast) -> None:
        self._jobs.submit(
            ADVICE,
            "Weighing which trial tells most",
            lambda monitor: _advise(answer, monitor),
            self._on_advised,
            again=lambda: self._ask_advice(answer),
        )

    def _on_advised(self, advice: "tuple[Advice, ...]") -> None:
        self.advice = advice
        self.advised.emit(advice)


def _answer(project: Project, known: FittedFilm | None, monitor: Monitor, *, runs: bool) -> FilmForecast:
    from pemlo.core.cost.draws import draw_film, draw_input  # noqa: PLC0415 - heavy to load, and the window comes up first
    from pemlo.core.cost.fit import fit  # noqa: PLC0415 - as above
    from pemlo.core.cost.fit_input import fit_input  # noqa: PLC0415 - as above
    from pemlo.core.forecast.run_effect import QUICK_FRAMES  # noqa: PLC0415 - as above
    from pemlo.core.forecast.verdict import forecast  # noqa: PLC0415 - as above

    inputs = draw_input(project)
    if known is None or known.inputs != inputs:
        made = fit(fit_input(project), monitor)
        monitor.step(0.7, "Drawing from what is known")
        known = FittedFilm(inputs, made, draw_film(made, project))
    monitor.step(0.95, "Forecasting")
    frames = QUICK_FRAMES if runs else 0
    found = forecast(project, known.fit, known.draws, known.numbers, most_frames=frames)
    return FilmForecast(project, known, found)


def _with_run(answer: FilmForecast, monitor: Monitor) -> FilmForecast:
    from pemlo.core.errors import InputError  # noqa: PLC0415 - as above
    from pemlo.core.forecast.run_effect import exact_finish  # noqa: PLC0415 - as above
    from pemlo.core.forecast.verdict import forecast  # noqa: PLC0415 - as above

    project, known = answer.project, answer.known
    monitor.step(0.0, "Running every frame")
    try:
        found = exact_finish(project, known.fit, known.draws, monitor)
    except InputError as error:  # too many machines to run one by one: what they can do together is known all the same
        return replace(answer, not_run=error.message)
    said = forecast(project, known.fit, known.draws, known.numbers, finish=found)
    return FilmForecast(project, known, said, found)


def _advise(answer: FilmForecast, monitor: Monitor) -> "tuple[Advice, ...]":
    from pemlo.core.cost.next_trial import advise  # noqa: PLC0415 - as above

    found: list[Advice] = []
    shots = [shot.name for shot in answer.project.shots]
    for number, name in enumerate(shots):
        monitor.step(number / len(shots), "Weighing which trial tells most")
        found += advise(answer.known.fit, answer.project, {name})
    return tuple(sorted(found, key=lambda one: -one.variance_per_minute))
