"""The ladder of a shot and its cost along the frames, as plots with a heading each. GUI thread."""

from PySide6.QtCore import QObject, Signal
from PySide6.QtWidgets import QVBoxLayout

from pemlo.app.film_known import FilmForecast
from pemlo.core.project.project import Project
from pemlo.gui.common.empty_state import EmptyState
from pemlo.gui.common.labels import Heading
from pemlo.gui.trials import plots, presenter

NOTHING_YET = "appears with the first trial of the film"


class Curves(QObject):
    """Both plots, their headings, and the places where they stand.

    Signals
    -------
    picked(int)
        A dot: the place of its trial among all.
    """

    picked = Signal(int)

    def __init__(self) -> None:
        super().__init__()
        self._drawn: tuple[object, object] | None = None
        self.ladder, self.along = plots.make_ladder_plot(), plots.make_along_plot()
        self.ladder_heading, self.along_heading = Heading("Ladder"), Heading("Cost along the shot")
        self.ladder_place, self.along_place = QVBoxLayout(), QVBoxLayout()
        self.ghosts = EmptyState("ladder"), EmptyState("course")
        for place, ghost in zip((self.ladder_place, self.along_place), self.ghosts, strict=True):
            place.addWidget(ghost)
        for place, plot in ((self.ladder_place, self.ladder), (self.along_place, self.along)):
            place.addWidget(plot)
            plot.hide()
            plot.picked.connect(self.picked)

    def draw(self, project: Project, shot: str, answer: FilmForecast | None, next_frame: int | None) -> None:
        """Draw what is known of a shot; `next_frame` is the one to be timed next, if it is of this shot."""
        name = f"Ladder of {shot}" if shot else "Ladder"
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
            return  # it is drawn already
        self._drawn = drawn
        ladder = presenter.ladder(answer.project, shots[shot], answer.fit, answer.draws)
        self.ladder_heading.say(ladder.words + ("; a new fit is on its way" if stale else ""), name)
        plots.draw_ladder(self.ladder, ladder)
        self.along_heading.say("")
        plots.draw_along(self.along, presenter.along(answer.project, shots[shot], answer.fit), next_frame)
