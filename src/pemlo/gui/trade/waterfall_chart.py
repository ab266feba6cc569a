"""The fall from as asked to the plan: a stepped chart against the hours there are. GUI thread."""

from collections.abc import Sequence

from PySide6.QtCore import QEvent, QPointF, QRectF, QSize, Qt
from PySide6.QtGui import QHelpEvent, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QWidget

from pemlo.core.units import round_figures
from pemlo.gui.common.axes import nice_step
from pemlo.gui.common.colours import colours
from pemlo.gui.common.fonts import SMALL, bold, font
from pemlo.gui.common.plain import show_tip
from pemlo.gui.trade.presenter import Bar

_LEFT, _RIGHT, _TOP, _BOTTOM = 44, 10, 22, 36
_LINE = 13  # names stand in two lines by turns where they are too wide for one
_WIDEST = 64


class WaterfallChart(QWidget):
    """Bars from as asked to the plan, one for each lever that moves."""

    def __init__(self) -> None:
        super().__init__()
        self._bars: tuple[Bar, ...] = ()
        self._available_h = 0.0
        self.setMinimumHeight(104)
        self.setAccessibleName("The fall from as asked to the plan")

    def sizeHint(self) -> QSize:
        return QSize(480, 190)

    def show_bars(self, bars: Sequence[Bar], available_h: float) -> None:
        """Show the fall, and the machine-hours there are."""
        self._bars, self._available_h = tuple(bars), available_h
        said = "; ".join(f"{bar.name} {bar.said}" for bar in bars)
        self.setAccessibleDescription(f"Machine-hours: {said}. There are {round_figures(available_h)}.")
        self.update()

    @property
    def top(self) -> float:
        """Upper end of the scale, machine-hours."""
        highest = [self._available_h, *(bar.high if bar.is_end else max(bar.start, bar.end) for bar in self._bars)]
        return max([*highest, 1e-3]) * 1.06

    def _y(self, hours: float) -> float:
        return self.height() - _BOTTOM - hours / self.top * (self.height() - _TOP - _BOTTOM)

    def bar_rect(self, number: int) -> QRectF:
        """Return where a bar is painted."""
        room = (self.width() - _LEFT - _RIGHT) / max(len(self._bars), 1)
        width = min(0.62 * room, _WIDEST)
        bar = self._bars[number]
        x = _LEFT + room * (number + 0.5) - width / 2
        high, low = self._y(max(bar.start, bar.end)), self._y(min(bar.start, bar.end))
        return QRectF(x, high, width, max(low - high, 2.0))

    def paintEvent(self, _event: QPaintEvent) -> None:
        if not self._bars:
            return
        with QPainter(self) as painter:
            painter.setRenderHint(QPainter.RenderHint.Antialiasing)
            painter.setFont(font(SMALL))
            self._paint_scale(painter)
            for number, bar in enumerate(self._bars):
                self._paint_bar(painter, number, bar)
            self._paint_there(painter)
            # Words come last, on paper of their own: no line goes through them.
            for number, bar in enumerate(self._bars):
                self._paint_words(painter, number, bar)

    def _paint_scale(self, painter: QPainter) -> None:
        palette, step = colours(), nice_step(self.top, 4)
        for count in range(int(self.top / step) + 1):
            y = self._y(count * step)
            painter.setPen(QPen(palette.line, 1))
            painter.drawLine(QPointF(_LEFT, y), QPointF(self.width() - _RIGHT, y))
            painter.setPen(palette.second)
            words = QRectF(0, y - 8, _LEFT - 8, 16)
            painter.drawText(words, Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter, f"{count * step:g}")

    def _paint_bar(self, painter: QPainter, number: int, bar: Bar) -> None:
        palette, rect = colours(), self.bar_rect(number)
        costlier = bar.end > bar.start and not bar.is_end
        painter.setPen(Qt.PenStyle.NoPen if bar.is_end else QPen(palette.limit if costlier else palette.time, 1))
        painter.setBrush(palette.time if bar.is_end else palette.limit_light if costlier else palette.time_light)
        painter.drawRect(rect)
        if number + 1 < len(self._bars):
            y = self._y(bar.end)
            painter.setPen(QPen(palette.second, 1, Qt.PenStyle.DotLine))
            painter.drawLine(QPointF(rect.right(), y), QPointF(self.bar_rect(number + 1).left(), y))
        if bar.is_end:
            x = rect.center().x()
            painter.setPen(QPen(palette.ink, 1.5))
            painter.drawLine(QPointF(x, self._y(bar.low)), QPointF(x, self._y(bar.high)))

    def _paint_words(self, painter: QPainter, number: int, bar: Bar) -> None:
        palette, rect = colours(), self.bar_rect(number)
        costlier = bar.end > bar.start and not bar.is_end
        if bar.is_end:
            above, words = self._y(bar.high) - 16, bar.said
        else:
            above, words = rect.bottom() + 1, bar.said
        painter.setPen(palette.ink if bar.is_end else palette.limit if costlier else palette.time)
        painter.setFont(bold(SMALL))
        width = painter.fontMetrics().horizontalAdvance(words) + 8
        wide = QRectF(rect.center().x() - width / 2, max(above, 0.0), width, 15)
        painter.fillRect(wide, palette.sheet)
        painter.drawText(wide, Qt.AlignmentFlag.AlignCenter, words)
        painter.setFont(font(SMALL))
        painter.setPen(palette.second)
        room = (self.width() - _LEFT - _RIGHT) / len(self._bars)
        crowded = max(painter.fontMetrics().horizontalAdvance(one.name) for one in self._bars) + 6 > room
        down = _LINE if crowded and number % 2 else 0
        below = QRectF(rect.center().x() - 60, self.height() - _BOTTOM + 4 + down, 120, 16)
        painter.drawText(below, Qt.AlignmentFlag.AlignCenter, bar.name)

    def _paint_there(self, painter: QPainter) -> None:
        palette, y = colours(), self._y(self._available_h)
        painter.setPen(QPen(palette.limit, 2))
        painter.drawLine(QPointF(_LEFT, y), QPointF(self.width() - _RIGHT, y))

    def tip_at(self, x: float) -> str:
        """Return what the bar at a place says; empty where there is none."""
        near = (
            bar.tip
            for number, bar in enumerate(self._bars)
            if abs(self.bar_rect(number).center().x() - x) < max(self.bar_rect(number).width(), 24)
        )
        return next(near, "")

    def event(self, event: QEvent) -> bool:
        if isinstance(event, QHelpEvent) and event.type() == QEvent.Type.ToolTip:
            show_tip(event.globalPos(), self.tip_at(event.pos().x()), self)
            return True
        return super().event(event)
