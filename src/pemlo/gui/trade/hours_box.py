"""What hours buy: the frontier of the picked shot or of the film, and which of them is shown. GUI thread."""

from collections.abc import Sequence
from functools import partial

import numpy as np
from PySide6.QtCore import Signal
from PySide6.QtWidgets import QVBoxLayout, QWidget

from pemlo.app.film_curve import FilmCurve
from pemlo.app.planner import Planner
from pemlo.core.arrays import Floats
from pemlo.core.farm.money import cost_curve
from pemlo.core.project.project import Project
from pemlo.core.project.settings import ShotSettings
from pemlo.core.project.shots import Shot
from pemlo.core.project.spelling import settings_words
from pemlo.core.project.trials import GOOD
from pemlo.gui.common.enabling import enable
from pemlo.gui.common.labels import Heading, button, label
from pemlo.gui.trade import frontiers, presenter
from pemlo.gui.trade.frontier_chart import FrontierChart
from pemlo.gui.trade.two_ways_card import TwoWaysCard


class HoursBox(QWidget):
    """The box.

    Attributes
    ----------
    scope : str
        What is shown: ``shot``, ``film``, ``cost``, or ``ways``.

    Signals
    -------
    turned()
        Something else is to be shown.
    """

    turned = Signal()

    def __init__(self, planner: Planner, film: FilmCurve, ways: TwoWaysCard) -> None:
        super().__init__()
        self._planner, self._film, self.ways = planner, film, ways
        self.scope = "shot"
        self.scopes = {
            name: button(words, tip, partial(self._turn, name), link=True)
            for name, words, tip in (
                ("shot", "this shot", "What hours buy on the shot that is picked"),
                ("film", "the film", "The best plans of the whole film; drag along them"),
                ("cost", "its cost", "The best plans of the whole film by what they cost; drag along them"),
                ("ways", "two ways", "Any two ways of rendering side by side"),
            )
        }
        self.heading = Heading("What hours buy", *self.scopes.values())
        self.chart = FrontierChart()
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(4)
        self.alone = label("", wrap=True)
        column.addWidget(self.heading)
        column.addWidget(self.alone)
        column.addWidget(self.chart, 1)
        column.addWidget(self.ways, 1)

    def _turn(self, scope: str) -> None:
        self.scope = scope
        self.turned.emit()

    @property
    def of_film(self) -> bool:
        """Whether the film is shown, by its hours or by its cost."""
        return self.scope in {"film", "cost"}

    def show_hours(
        self, project: Project, shot: Shot, shares: Sequence[presenter.Share], ends: list[Floats], available_h: float
    ) -> None:
        """Show what hours buy.

        Parameters
        ----------
        shares : sequence of Share
            Of the shots of which options are known.
        ends : list of (N,) ndarray
            Draws of each shot's machine-hours as planned.
        available_h : float
            Machine-hours before the deadline.
        """
        priced = cost_curve(project) is not None
        if self.scope == "cost" and not priced:
            self.scope = "film"
        for scope, link in self.scopes.items():
            enable(link, "" if self.scope != scope else "Shown now.")
        self.scopes["cost"].setVisible(priced)
        self.alone.setText("")
        shown: tuple[frontiers.Frontier | None, dict[int, str]] = (None, {})
        if self.of_film:
            shown = self._film_line(project, shares, ends, available_h)
        elif self.scope == "shot":
            shown = self._shot_line(project, shot, ends, available_h)
        # Where no error is known there is no plane to draw: two ways side by side say more.
        beside = self.scope == "ways" or (self.scope == "shot" and shown[0] is None)
        self.ways.setVisible(beside)
        self.chart.setVisible(not beside)
        if beside:
            self.ways.show_shot(project, shot)
            if self.scope == "ways":
                self.heading.say("two ways side by side")
        else:
            self.chart.show_frontier(*shown)
        self.alone.setVisible(bool(self.alone.text()))

    def _film_line(
        self, project: Project, shares: Sequence[presenter.Share], ends: list[Floats], available_h: float
    ) -> tuple[frontiers.Frontier | None, dict[int, str]]:
        self._film.ask()
        points = self._film.points
        if not points or len(shares) < len(project.shots):
            self.heading.say("of the film: not known yet")
            return None, {}
        self.heading.say("drag along it")
        total = np.sum(ends, axis=0)
        needed = float(np.quantile(total, project.delivery.confidence))
        left = available_h * float(np.median(total)) / max(needed, 1e-9)
        asked = [(share.asked_hours, share.asked_ratio) for share in shares]
        now = [(share.hours, share.ratio) for share in shares]
        shown, curve = frontiers.film_of(points, asked, now, left), cost_curve(project)
        if self.scope == "cost" and curve is not None:
            delivery = project.delivery
            shown = frontiers.by_cost(shown, curve, delivery.budget, delivery.currency)
            self.heading.say("drag along it")
        return shown, frontiers.film_words(points)

    def _shot_line(
        self, project: Project, shot: Shot, ends: list[Floats], available_h: float
    ) -> tuple[frontiers.Frontier | None, dict[int, str]]:
        options, now = self._planner.options_of(shot.name), self._planner.numbers.of(shot)
        assert options is not None
        assert now is not None
        if not options.known:
            self.heading.say("error not measured")
            self.alone.setText(presenter.by_hours_words(shot, options, self._planner.numbers.hours_of))
            return None, {}
        self.heading.say("each dot a way")
        number = next(k for k, one in enumerate(project.shots) if one.name == shot.name)
        left = frontiers.hours_left(ends, number, available_h, project.delivery.confidence)
        shown = frontiers.frontier_of(options, now, left, self._marked(project, shot))
        return shown, dict(presenter.option_words(options))

    def _marked(self, project: Project, shot: Shot) -> tuple[frontiers.MarkedPoint, ...]:
        """Return the trials of a shot that were marked, where rendering all of it so would lie."""
        found = []
        for trial in project.trials_of(shot.name):
            if trial.mark and trial.error is not None:
                as_shot = shot.replace(plan=ShotSettings.model_validate(trial.frame_fields()))
                numbers = self._planner.numbers.of(as_shot)
                if numbers is not None:
                    words = f"frame {trial.frame}, {settings_words(as_shot.settings)}: {trial.mark}"
                    found.append(frontiers.MarkedPoint(numbers.middle_hours, trial.error, trial.mark == GOOD, words))
        return tuple(found)
