"""How the picked shot will look: predicted look, error by parts, ceiling, room, and the trial that comes first."""

from pathlib import Path
from typing import TYPE_CHECKING

import numpy as np
from PySide6.QtCore import Signal
from PySide6.QtWidgets import QHBoxLayout, QVBoxLayout, QWidget

from pemlo.app.jobs import Jobs
from pemlo.app.planner import Planner
from pemlo.core.project.project import Project
from pemlo.core.project.scenes import scene_of
from pemlo.core.project.shots import Shot
from pemlo.core.project.trials import GOOD
from pemlo.core.trade.disk_memory import room_of, too_small
from pemlo.gui.common.labels import Heading, button, label
from pemlo.gui.trade import presenter
from pemlo.gui.trade.ceiling_row import CeilingRow
from pemlo.gui.trade.error_bar import ErrorBar
from pemlo.gui.trade.preview import Beside, LookView
from pemlo.gui.trade.trial_card import TrialCard

if TYPE_CHECKING:
    from pemlo.core.predict.shot_appearance import ShotLook
    from pemlo.core.trade.options import Numbers


class LookSide(QWidget):
    """The column.

    Signals
    -------
    turned()
        Another picture is to stand beside the predicted look.
    """

    turned = Signal()

    def __init__(self, jobs: Jobs, planner: Planner) -> None:
        super().__init__()
        self._planner = planner
        self._passed_beside = False
        self.look = LookView(jobs)
        self.beside = button("", "What stands below: the reference, or a trial that passed", self._turn, link=True)
        self.in_judge = button(
            "Judge it", "The whole frame in Judge, with all its tools", self.look.write_whole, link=True
        )
        self.heading = Heading("Predicted look")
        links = QHBoxLayout()
        links.addWidget(self.beside)
        links.addStretch(1)
        links.addWidget(self.in_judge)
        self.error, self.error_bar, self.ceiling = label("", wrap=True), ErrorBar(), CeilingRow()
        self.room, self.first = (
            label("", "second", wrap=True),
            TrialCard("Then the plan is weighed with what it tells", needed=True),
        )
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(4)
        column.addWidget(self.heading)
        column.addWidget(self.look)
        column.addLayout(links)
        rows: tuple[QWidget, ...] = (self.error, self.error_bar, self.first, self.ceiling, self.room)
        for one in rows:
            column.addWidget(one)

    def forget(self) -> None:
        """Forget what was beside the predicted look, and where it was looked at."""
        self._passed_beside = False
        self.look.forget()

    def show_shot(self, project: Project, shot: Shot) -> None:
        """Show a shot as it is planned; its options are known."""
        planner = self._planner
        options, now, look = planner.options_of(shot.name), planner.numbers_of(shot), planner.look_of(shot.name)
        assert options is not None
        found = None if now is None else now.found
        self.heading.say(f"{shot.name}, frame {look.frame}" if look is not None else shot.name)
        passed = passed_of(project, shot, look)
        self.beside.setVisible(passed is not None)
        self.beside.setText("show the reference below" if self._passed_beside else "show what passed below")
        self.in_judge.setEnabled(look is not None and found is not None)
        words = "" if found is None else f"error {found.total.value:.1f} codes"
        spent, trouble = np.nan if now is None else now.spent, planner.trouble_of(shot.name)
        self.look.show_look(look, shot.settings, spent, words, trouble, passed if self._passed_beside else None)
        self.error.setText(presenter.error_words(now, options.ceiling, options.ceiling_from))
        self.error_bar.show_error(found, options.ceiling)
        self.ceiling.show_shot(shot)
        room = room_of(project, shot, shot.settings)
        small = () if room.memory_gib is None else too_small(project, room.memory_gib)
        self.room.setText(presenter.room_words(room, small))
        if now is not None:
            self._show_first(project, shot, look, now)

    def _show_first(self, project: Project, shot: Shot, look: "ShotLook | None", now: "Numbers") -> None:
        from pemlo.core.trade.trial_first import trial_first  # noqa: PLC0415 - heavy to load

        first = trial_first(project, shot, look, now)
        words = "" if first is None else presenter.first_words(first)
        self.first.show_trial(first, words, can_render=bool(scene_of(shot)))

    def _turn(self) -> None:
        self._passed_beside = not self._passed_beside
        self.turned.emit()


def passed_of(project: Project, shot: Shot, look: "ShotLook | None") -> Beside | None:
    """Return the trial of the frame that passed with the largest error: what has been approved so far."""
    if look is None or look.pictures is None:
        return None
    there = {one.path.name: one.path for one in look.pictures.samples}
    trials = [
        trial
        for trial in project.trials_of(shot.name)
        if trial.mark == GOOD and trial.frame == look.frame and Path(trial.picture).name in there
    ]
    best = max(trials, key=lambda trial: trial.error or 0.0, default=None)
    if best is None:
        return None
    return Beside(there[Path(best.picture).name], f"passed: {presenter.settings_text(best)}")
