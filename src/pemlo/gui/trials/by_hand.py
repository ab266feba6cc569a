"""Trials that no command reaches: a list to take along, boxes for times, and a stopwatch. GUI thread."""

import time
from collections.abc import Callable, Sequence
from pathlib import Path

from PySide6.QtCore import Qt, QTimer
from PySide6.QtGui import QGuiApplication, QKeyEvent
from PySide6.QtWidgets import (
    QDialog,
    QFileDialog,
    QHBoxLayout,
    QHeaderView,
    QTableWidget,
    QTableWidgetItem,
    QVBoxLayout,
    QWidget,
)

from pemlo.app.jobs import Jobs
from pemlo.core.cost.next_trial import Advice
from pemlo.core.errors import FileError, InputError
from pemlo.core.persistence.whole_files import write_whole
from pemlo.core.progress import Monitor
from pemlo.core.project.project import Project
from pemlo.core.project.spelling import settings_words
from pemlo.core.project.trials import Trial
from pemlo.core.units import format_duration, parse_duration
from pemlo.gui.common.enabling import enable
from pemlo.gui.common.fonts import font
from pemlo.gui.common.labels import Heading, button, label
from pemlo.handover.trial_list import ListedTrial, read_back, trial_list_page

WORDS = (
    "Render these frames, and time each: space starts the watch and stops it, Enter ends a frame and begins the next. "
    "Or take the list along, and paste the times here."
)
SAVE = "list of trials"
_TICK_MS = 50
_TIME = 4
_BIG_PX = 34


class Stopwatch(QWidget):
    """A watch: space starts and stops it, Enter is a lap.

    Parameters
    ----------
    taken : callable
        Takes the seconds of a frame.
    clock : callable
        Seconds, rising.
    """

    def __init__(self, taken: Callable[[float], None], clock: Callable[[], float] = time.monotonic) -> None:
        super().__init__()
        self._taken, self._clock = taken, clock
        self._began: float | None = None
        self.face = label("0.0 s")
        self.face.setFont(font(_BIG_PX))
        self.face.setAccessibleName("Stopwatch")
        self.start = button("Start", "Start the watch, or stop it: space", self.turn, main=True)
        self.lap = button("Next frame", "End this frame and begin the next: Enter", self.next_frame)
        row = QHBoxLayout(self)
        row.setContentsMargins(0, 0, 0, 0)
        row.addWidget(self.face, 1)
        row.addWidget(self.start)
        row.addWidget(self.lap)
        self._timer = QTimer(self)
        self._timer.setInterval(_TICK_MS)
        self._timer.timeout.connect(self._show)
        self._show()

    @property
    def runs(self) -> bool:
        return self._began is not None

    def turn(self) -> None:
        """Start the watch, or stop it and take the time."""
        if self._began is None:
            self._began = self._clock()
            self._timer.start()
        else:
            seconds, self._began = self._clock() - self._began, None
            self._timer.stop()
            self._taken(seconds)
        self._show()

    def next_frame(self) -> None:
        """Take the time of a frame, and begin the next at once."""
        if self._began is not None:
            now = self._clock()
            seconds, self._began = now - self._began, now
            self._taken(seconds)
        self._show()

    def _show(self) -> None:
        if self._began is not None:
            seconds = self._clock() - self._began
            self.face.setText(f"{seconds:.1f} s" if seconds < 60 else format_duration(seconds))
        self.start.setText("Stop" if self.runs else "Start")
        enable(self.lap, "" if self.runs else "Start the watch first.")


