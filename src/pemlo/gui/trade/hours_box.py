"""What the hours buy: the frontier of the picked shot or of the film, and which of them is shown. GUI thread."""

from collections.abc import Sequence

import numpy as np
from PySide6.QtCore import Signal
from PySide6.QtWidgets import QVBoxLayout, QWidget

from pemlo.app.film_curve import FilmCurve
from pemlo.app.planner import Planner
from pemlo.core.arrays import Floats
from pemlo.core.project.project import Project
from pemlo.core.project.settings import ShotSettings
from pemlo.core.project.shots import Shot
from pemlo.core.project.spelling import settings_words
from pemlo.core.project.trials import GOOD
from pemlo.gui.common.labels import Heading, button
from pemlo.gui.trade import frontiers, presenter
from pemlo.gui.trade.frontier_chart import FrontierChart


class HoursBox(QWidget):
    """The box.

    Attributes
    ----------
    of_film : bool
        Whether the film is shown, or a shot.

    Signals
    -------
    turned()
        The other of both is to be shown.
    """

    turned = Signal()

    def __init__(self, planner: Planner, film: FilmCurve) -> None:
        super().__init__()
        self._planner, self._film = planner, film
        self.of_film = False
        self.scopes = {
            "shot": button("this shot", "What hours buy on the shot that is picked", self._turn, link=True),
            "film": button("the film", "The best plans of the whole film; drag along them", self._turn, link=True),
        }
        self.heading = Heading("What the hours buy", *self.scopes.values())
        self.chart = FrontierChart()
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(4)
        column.addWidget(self.heading)
        column.addWidget(self.chart, 1)

    def _turn(self) -> None:
        self.of_film = not self.of_film
        self.turned.emit()

    def show_hours(
        self, project: Project, shot: Shot, shares: Sequence[presenter.Share], ends: list[Floats], there: float
    ) -> None:
        """Show what hours buy.

        Parameters
        ----------
        shares : sequence of Share
            Of the shots of which options are known.
        ends : list of (N,) ndarray
            Draws of each shot's machine-hours as planned.
        there : float
            Machine-hours before the deadline.
        """
        for scope, link in self.scopes.items():
            link.setEnabled(self.of_film != (scope == "film"))
        shown = (
            self._film_line(project, shares, ends, there)
            if self.of_film
            else self._shot_line(project, shot, ends, there)
        )
        self.chart.show_frontier(*shown)

    def _film_line(
        self, project: Project, shares: Sequence[presenter.Share], ends: list[Floats], there: float
    ) -> tuple[frontiers.Frontier | None, dict[int, str]]:
        self._film.ask()
        points = self._film.points
        if not points or len(shares) < len(project.shots):
            self.heading.say("of the film: not known yet")
            return None, {}
        self.heading.say("of the film; drag along the best")
        total = np.sum(ends, axis=0)
        needed = float(np.quantile(total, project.delivery.confidence))
        left = there * float(np.median(total)) / max(needed, 1e-9)
        asked = [(one.asked_hours, one.asked_ratio) for one in shares]
        now = [(one.hours, one.ratio) for one in shares]
        return frontiers.film_of(points, asked, now, left), frontiers.film_words(points)

    def _shot_line(
        self, project: Project, shot: Shot, ends: list[Floats], there: float
    ) -> tuple[frontiers.Frontier | None, dict[int, str]]:
        options, now = self._planner.options_of(shot.name), self._planner.numbers.of(shot)
        assert options is not None
        assert now is not None
        if not options.known or len(options.settings) < 3:
            self.heading.say("no picture tells its look")
            return None, {}
        self.heading.say(f"each dot a way to render {shot.name}")
        number = next(k for k, one in enumerate(project.shots) if one.name == shot.name)
        left = frontiers.hours_left(ends, number, there, project.delivery.confidence)
        shown = frontiers.frontier_of(options, now, left, self._marked(project, shot))
        return shown, dict(presenter.option_words(options))

    def _marked(self, project: Project, shot: Shot) -> tuple[frontiers.MarkedPoint, ...]:
        """Return the trials of a shot that were marked, where rendering all of it so would lie."""
        found = []
        for trial in project.trials_of(shot.name):
            if trial.mark and trial.error is not None:
                as_shot = shot.changed(plan=ShotSettings.model_validate(trial.frame_fields()))
                numbers = self._planner.numbers.of(as_shot)
                if numbers is not None:
                    words = f"frame {trial.frame}, {settings_words(as_shot.settings)}: {trial.mark}"
                    found.append(frontiers.MarkedPoint(numbers.middle_hours, trial.error, trial.mark == GOOD, words))
        return tuple(found)
