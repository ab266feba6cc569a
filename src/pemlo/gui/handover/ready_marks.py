"""All shots at a glance: one mark each, its state by shape. GUI thread."""

from collections.abc import Sequence

from PySide6.QtCore import QEvent, QPointF, QRectF, QSize, Qt, Signal
from PySide6.QtGui import QHelpEvent, QMouseEvent, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QSizePolicy, QWidget

from pemlo.gui.common.colours import colours
from pemlo.gui.common.plain import show_tip
from pemlo.gui.handover.presenter import STATE_WORDS, ShotMark, ShotState

SIDE, STEP = 10, 16


def paint_state(painter: QPainter, box: QRectF, state: ShotState) -> None:
    """Paint a state: solid where ready, a cross where not, hollow with a dot where something is not known."""
    palette = colours()
    painter.setPen(QPen(palette.limit if state == "wrong" else palette.time, 1.8))
    painter.setBrush(palette.time if state == "ready" else Qt.BrushStyle.NoBrush)
    if state == "wrong":
        painter.drawLine(box.topLeft(), box.bottomRight())
        painter.drawLine(box.topRight(), box.bottomLeft())
        return
    if state == "not checked":
        painter.setPen(QPen(palette.faint, 1.0, Qt.PenStyle.DotLine))
    painter.drawRect(box)
    if state == "not known":
        painter.setBrush(palette.time)
        painter.drawEllipse(box.center(), 1.4, 1.4)


class ReadyMarks(QWidget):
    """The marks, in order of the film; a click picks a shot.

    Signals
    -------
    shot_wanted(str)
    """

    shot_wanted = Signal(str)

    def __init__(self) -> None:
        super().__init__()
        self._marks: tuple[ShotMark, ...] = ()
        self._picked: tuple[str, ...] = ()
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
        self.setAccessibleName("Shots: ready or not")
        self.setMouseTracking(True)

    def sizeHint(self) -> QSize:
        return QSize(300, self.heightForWidth(self.width()))

    def hasHeightForWidth(self) -> bool:
        return True

    def heightForWidth(self, width: int) -> int:
        rows = -(-max(len(self._marks), 1) // self._columns(width))
        return rows * STEP + 4

    def _columns(self, width: int) -> int:
        return max(1, width // STEP)

    def show_marks(self, marks: Sequence[ShotMark], picked: Sequence[str]) -> None:
        self._marks, self._picked = tuple(marks), tuple(picked)
        self.setAccessibleDescription("; ".join(f"{mark.shot} {STATE_WORDS[mark.state]}" for mark in self._marks[:200]))
        self.setFixedHeight(self.heightForWidth(max(self.width(), STEP)))
        self.update()

    def resizeEvent(self, event: object) -> None:  # noqa: ARG002 - Qt's signature
        self.setFixedHeight(self.heightForWidth(self.width()))

    def box_of(self, number: int) -> QRectF:
        """Return where a mark is painted."""
        row, column = divmod(number, self._columns(self.width()))
        return QRectF(3 + column * STEP, 3 + row * STEP, SIDE, SIDE)

    def _at(self, place: QPointF) -> ShotMark | None:
        for number, shot_mark in enumerate(self._marks):
            if self.box_of(number).adjusted(-3, -3, 3, 3).contains(place):
                return shot_mark
        return None

    def paintEvent(self, _event: QPaintEvent) -> None:
        with QPainter(self) as painter:
            painter.setRenderHint(QPainter.RenderHint.Antialiasing)
            for number, shot_mark in enumerate(self._marks):
                box = self.box_of(number)
                paint_state(painter, box, shot_mark.state)
                if shot_mark.shot in self._picked:
                    painter.setPen(QPen(colours().ink, 1.4))
                    painter.drawLine(
                        QPointF(box.left() - 1, box.bottom() + 3.5), QPointF(box.right() + 1, box.bottom() + 3.5)
                    )

    def mousePressEvent(self, event: QMouseEvent) -> None:
        shot_mark = self._at(event.position())
        if shot_mark is not None:
            self.shot_wanted.emit(shot_mark.shot)

    def event(self, event: QEvent) -> bool:
        if isinstance(event, QHelpEvent) and event.type() == QEvent.Type.ToolTip:
            shot_mark = self._at(QPointF(event.pos()))
            if shot_mark is not None:
                words = f"{shot_mark.shot}: {STATE_WORDS[shot_mark.state]}" + (
                    f"\n{shot_mark.why}" if shot_mark.why else ""
                )
                show_tip(event.globalPos(), words, self)
            return True
        return super().event(event)
