"""The tape: time from the start to past the deadline, what machines can do at each hour, and the finish. GUI thread.

A silhouette of machine-hours per hour, dark as far as the plan needs it; the finish as a hump, hatched past the
deadline; the deadline as one strong line.
"""

from typing import TYPE_CHECKING

from PySide6.QtCore import QEvent, QPointF, QRectF, QSize, Qt
from PySide6.QtGui import QFontMetricsF, QHelpEvent, QMouseEvent, QPainter, QPen
from PySide6.QtWidgets import QToolTip, QWidget

from pemlo.core.forecast.time_ticks import Tick, time_ticks
from pemlo.core.project.project import Project
from pemlo.gui.common.colours import colours
from pemlo.gui.common.finish_hump import paint_hump
from pemlo.gui.common.fonts import SMALL, bold, font
from pemlo.gui.common.plain import show_tip
from pemlo.words.verdicts import say_hours, say_moment

if TYPE_CHECKING:
    from pemlo.core.forecast.finish_density import FinishDensity
    from pemlo.core.forecast.verdict import Forecast
    from pemlo.words.film_verdict import FilmVerdict

MARGIN = 18
HEIGHT = 96
AXIS_FROM_BOTTOM = 20
SHORT_H = 48  # a shorter tape carries every hour that has room


