"""The film as a strip: each shot's hours before and after, and its error against its ceiling. GUI thread."""

import math
from collections.abc import Sequence

import numpy as np
from PySide6.QtCore import QEvent, QPointF, QRectF, QSize, Qt, Signal
from PySide6.QtGui import QHelpEvent, QMouseEvent, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QWidget

from pemlo.core.units import counted, machine_hours, round_figures
from pemlo.gui.common.colours import colours
from pemlo.gui.common.fonts import SMALL, font
from pemlo.gui.common.plain import show_tip
from pemlo.gui.trade.presenter import Share

_LEFT, _NAMES, _HIGHEST = 84, 16, 1.8
MOST_SAID = 60  # shots of which hours and error are said one by one
_FEWEST_PX = 26  # a shot narrower than that has no name


def _ratio_words(ratio: float) -> str:
    return "error not measured" if math.isnan(ratio) else f"error {ratio:.2f} of its limit"


class FilmShares(QWidget):
    """Two rows over the shots: hours, hollow as asked and full as planned; error over ceiling, which is the line at 1.

    Signals
    -------
    picked(str)
    """

    picked = Signal(str)

    def __init__(self) -> None:
        super().__init__()
        self._shares: tuple[Share, ...] = ()
        self._picked: tuple[str, ...] = ()
        self.setFixedHeight(112)
        self.setAccessibleName("The film's hours and errors, shot by shot")

    def sizeHint(self) -> QSize:
        return QSize(480, 112)

    def show_shares(self, shares: Sequence[Share], picked: tuple[str, ...]) -> None:
        self._shares, self._picked = tuple(shares), picked
        shown = shares[:MOST_SAID]
        said = [f"{share.shot}: {machine_hours(share.hours)}, {_ratio_words(share.ratio)}" for share in shown]
        left = len(shares) - len(said)
        self.setAccessibleDescription("; ".join(said + ([counted(left, "more shot")] if left else [])))
        self.update()

    def column(self, number: int) -> QRectF:
        """Return the room of a shot."""
        width = (self.width() - _LEFT - 8) / max(len(self._shares), 1)
        return QRectF(_LEFT + number * width, 0, width, self.height() - _NAMES)

    def paintEvent(self, _event: QPaintEvent) -> None:
        if not self._shares:
            return
        palette = colours()
        half = (self.height() - _NAMES) / 2
        most = max([max(share.asked_hours, share.hours) for share in self._shares] + [1e-6])
        with QPainter(self) as painter:
            painter.setFont(font(SMALL))
            painter.setPen(palette.second)
            above = QRectF(0, 0, _LEFT - 8, half)
            for row, words in ((above, "machine-\nhours"), (above.translated(0, half), "error over\nits limit")):
                painter.drawText(row, Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter, words)
            painter.setPen(QPen(palette.limit, 1.5))
            y = self._y(1.0, half)
            painter.drawLine(QPointF(_LEFT, y), QPointF(self.width() - 8, y))
            for number, one in enumerate(self._shares):
                room = self.column(number)
                self._paint_hours(painter, room, one, half - 6, most)
                self._paint_error(painter, room, one, half)
                if room.width() >= _FEWEST_PX:
                    painter.setPen(palette.ink if one.shot in self._picked else palette.second)
                    name = QRectF(room.left(), self.height() - _NAMES, room.width(), _NAMES)
                    painter.drawText(name, Qt.AlignmentFlag.AlignCenter, one.shot)

    def _paint_hours(self, painter: QPainter, room: QRectF, share: Share, high: float, most: float) -> None:
        palette, width = colours(), min(room.width() * 0.6, 28)
        x = room.center().x() - width / 2
        full, hollow = (high * hours / most for hours in (share.hours, share.asked_hours))
        painter.fillRect(QRectF(x, high - full, width, full), palette.time)
        painter.setPen(QPen(palette.second, 1))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawRect(QRectF(x - 2, high - hollow, width + 4, hollow))

    @staticmethod
    def _y(ratio: float, half: float) -> float:
        return 2 * half - 3 - min(ratio, _HIGHEST) / _HIGHEST * (half - 8)

    def _paint_error(self, painter: QPainter, room: QRectF, share: Share, half: float) -> None:
        palette, x = colours(), room.center().x()
        if np.isnan(share.ratio):
            words = QRectF(x - 8, half, 16, half)
            painter.fillRect(words, palette.sheet)  # the line of the ceilings does not go through it
            painter.setPen(palette.second)
            painter.drawText(words, Qt.AlignmentFlag.AlignCenter, "?")
            return
        before, after = self._y(share.asked_ratio, half), self._y(share.ratio, half)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setPen(QPen(palette.picture, 1.5))
        painter.setBrush(palette.sheet)
        painter.drawLine(QPointF(x, before), QPointF(x, after))
        painter.drawEllipse(QPointF(x, before), 3.0, 3.0)
        painter.setBrush(palette.picture)
        painter.drawEllipse(QPointF(x, after), 4.0, 4.0)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing, on=False)

    def _at(self, x: float) -> Share | None:
        places = (number for number in range(len(self._shares)) if self.column(number).left() <= x)
        found = max(places, default=None)
        return None if found is None or x > self.width() - 8 else self._shares[found]

    def mousePressEvent(self, event: QMouseEvent) -> None:
        share = self._at(event.position().x())
        if share is not None:
            self.picked.emit(share.shot)

    def tip_at(self, x: float) -> str:
        """Return what the shot at a place says; empty where there is none."""
        share = self._at(x)
        if share is None:
            return ""
        words = f"{share.shot}: {round_figures(share.asked_hours)} to {round_figures(share.hours)} machine-hours; "
        if np.isnan(share.ratio):
            return words + "its error is not known"
        return words + f"error {share.asked_ratio:.2f} to {share.ratio:.2f} times its limit"

    def event(self, event: QEvent) -> bool:
        if isinstance(event, QHelpEvent) and event.type() == QEvent.Type.ToolTip:
            show_tip(event.globalPos(), self.tip_at(event.pos().x()), self)
            return True
        return super().event(event)
