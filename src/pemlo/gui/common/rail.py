"""The rail: the stages in the order of the work, each with one line that says where it stands. GUI thread."""

from collections.abc import Iterable

from PySide6.QtCore import QEvent, QRectF, QSize, Qt, Signal
from PySide6.QtGui import QPainter, QPaintEvent
from PySide6.QtWidgets import QAbstractButton, QFrame, QVBoxLayout

from pemlo.gui.common.colours import colours
from pemlo.gui.common.fonts import SMALL, bold, font
from pemlo.gui.common.plain import set_tip

WIDTH = 148
HEIGHT = 54


class StageButton(QAbstractButton):
    """One stage: number, name, and where it stands."""

    def __init__(self, number: int, name: str, tip: str) -> None:
        super().__init__()
        self._number, self._name, self._stands = number, name, ""
        self.setText(name)
        self._tip = f"{tip} (Alt+{number})"
        set_tip(self, self._tip)
        self.setAccessibleName(f"{name} stage")
        self.setCheckable(True)
        self.setAutoExclusive(True)
        self.setFixedHeight(HEIGHT)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)

    def say(self, stands: str) -> None:
        self._stands = stands
        set_tip(self, f"{self._tip}\n{stands}")
        self.setAccessibleDescription(stands)
        self.update()

    def sizeHint(self) -> QSize:
        return QSize(WIDTH, HEIGHT)

    def paintEvent(self, event: QPaintEvent) -> None:  # noqa: ARG002 - Qt's signature
        palette = colours()
        with QPainter(self) as painter:
            if self.isChecked():
                painter.fillRect(self.rect(), palette.sheet)
                painter.fillRect(QRectF(0, 0, 4, self.height()), palette.ink)
            if self.hasFocus():
                painter.setPen(palette.time)
                painter.drawRect(self.rect().adjusted(5, 1, -2, -2))
            painter.setPen(palette.ink)
            painter.setFont(bold() if self.isChecked() else font())
            painter.drawText(QRectF(20, 9, 20, 20), Qt.AlignmentFlag.AlignVCenter, str(self._number))
            painter.drawText(QRectF(35, 9, WIDTH - 35, 20), Qt.AlignmentFlag.AlignVCenter, self._name)
            painter.setPen(palette.second)
            painter.setFont(font(SMALL))
            room = QRectF(35, 28, WIDTH - 38, 18)
            stands = painter.fontMetrics().elidedText(self._stands, Qt.TextElideMode.ElideRight, int(room.width()))
            painter.drawText(room, Qt.AlignmentFlag.AlignVCenter, stands)


class Rail(QFrame):
    """The stages; the open one is pressed.

    Signals
    -------
    chosen(int)
        Which stage, from 0.
    """

    chosen = Signal(int)

    def __init__(self, stages: Iterable[tuple[str, str]]) -> None:
        super().__init__()
        self.setObjectName("rail")
        self.setFixedWidth(WIDTH)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(0)
        self.buttons = [StageButton(number, name, tip) for number, (name, tip) in enumerate(stages, start=1)]
        for number, stage_button in enumerate(self.buttons):
            column.addWidget(stage_button)
            stage_button.clicked.connect(lambda _=False, number=number: self.chosen.emit(number))
        column.addStretch(1)

    def show_stage(self, number: int) -> None:
        self.buttons[number].setChecked(True)

    def changeEvent(self, event: QEvent) -> None:
        self.update()
        super().changeEvent(event)