class Tape(QWidget):
    """Draws a forecast over time."""

    def __init__(self) -> None:
        super().__init__()
        self._project: Project | None = None
        self._found: Forecast | None = None
        self._hump: FinishDensity | None = None
        self._last_h = 1.0
        self.stale = False
        self._shown: tuple[float, float] | None = None
        self._now_h: float | None = None
        self.setMouseTracking(True)
        self.setMinimumHeight(HEIGHT)
        self.setAccessibleName("Tape of hours until the deadline")

    def sizeHint(self) -> QSize:
        return QSize(800, HEIGHT)

    def show_verdict(self, verdict: "FilmVerdict") -> None:
        """Show a verdict; with the present moment once frames come in."""
        from pemlo.core.forecast.finish_density import density, last_hour  # noqa: PLC0415 - loads NumPy

        forecast = verdict.forecast
        shown = not self.stale and self._project is verdict.project and self._found is forecast
        if shown and self._now_h == verdict.now_h:
            return  # it is shown already
        self._project, self._found, self._now_h, self.stale = verdict.project, forecast, verdict.now_h, False
        self._last_h = last_hour(forecast, self._deadline_h())
        self._hump = density(forecast.finish_h, self._last_h)
        self.setAccessibleDescription(self.reading())
        self.update()

    def mark_shown(self, first_h: float, last_h: float) -> None:
        """Bracket the hours that are shown elsewhere, closer; all of them, or none, for no bracket."""
        shown = (first_h, last_h) if last_h - first_h < 0.98 * self._last_h else None
        if shown != self._shown:
            self._shown = shown
            self.update()

    def mark_stale(self) -> None:
        if not self.stale:
            self.stale = True
            self.update()

    def reading(self) -> str:
        """Say the finish in figures."""
        from pemlo.core.forecast.finish_density import hour_by  # noqa: PLC0415 - loads NumPy

        if self._found is not None and self._found.kind == "disagree":
            return "When it is done cannot be said: trials do not agree."
        if self._project is None or self._found is None or self._found.finish is None:
            return "How many hours are needed is not known yet."
        half = say_moment(self._found.finish[1], self._project)
        hours = hour_by(self._found, 0.9)
        nine = say_hours(hours, self._project)
        return f"50 % by {half}, 90 % by {nine}"

    def event(self, event: QEvent) -> bool:
        if isinstance(event, QHelpEvent) and event.type() == QEvent.Type.ToolTip:
            self._tell(QPointF(event.pos()))
            return True
        return super().event(event)

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        self._tell(event.position())

    def _tell(self, at: QPointF) -> None:
        from pemlo.core.forecast.finish_density import finished_by  # noqa: PLC0415 - loads NumPy

        if self._project is None or self._found is None:
            return
        hours = (at.x() - MARGIN) / max(self.width() - 2 * MARGIN, 1) * self._last_h
        if not 0 <= hours <= self._last_h:
            QToolTip.hideText()
            return
        moment = say_hours(hours, self._project)
        work = self._found.capacity.work_by(hours)
        words = f"{moment}: {work:.0f} machine-hours done by then"
        if len(self._found.finish_h):
            words += f", {100 * finished_by(self._found, hours):.0f} % of the outcomes finished"
        show_tip(self.mapToGlobal(at.toPoint()), f"{words}\n{self.reading()}", self)

    def _deadline_h(self) -> float:
        assert self._project is not None
        return self._project.deadline_h

    def _x(self, hours: float) -> float:
        return MARGIN + hours / self._last_h * (self.width() - 2 * MARGIN)

    def paintEvent(self, event: QEvent) -> None:  # noqa: ARG002 - Qt's signature
        if self._project is None or self._found is None:
            return
        with QPainter(self) as painter:
            painter.setRenderHint(QPainter.RenderHint.Antialiasing)
            base = self.height() - AXIS_FROM_BOTTOM
            self._draw_hours(painter, base)
            self._draw_days(painter, base)
            self._draw_hump(painter, base)
            self._draw_words(painter, base)
            self._draw_shown(painter, base)
            self._draw_now(painter, base)

    def _draw_now(self, painter: QPainter, base: float) -> None:
        """Draw the present moment: what is left of it is done."""
        if self._now_h is None or not 0 <= self._now_h <= self._last_h:
            return
        palette, x = colours(), self._x(self._now_h)
        painter.setPen(QPen(palette.ink, 1.6))
        painter.drawLine(QPointF(x, 24), QPointF(x, base + 4))
        painter.setFont(bold(SMALL))
        words = "now"
        width = QFontMetricsF(painter.font()).horizontalAdvance(words)
        side = (
            x + 4 if x + 4 + width < self._x(self._deadline_h()) or self._now_h > self._deadline_h() else x - width - 4
        )
        painter.drawText(QPointF(side, 34), words)

    def _draw_hours(self, painter: QPainter, base: float) -> None:
        from pemlo.core.forecast.finish_density import hour_by  # noqa: PLC0415 - loads NumPy

        assert self._found is not None
        palette, curve = colours(), self._found.capacity
        at = (*curve.at[curve.at < self._last_h].tolist(), self._last_h)
        rate = curve.rate[: len(at) - 1]
        tallest = max(float(rate.max(initial=0.0)), 1e-9)
        needed = hour_by(self._found, 0.5) if len(self._found.finish_h) else 0.0
        painter.setPen(Qt.PenStyle.NoPen)
        for begin, end, height in zip(at[:-1], at[1:], rate, strict=True):
            top = base - 40.0 * height / tallest
            gone = self._now_h or 0.0
            for left, right, colour, opacity in (
                (begin, min(end, gone), palette.ink, 0.55),
                (max(begin, gone), min(end, needed), palette.time, 0.62),
                (max(begin, needed, gone), end, palette.time_light, 1.0),
            ):
                if right > left and height > 0:
                    x = self._x(float(left))
                    painter.setBrush(colour)
                    painter.setOpacity(opacity)
                    painter.drawRect(QRectF(x, top, self._x(float(right)) - x + 0.4, base - top))
        painter.setOpacity(1.0)

    def _draw_days(self, painter: QPainter, base: float) -> None:
        assert self._project is not None
        palette = colours()
        painter.setPen(QPen(palette.ink, 1.4))
        painter.drawLine(QPointF(MARGIN, base), QPointF(self.width() - MARGIN, base))
        painter.setFont(font(SMALL))
        for tick in time_ticks(self._project, 0.0, self._last_h, self.width() - 2 * MARGIN):
            if tick.midnight or tick.words == "12" or self._last_h < SHORT_H:
                self._tick(painter, base, tick)

    def _tick(self, painter: QPainter, base: float, tick: Tick) -> None:
        x, palette = self._x(tick.hours), colours()
        painter.setPen(QPen(palette.second, 1))
        painter.drawLine(QPointF(x, base), QPointF(x, base + (6 if tick.midnight else 3)))
        width = QFontMetricsF(painter.font()).horizontalAdvance(tick.words)
        if tick.words and x + 4 + width < self.width() - MARGIN:
            painter.setPen(palette.second)
            painter.drawText(QPointF(x + 4 if tick.midnight else x - width / 2, base + 15), tick.words)

    def _draw_hump(self, painter: QPainter, base: float) -> None:
        if self._hump is not None:
            paint_hump(painter, self._hump, self._deadline_h(), self._x, base, 52.0)

    def _draw_shown(self, painter: QPainter, base: float) -> None:
        if self._shown is None:
            return
        left, right = (self._x(min(hours, self._last_h)) for hours in self._shown)
        painter.setPen(QPen(colours().ink, 1.6))
        for x, turn in ((left, 5.0), (right, -5.0)):
            painter.drawPolyline(
                [QPointF(x + turn, 22), QPointF(x, 22), QPointF(x, base + 4), QPointF(x + turn, base + 4)]
            )

    def _draw_words(self, painter: QPainter, base: float) -> None:
        assert self._project is not None
        assert self._found is not None
        palette = colours()
        x = self._x(self._deadline_h())
        painter.setPen(QPen(palette.limit, 2.4))
        painter.drawLine(QPointF(x, 8), QPointF(x, base + 6))
        painter.setFont(bold(SMALL))
        words = f"due {say_moment(self._project.delivery.deadline, self._project)}"
        painter.setPen(palette.limit)
        width = QFontMetricsF(painter.font()).horizontalAdvance(words)
        painter.drawText(QPointF(x - width - 6, 16), words)
        painter.setPen(QPen(palette.ink, 2))
        painter.drawLine(QPointF(MARGIN, base - 50), QPointF(MARGIN, base + 6))
        painter.setFont(font(SMALL))
        painter.setPen(palette.second)
        painter.drawText(QPointF(MARGIN + 6, 16), f"start {say_moment(self._project.start, self._project)}")
        right = "a new forecast is on its way" if self.stale else self.reading()
        width_right = QFontMetricsF(painter.font()).horizontalAdvance(right)
        left = self.width() - MARGIN - width_right
        if left < x + 8:  # no room past the deadline: before it
            left = x - width - width_right - 30
        painter.drawText(QPointF(left, 16), right)
