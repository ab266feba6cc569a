"""Keeps the forecast of what is left of a film true while its levers move. Lives on the GUI thread; work in jobs.

What is left is a document of its own: what is tried there changes nothing of the film until the plan is taken.
"""

from typing import TYPE_CHECKING

from PySide6.QtCore import QObject, Signal

from pemlo.app.document import Document
from pemlo.app.forecaster import FORECAST, FilmForecast, FittedFilm
from pemlo.app.jobs import Jobs
from pemlo.core.progress import Monitor
from pemlo.core.project.project import Project

if TYPE_CHECKING:
    from pemlo.core.cost.posterior import Fit
    from pemlo.core.forecast.rest_film import RestFilm


class RestPlanner(QObject):
    """Answers for the rest as it stands.

    Signals
    -------
    answered(FilmForecast)
    """

    answered = Signal(object)

    def __init__(self, rest: "RestFilm", fit: "Fit") -> None:
        super().__init__()
        self.document, self.jobs = Document(rest.project), Jobs()
        self._rest, self._fit = rest, fit
        self._known: FittedFilm | None = None
        self.answer: FilmForecast | None = None
        self.document.changed.connect(lambda _: self.ask())

    def ask(self) -> None:
        """Ask for a forecast of the rest as it stands."""
        project, known, fit, draws = self.document.project, self._known, self._fit, self._rest.draws

        def work(monitor: Monitor) -> FilmForecast:
            from pemlo.core.cost.draws import draw_input  # noqa: PLC0415 - heavy to load
            from pemlo.core.forecast.verdict import forecast  # noqa: PLC0415 - as above

            monitor.step(0.0, "Forecasting the rest")
            inputs = draw_input(project)
            same = known if known is not None and known.inputs == inputs else FittedFilm(inputs, fit, draws)
            return FilmForecast(project, same, forecast(project, fit, draws, same.numbers))

        self.jobs.submit(FORECAST, "Forecasting the rest", work, self._on_done, waited_for=True, again=self.ask)

    def _on_done(self, answer: FilmForecast) -> None:
        self._known, self.answer = answer.known, answer
        self.answered.emit(answer)

    def settings(self) -> Project:
        """Return the rest as it stands."""
        return self.document.project

    def close(self) -> None:
        """Stop all work."""
        self.jobs.shut_down()
