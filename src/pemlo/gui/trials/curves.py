"""The ladder of a shot and its cost along the frames, as plots with a heading each. GUI thread."""

from typing import TYPE_CHECKING

from PySide6.QtCore import QObject, Signal
from PySide6.QtWidgets import QVBoxLayout

from pemlo.app.film_known import FilmForecast
from pemlo.core.project.project import Project
from pemlo.gui.common.empty_state import EmptyState
from pemlo.gui.common.labels import Heading
from pemlo.gui.trials import presenter

if TYPE_CHECKING:
    from pemlo.gui.common.plot import Plot
    from pemlo.gui.trials.plots import LadderPlot

NOTHING_YET = "appears with the first trial of the film"


class Curves(QObject):
    """Both plots, their headings, and the places where they come when their library is loaded.

    Signals
    -------
    picked(int)
        A dot: the place of its trial among all.
    """

    picked = Signal(int)

    def __init__(self) -> None:
        super().__init__()
        self._drawn: tuple[object, object] | None = None
        self.ladder: LadderPlot | None = None
        self.along: Plot | None = None
        self.ladder_heading, self.along_heading = Heading("Ladder"), Heading("Cost along the shot")
        self.ladder_place, self.along_place = QVBoxLayout(), QVBoxLayout()
        self.ghosts = EmptyState("ladder"), EmptyState("course")
        for place, ghost in zip((self.ladder_place, self.along_place), self.ghosts, strict=True):
            place.addWidget(ghost)

    def add_plots(self) -> None:
        """Put new plots in: the library is loaded, or the theme is another."""
        from pemlo.gui.trials import plots  # noqa: PLC0415 - heavy to load, and the window comes up first

        for place, old in ((self.ladder_place, self.ladder), (self.along_place, self.along)):
            if old is not None:
                place.removeWidget(old)
                old.deleteLater()
        self.ladder, self.along = plots.make_ladder_plot(), plots.make_along_plot()
        self._drawn = None
        self.ladder_place.addWidget(self.ladder)
        self.along_place.addWidget(self.along)
        for plot in (self.ladder, self.along):
            plot.picked.connect(self.picked)

    def draw(self, project: Project, shot: str, answer: FilmForecast | None, next_frame: int | None) -> None:
        """Draw what is known of a shot; `next_frame` is the one to be timed next, if it is of this shot."""
        name = f"Ladder of {shot}" if shot else "Ladder"
        if self.ladder is None or self.along is None:
            self.ladder_heading.say("", name)
            return
        from pemlo.gui.trials import plots  # noqa: PLC0415 - loaded by now

        shots = {one.name: one for one in answer.project.shots} if answer is not None else {}
        is_known = answer is not None and shot in shots and answer.fit.known
        for plot in (self.ladder, self.along):
            plot.setVisible(bool(is_known))  # axes without a curve would show figures that mean nothing
        for ghost in self.ghosts:
            ghost.setVisible(not is_known)
        if answer is None or not is_known:
            self.ladder_heading.say(NOTHING_YET, name)
            self.along_heading.say(NOTHING_YET)
            self._drawn = None
            return
        noise = tuple(trial.noise for trial in answer.project.trials if trial.shot == shot)
        stale = answer.project.trials != project.trials
        size = answer.project.size_of(shots[shot])
        drawn = answer.fit, (shots[shot], size, noise, stale, next_frame)
        if self._drawn is not None and self._drawn[0] is drawn[0] and self._drawn[1] == drawn[1]:
            return  # it is drawn already, which takes a tenth of a second
        self._drawn = drawn
        ladder = presenter.ladder(answer.project, shots[shot], answer.fit, answer.draws)
        self.ladder_heading.say(ladder.words + ("; a new fit is on its way" if stale else ""), name)
        plots.draw_ladder(self.ladder, ladder)
        self.along_heading.say("")
        plots.draw_along(self.along, presenter.along(answer.project, shots[shot], answer.fit), next_frame)
