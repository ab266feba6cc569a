"""Trade with what is left of a film: a window of its own, whose plan is taken in one step. GUI thread."""

from collections.abc import Callable
from pathlib import Path
from typing import TYPE_CHECKING

from PySide6.QtCore import Qt, Signal
from PySide6.QtGui import QCloseEvent
from PySide6.QtWidgets import QCheckBox, QDialog, QHBoxLayout, QVBoxLayout, QWidget

from pemlo.app.document import Document
from pemlo.app.file_facts import FILES, FileFacts
from pemlo.app.film_known import UpdatedFilm
from pemlo.app.film_state import FilmState
from pemlo.app.jobs import Jobs
from pemlo.app.planner import Planner
from pemlo.app.selection import Selection
from pemlo.core.errors import PemloError
from pemlo.core.files.written import when_written
from pemlo.core.forecast.remaining_film import settings_changed
from pemlo.core.project.project import Project
from pemlo.core.units import counted
from pemlo.gui.common.background_bar import BackgroundBar
from pemlo.gui.common.enabling import enable
from pemlo.gui.common.labels import button, label, rule
from pemlo.gui.common.problem_bar import ProblemBar
from pemlo.gui.common.strip import Strip
from pemlo.gui.common.tape import Tape
from pemlo.gui.common.verdict_bar import VerdictBar
from pemlo.gui.trade.panel import TradePanel

if TYPE_CHECKING:
    from pemlo.core.cost.posterior import Fit
    from pemlo.core.forecast.remaining_film import RestFilm


class RestWindow(QDialog):
    """The window.

    Signals
    -------
    taken(dict, bool)
        Settings of the shots that the plan changes, and whether their finished frames are to be rendered again.
    midway_turned(bool)
        Whether settings may change in the middle of a shot.
    """

    taken = Signal(object, bool)
    midway_turned = Signal(bool)

    def __init__(
        self, parent: QWidget, film: Project, rest: "RestFilm", fit: "Fit", folder: Callable[[], Path]
    ) -> None:
        super().__init__(parent, Qt.WindowType.Window)
        self.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        self.setWindowTitle("Plan the rest")
        self._film, self._rest = film, rest
        document, jobs = self.document, self.jobs = Document(rest.project), Jobs()
        self._written = FileFacts(jobs, FILES, when_written)
        updated = UpdatedFilm(rest.project, fit, rest.draws)
        self.state = FilmState(document, jobs, self._written, folder, updated)
        self.selection = Selection(document)
        self.problems = ProblemBar()
        self.verdict, self.tape, self.strip = VerdictBar(), Tape(), Strip(lambda _project, _shot: None)
        self.trade = TradePanel(document, jobs, self.selection, Planner(self.state, jobs), self._report)
        self.midway = QCheckBox("Settings may change in the middle of a shot, where that is seen")
        self.midway.setChecked(film.watching.changes_midway)
        self.again = QCheckBox("Render the finished frames of changed shots again")
        self.said = label("", "second", small=True, wrap=True)
        self.take = button(
            "Take this plan", "Adopt it for the film: one step that can be undone", self._take, main=True
        )
        self._lay_out()
        self.midway.toggled.connect(self.midway_turned)
        self.strip.picked.connect(self.selection.pick)
        self.selection.changed.connect(self._on_picked)
        self.state.changed.connect(self._on_state)
        document.changed.connect(lambda _: self._say())
        jobs.failed.connect(self._on_failed)
        self.strip.show_project(document.project, None)
        self._on_picked()
        self.state.ask()
        self._say()
        self.setMinimumSize(1000, 640)  # the panel scrolls: it need not be as high as all that is in it
        self.resize(1240, 780)

    def _lay_out(self) -> None:
        foot = QHBoxLayout()
        foot.setContentsMargins(16, 6, 16, 6)
        foot.setSpacing(14)
        foot.addWidget(self.said, 1)
        foot.addWidget(self.midway)
        foot.addWidget(self.again)
        foot.addWidget(self.take)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(0)
        for one in (self.verdict, self.tape, self.strip, rule(), self.problems):
            column.addWidget(one)
        column.addWidget(self.trade, 1)
        column.addWidget(rule())
        column.addLayout(foot)
        column.addWidget(BackgroundBar(self.jobs))

    def _report(self, error: PemloError) -> None:
        self.problems.tell(error.message, error.hint)

    def _on_failed(self, _key: str, error: Exception) -> None:
        if isinstance(error, PemloError):
            self._report(error)
        else:
            raise error

    def _on_picked(self) -> None:
        self.strip.pick(self.selection.shots)
        self.trade.pick(self.selection.shots)

    def _on_state(self) -> None:
        answer = self.state.answer
        if answer is None:
            return
        self.problems.clear()
        verdict = self.state.verdict
        assert verdict is not None
        self.verdict.show_verdict(verdict)
        self.tape.show_verdict(verdict)
        self.strip.show_project(answer.project, answer.forecast)
        self.trade.show_project(self.document.project, answer)

    def _say(self) -> None:
        """Say what is left, and what a change does to frames that are in."""
        project = self.document.project
        frames = sum(shot.rendered_count(shot.settings) for shot in project.shots)
        words = f"{counted(frames, 'frame')} of {counted(len(project.shots), 'shot')} remain; finished frames stay."
        changed = settings_changed(self._film, project)
        begun = {name: self._rest.begun[name] for name in changed if name in self._rest.begun}
        if begun:
            count = sum(begun.values())
            words += (
                f" {', '.join(begun)} would change in the middle: {counted(count, 'frame')} that are in differ then."
            )
        elif self._rest.begun and not self.midway.isChecked():
            held = "has begun and is" if len(self._rest.begun) == 1 else "have begun and are"
            words += f" {', '.join(self._rest.begun)} {held} held."
        self.said.setText(words)
        enable(self.again, "" if begun else "No shot that has begun would change.")
        enable(self.take, "" if changed else "Nothing differs from the plan.")

    def _take(self) -> None:
        changed = settings_changed(self._film, self.document.project)
        self.taken.emit(changed, self.again.isChecked() and self.again.isEnabled())
        self.close()

    def closeEvent(self, event: QCloseEvent) -> None:
        self.jobs.shut_down()
        self.document.history.blockSignals(True)
        super().closeEvent(event)
