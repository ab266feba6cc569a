"""What is wrong, as a short list with what to do. GUI thread."""

from collections.abc import Sequence

from PySide6.QtCore import QPointF, QRectF, QSize, Qt, Signal
from PySide6.QtGui import QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QFrame, QHBoxLayout, QScrollArea, QSizePolicy, QVBoxLayout, QWidget

from pemlo.core.arrivals.alarms import Alarm
from pemlo.gui.common.colours import colours
from pemlo.gui.common.labels import button, label

MOST_SHOWN = 40


class _Sign(QWidget):
    """Its kind, by shape: a cross for frames, a bar for machines, a corner for the finish, a ring to look."""

    def __init__(self, kind: str) -> None:
        super().__init__()
        self._kind = kind
        self.setFixedSize(14, 16)

    def paintEvent(self, _event: QPaintEvent) -> None:
        palette, box = colours(), QRectF(2.5, 4.5, 9, 9)
        with QPainter(self) as painter:
            painter.setRenderHint(QPainter.RenderHint.Antialiasing)
            painter.setPen(QPen(palette.ink if self._kind == "look" else palette.limit, 1.8))
            if self._kind == "frames":
                painter.drawLine(box.topLeft(), box.bottomRight())
                painter.drawLine(box.topRight(), box.bottomLeft())
            elif self._kind == "look":
                painter.drawEllipse(box)
            elif self._kind == "machine":
                painter.drawRect(box.adjusted(0, 2, 0, -2))
            elif self._kind in ("finish", "shot"):
                painter.drawLine(QPointF(2, 13), QPointF(12, 13))
                painter.drawLine(QPointF(9, 3), QPointF(9, 13))
            else:
                painter.drawRect(box)


class AlarmList(QScrollArea):
    """The list.

    Signals
    -------
    picked(Alarm)
        Somebody wants to see what it is of.
    copied(Alarm), again(Alarm), plan_wanted()
        Its button was pressed.
    """

    picked = Signal(object)
    copied = Signal(object)
    again = Signal(object)
    plan_wanted = Signal()

    def __init__(self) -> None:
        super().__init__()
        self._shown: tuple[Alarm, ...] | None = None
        self.setWidgetResizable(True)
        self.setFrameShape(QFrame.Shape.NoFrame)
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.setAccessibleName("What is wrong")
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)

    def sizeHint(self) -> QSize:
        return QSize(280, 180)

    def show_alarms(self, alarms: Sequence[Alarm]) -> None:
        """Show a list; the same list leaves everything as it is."""
        if tuple(alarms) == self._shown:
            return
        self._shown = tuple(alarms)
        at = self.verticalScrollBar().value()
        inside = QWidget()
        column = QVBoxLayout(inside)
        column.setContentsMargins(0, 2, 6, 2)
        column.setSpacing(7)
        for alarm in self._shown[:MOST_SHOWN]:
            column.addWidget(self._row(alarm))
        if len(self._shown) > MOST_SHOWN:
            column.addWidget(label(f"And {len(self._shown) - MOST_SHOWN} more.", "second", small=True))
        if not self._shown:
            column.addWidget(label("Nothing is wrong.", "second", small=True))
        column.addStretch(1)
        self.setWidget(inside)
        self.verticalScrollBar().setValue(at)

    def _row(self, alarm: Alarm) -> QWidget:
        made = QWidget()
        row = QHBoxLayout(made)
        row.setContentsMargins(0, 0, 0, 0)
        row.setSpacing(5)
        row.addWidget(_Sign(alarm.kind), 0, Qt.AlignmentFlag.AlignTop)
        words = QVBoxLayout()
        words.setSpacing(0)
        what = label(alarm.words, "" if alarm.kind == "look" else "limit", small=True, wrap=True)
        what.setTextInteractionFlags(Qt.TextInteractionFlag.TextSelectableByMouse)
        words.addWidget(what)
        links = QHBoxLayout()
        links.setSpacing(2)
        if alarm.todo:
            links.addWidget(label(alarm.todo, "second", small=True, wrap=True), 1)
        if alarm.frames:
            links.addWidget(button("Show", "Pick these frames above", lambda: self.picked.emit(alarm), link=True))
            links.addWidget(button("Copy", "Copy these frames as ranges", lambda: self.copied.emit(alarm), link=True))
        if alarm.frames and alarm.kind in ("frames", "look"):
            tip = "Count these frames as to be rendered again"
            links.addWidget(button("Again", tip, lambda: self.again.emit(alarm), link=True))
        if alarm.kind == "finish":
            links.addWidget(button("Plan the rest", "Look for a plan in Trade", self.plan_wanted.emit, link=True))
        if links.count():
            words.addLayout(links)
        row.addLayout(words, 1)
        return made