class ByHand(QDialog):
    """The list and the watch."""

    def __init__(
        self,
        parent: QWidget,
        project: Project,
        advice: Sequence[Advice],
        shot: str,
        put: Callable[[Sequence[Trial]], None],
        jobs: Jobs,
    ) -> None:
        super().__init__(parent)
        self._project, self._put, self._jobs = project, put, jobs
        first = sorted(advice, key=lambda one: one.shot != shot)
        self._trials = [ListedTrial(one.shot, one.frame, one.settings, one.seconds) for one in first]
        self.setWindowTitle("Trials by hand")
        self.table = QTableWidget(len(self._trials), _TIME + 1)
        self.table.setAccessibleName("Trials to time by hand")
        self.table.setHorizontalHeaderLabels(["shot", "frame", "settings", "about", "time"])
        self.table.verticalHeader().hide()
        self.table.setShowGrid(False)
        self.table.setSelectionBehavior(QTableWidget.SelectionBehavior.SelectRows)
        for column in (0, 2):
            title = self.table.horizontalHeaderItem(column)
            if title is not None:
                title.setTextAlignment(Qt.AlignmentFlag.AlignLeft)
        for row, one in enumerate(self._trials):
            about = format_duration(one.seconds) if one.seconds else ""
            for column, text in enumerate((one.shot, str(one.frame), settings_words(one.settings), about, "")):
                item = QTableWidgetItem(text)
                if column != _TIME:
                    item.setFlags(item.flags() & ~Qt.ItemFlag.ItemIsEditable)
                if column in (1, 3, _TIME):
                    item.setTextAlignment(Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter)
                self.table.setItem(row, column, item)
        self.table.horizontalHeader().setSectionResizeMode(2, QHeaderView.ResizeMode.Stretch)
        self.table.selectRow(0)
        self.watch = Stopwatch(self._take_time)
        self.said = label("", "second", wrap=True)
        self.go = button("Add these trials", "Add every trial that has a time", self._accept, main=True)
        heading = Heading(
            "To time by hand",
            button("Save the list…", "As a page for paper and for the phone", self._save, link=True),
            button("Paste times", "Lines of shot, frame and time, or of times alone", self.paste, link=True),
        )
        foot = QHBoxLayout()
        foot.addWidget(self.said, 1)
        foot.addWidget(button("Cancel", "Add nothing", self.reject))
        foot.addWidget(self.go)
        column_ = QVBoxLayout(self)
        column_.addWidget(label(WORDS, "second", wrap=True))
        column_.addWidget(heading)
        column_.addWidget(self.table, 1)
        column_.addWidget(self.watch)
        column_.addLayout(foot)
        self.table.itemChanged.connect(lambda _: self._say())
        self.resize(720, 460)
        self._say()
        self.watch.setFocus()

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.key() == Qt.Key.Key_Space:
            self.watch.turn()
        elif event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter) and self.watch.runs:
            self.watch.next_frame()
        else:
            super().keyPressEvent(event)

    def _take_time(self, seconds: float) -> None:
        """Put the time of a frame into the picked row, and pick the next that has none."""
        row = max(0, self.table.currentRow())
        self._set(row, seconds)
        following = [*range(row + 1, len(self._trials)), *range(row)]
        empty = next((one for one in following if not self._text(one)), row)
        self.table.selectRow(empty)

    def _set(self, row: int, seconds: float) -> None:
        item = self.table.item(row, _TIME)
        if item is not None:
            item.setText(f"{seconds:.2f} s" if seconds < 60 else format_duration(seconds))

    def _text(self, row: int) -> str:
        item = self.table.item(row, _TIME)
        return "" if item is None else item.text().strip()

    def trials(self) -> tuple[Trial, ...]:
        """Return the trials that have a time.

        Raises
        ------
        InputError
            If what is written in a box is no time.
        """
        return tuple(
            Trial.model_validate(
                {**one.settings.frame_fields(), "shot": one.shot, "frame": one.frame, "seconds": parse_duration(text)}
            )
            for row, one in enumerate(self._trials)
            if (text := self._text(row))
        )

    def _say(self) -> None:
        try:
            count = len(self.trials())
        except InputError as error:
            self.said.setText(str(error))
            enable(self.go, str(error))
            return
        self.said.setText("")
        self.go.setText("Add this trial" if count == 1 else f"Add {count} trials" if count else "Add these trials")
        enable(self.go, "" if count else "No frame has a time yet.")

    def paste(self) -> None:
        """Take times from the clipboard."""
        found = read_back(QGuiApplication.clipboard().text(), self._trials)
        for row, seconds in found.seconds.items():
            self._set(row, seconds)
        more = f" and {len(found.unused) - 1} more" if len(found.unused) > 1 else ""
        self.said.setText(f"Not used: {found.unused[0]}{more}." if found.unused else "")

    def _save(self) -> None:
        kinds = "Page for paper and the phone (*.html);;PDF (*.pdf)"
        name, _ = QFileDialog.getSaveFileName(self, "Save the list", "trials to time.html", kinds)
        if name:
            self.save_to(Path(name))

    def save_to(self, path: Path) -> None:
        """Write the list as a page, or as PDF by the ending of the name."""
        page = trial_list_page(self._project.title, self._trials)

        def work(_: Monitor) -> str:
            try:
                if path.suffix.lower() == ".pdf":
                    from pemlo.handover.paper import write_pdf  # noqa: PLC0415 - heavy, and only where paper is made

                    write_pdf(page, path)
                else:
                    write_whole(page, path)
            except FileError as error:
                return str(error)
            return f"Written to {path.name}."

        self._jobs.submit(SAVE, f"Writing {path.name}", work, self._say_saved)

    def _say_saved(self, words: str) -> None:
        self.said.setText(words)

    def _accept(self) -> None:
        trials = self.trials()
        self.accept()
        self._put(trials)
