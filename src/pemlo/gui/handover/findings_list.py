"""What the checks found: a sentence each, what to do, and a button that does it. GUI thread."""

from collections.abc import Sequence

from PySide6.QtCore import QRectF, QSize, Qt, Signal
from PySide6.QtGui import QPainter, QPaintEvent
from PySide6.QtWidgets import QFrame, QHBoxLayout, QScrollArea, QSizePolicy, QVBoxLayout, QWidget

from pemlo.core.preflight.finding import FINE, UNKNOWN, WRONG, Finding
from pemlo.gui.common.labels import button, label
from pemlo.gui.handover.presenter import ShotState
from pemlo.gui.handover.ready_marks import paint_state

MOST_SHOWN = 60
LONGEST = 30  # letters of a button


STATES: dict[str, ShotState] = {WRONG: "wrong", UNKNOWN: "not known", FINE: "ready"}


class _Sign(QWidget):
    """An outcome, by the shape that shots have with it."""

    def __init__(self, outcome: str) -> None:
        super().__init__()
        self._outcome = outcome
        self.setFixedSize(14, 16)

    def paintEvent(self, _event: QPaintEvent) -> None:
        with QPainter(self) as painter:
            painter.setRenderHint(QPainter.RenderHint.Antialiasing)
            paint_state(painter, QRectF(2.5, 4.5, 8, 8), STATES[self._outcome])


class FindingsList(QScrollArea):
    """The list.

    Signals
    -------
    mended(Mend)
        Its button was pressed.
    shot_wanted(str)
        Somebody wants to see the shot that it is of.
    """

    mended = Signal(object)
    shot_wanted = Signal(str)

    def __init__(self) -> None:
        super().__init__()
        self._shown: tuple[tuple[Finding, ...], str] | None = None
        self.setWidgetResizable(True)
        self.setFrameShape(QFrame.Shape.NoFrame)
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.setAccessibleName("What the checks found")
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)

    def sizeHint(self) -> QSize:
        return QSize(300, 200)

    def show_findings(self, found: Sequence[Finding], empty: str) -> None:
        """Show findings; the same words leave everything as it is, but for what their buttons do."""
        found = tuple(found)
        if self._shown == (found, empty):
            return
        self._shown = found, empty
        at = self.verticalScrollBar().value()
        inside = QWidget()
        column = QVBoxLayout(inside)
        column.setContentsMargins(0, 2, 6, 2)
        column.setSpacing(7)
        for finding in found[:MOST_SHOWN]:
            column.addWidget(self._row(finding))
        if len(found) > MOST_SHOWN:
            column.addWidget(label(f"And {len(found) - MOST_SHOWN} more.", "second", small=True))
        if not found:
            column.addWidget(label(empty, "second", small=True, wrap=True))
        column.addStretch(1)
        self.setWidget(inside)
        self.verticalScrollBar().setValue(at)

    def _row(self, finding: Finding) -> QWidget:
        made = QWidget()
        row = QHBoxLayout(made)
        row.setContentsMargins(0, 0, 0, 0)
        row.setSpacing(5)
        row.addWidget(_Sign(finding.outcome), 0, Qt.AlignmentFlag.AlignTop)
        words = QVBoxLayout()
        words.setSpacing(0)
        said = finding.words or f"{finding.shot or 'The film'}: {finding.check} fine"
        what = label(
            said, "limit" if finding.outcome == WRONG else "second" if finding.outcome == FINE else "", wrap=True
        )
        what.setTextInteractionFlags(Qt.TextInteractionFlag.TextSelectableByMouse)
        words.addWidget(what)
        below = QHBoxLayout()
        below.setSpacing(4)
        if finding.mend is not None:
            mend = finding.mend
            name = mend.name if len(mend.name) <= LONGEST else f"{mend.name[: LONGEST - 1]}…"
            below.addWidget(button(name, f"{mend.name}. {finding.todo}", lambda: self.mended.emit(mend), link=True))
            below.addStretch(1)
        elif finding.todo:
            below.addWidget(label(finding.todo, "second", small=True, wrap=True), 1)
        if finding.shot and finding.outcome != FINE:
            shot = finding.shot
            if not below.count():
                below.addStretch(1)
            below.addWidget(button(shot, f"Pick {shot}", lambda: self.shot_wanted.emit(shot), link=True))
        if below.count():
            words.addLayout(below)
        row.addLayout(words, 1)
        return made
