"""Tells of a start that has passed while nothing is rendered, with one click that makes it now. GUI thread."""

from collections.abc import Callable
from datetime import UTC, datetime, timedelta
from typing import TYPE_CHECKING

from PySide6.QtCore import QObject, QTimer

from pemlo.core.project.edits import set_project
from pemlo.core.project.project import Project
from pemlo.words.verdicts import gone_start_words

if TYPE_CHECKING:
    from pemlo.gui.window import Window

LOOK_MS = 60_000
GOES_ON = timedelta(minutes=10)  # while nothing is done: working a film out anew each minute would never end


def this_minute() -> datetime:
    """Return the minute that it is."""
    return datetime.now(UTC).replace(second=0, microsecond=0)


class GoneStart(QObject):
    """Looks when a project is opened and each minute after; tells once of each start."""

    def __init__(self, window: "Window", now: Callable[[], datetime] = this_minute) -> None:
        super().__init__(window)
        self._window, self.now = window, now
        self._told: datetime | None = None
        self._timer = QTimer(self)
        self._timer.timeout.connect(self.look)
        self._timer.start(LOOK_MS)
        window.document.replaced.connect(self.look)
        self.look()

    def look(self) -> None:
        self._window.document.follow_clock(GOES_ON)
        project = self._window.document.project
        words = gone_start_words(project, self.now())
        if words and project.start != self._told:
            self._told = project.start
            self._window.problems.also(words, "", "Start now", self.start_now)

    def start_now(self) -> None:
        """Make the start this minute."""
        document, now = self._window.document, self.now()

        def change(project: Project) -> Project:
            return set_project(project, start=now.astimezone(project.delivery.zone), starts_now=True)

        self._window.run(lambda: document.edit("Start now", change))
