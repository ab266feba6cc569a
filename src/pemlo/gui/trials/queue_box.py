"""The queue of trials at work: what is rendered, by whom, what is done and left; first, skip, stop. GUI thread."""

from collections.abc import Callable
from typing import TYPE_CHECKING

from PySide6.QtCore import Qt, QTimer, Signal
from PySide6.QtGui import QImage, QPixmap
from PySide6.QtWidgets import QHBoxLayout, QLabel, QVBoxLayout, QWidget

from pemlo.core.errors import PemloError
from pemlo.core.project.spelling import settings_words
from pemlo.gui.common.enabling import enable
from pemlo.gui.common.labels import Heading, button, label
from pemlo.gui.table.model import TableModel
from pemlo.gui.table.view import TableView
from pemlo.gui.trials.queue_rows import QUEUE_COLUMNS, QueueLine, queue_lines, queue_words

if TYPE_CHECKING:
    from pemlo.app.trial_queue import TrialQueue

_EVERY_MS = 1000
_LEAST_PX = 96
REFINING_PX = 62


class QueueBox(QWidget):
    """Shows the queue.

    Signals
    -------
    shown(bool)
        Whether there is anything to show.
    """

    shown = Signal(bool)

    def __init__(self, queue: "TrialQueue", report: Callable[[PemloError], None]) -> None:
        super().__init__()
        self._queue = queue
        self.model: TableModel[QueueLine] = TableModel(
            QUEUE_COLUMNS,
            lambda *_: None,
            report,
            noun="frame",
            key=lambda line: line.row.number or line.row.choice.key,
        )
        self.table = TableView(self.model, "Trials that render")
        self.table.setMinimumHeight(_LEAST_PX)
        self.rendering, self.refining, self.waiting = QWidget(), QLabel(), label("", "second", wrap=True)
        self.refining.setAccessibleName("The picture that is being rendered")
        beside = QHBoxLayout(self.rendering)
        beside.setContentsMargins(0, 0, 0, 0)
        beside.addWidget(self.refining)
        beside.addWidget(self.waiting, 1)
        self._refined_of = 0
        self.detail = label("", "second", wrap=True)
        self.detail.setAccessibleName("What came of the picked frame, or of the last that failed")
        self.said = label("", "second", wrap=True)
        self.said.setAccessibleName("Why no more time is spent")
        self.first = button("First", "Render the picked frames before all others", self._first, link=True)
        self.skip = button("Skip", "Leave the picked frames out; stop those under way", self._skip, link=True)
        self.stop = button("Stop all", "Stop what is under way, and render nothing more", queue.stop, link=True)
        self._heading = Heading("Rendering", self.first, self.skip, self.stop)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(4)
        for one in (self._heading, self.said, self.rendering, self.table, self.detail):
            column.addWidget(one)
        column.setStretchFactor(self.table, 1)
        self._clock = QTimer(self)
        self._clock.setInterval(_EVERY_MS)
        self._clock.timeout.connect(self._say)
        self.table.picked.connect(lambda _: self._enable())
        queue.changed.connect(self.show_queue)
        self.show_queue()

    def show_queue(self) -> None:
        """Show how the queue stands."""
        rows = self._queue.rows
        if self._queue.left_s is not None:
            self.said.setText("")
        self.model.show_rows(queue_lines(rows))
        self.shown.emit(bool(rows) or self._queue.busy)
        self.said.setVisible(bool(self.said.text()))
        self._clock.start() if self._queue.left_s is not None else self._clock.stop()
        self._say()
        self._show_waiting()
        self._enable()

    def _show_waiting(self) -> None:
        """Say what is being rendered, and what waits."""
        waiting = self._queue.waiting
        self.rendering.setVisible(bool(waiting))
        number = waiting[0].number if waiting else 0
        if waiting:
            now, more = waiting[0].choice, len(waiting) - 1
            after = f" {more} more after it." if more else ""
            self.waiting.setText(f"Rendering frame {now.frame} of {now.shot}: {settings_words(now.settings)}.{after}")
        if number != self._refined_of:
            self._refined_of = number
            self.refining.clear()
            self.refining.hide()

    def show_refining(self, shot: str, frame: int, picture: QImage) -> None:
        """Show how far the picture that is being rendered has come."""
        now = self._queue.waiting[0].choice if self._queue.waiting else None
        if now is not None and (now.shot, now.frame) == (shot, frame) and not picture.isNull():
            smooth = Qt.TransformationMode.SmoothTransformation
            self.refining.show()
            self.refining.setPixmap(QPixmap.fromImage(picture.scaledToHeight(REFINING_PX, smooth)))

    def say(self, words: str) -> None:
        """Say why no more time is spent; empty for nothing."""
        self.said.setText(words)
        self.said.setVisible(bool(words))

    def _say(self) -> None:
        self._heading.say(queue_words(self._queue.rows, self._queue.left_s), "Rendering")

    def _picked(self) -> list[QueueLine]:
        lines: list[QueueLine] = self.table.selected()
        return lines

    def _enable(self) -> None:
        picked = self._picked()
        failed = [line for line in self.model.rows if line.row.state == "failed"]
        shown = picked[0] if len(picked) == 1 else failed[0] if failed else None
        self.detail.setText("" if shown is None else f"{shown.named}: {shown.said}")
        self.detail.setVisible(bool(self.detail.text()))
        states = {line.row.state for line in picked}
        ahead = states & {"waiting", "planned"}
        enable(self.first, "" if ahead else "Pick a frame that waits or is next.")
        enable(self.skip, "" if ahead or "running" in states else "Pick a frame that waits, is next or renders.")
        enable(self.stop, "" if self._queue.busy else "Nothing is under way.")

    def _first(self) -> None:
        for line in reversed(self._picked()):
            self._queue.first(line.row)

    def _skip(self) -> None:
        for line in self._picked():
            self._queue.skip(line.row)
