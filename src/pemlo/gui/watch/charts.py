"""Two small charts: predicted against actual along a shot, and how the finish moved since the launch. GUI thread."""

import math
from datetime import timedelta

import numpy as np
from PySide6.QtCore import QPointF, QRectF, QSize, Qt
from PySide6.QtGui import QFontMetricsF, QPainter, QPaintEvent, QPen, QPolygonF
from PySide6.QtWidgets import QSizePolicy, QWidget

from pemlo.core.arrays import Floats
from pemlo.core.project.project import Project
from pemlo.core.units import format_duration
from pemlo.gui.common.colours import colours
from pemlo.gui.common.fonts import SMALL, font
from pemlo.gui.watch.presenter import CostProfileShown, MovesShown
from pemlo.words.verdicts import say_moment

LEFT, RIGHT, TOP, BOTTOM = 62, 10, 8, 20
WORD_PX = 13
_NICE = (1, 2, 5, 10, 15, 20, 30, 60, 120, 300, 600, 900, 1200, 1800, 3600, 7200, 14_400, 36_000, 86_400)


class _Chart(QWidget):
    """A field with axes of its own."""

    def __init__(self, name: str) -> None:
        super().__init__()
        self.setAccessibleName(name)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)
        self.setMinimumHeight(90)

    def sizeHint(self) -> QSize:
        return QSize(320, 150)

    @property
    def field(self) -> QRectF:
        return QRectF(LEFT, TOP, max(self.width() - LEFT - RIGHT, 10), max(self.height() - TOP - BOTTOM, 10))

    def words_along(self, painter: QPainter, at: list[tuple[float, str]], *, left: bool) -> None:
        """Write the ticks of an axis, at px; those without room give way."""
        painter.setFont(font(SMALL))
        painter.setPen(colours().second)
        metrics = QFontMetricsF(painter.font())
        field = self.field
        last = -math.inf
        for place, words in sorted(at):
            width = metrics.horizontalAdvance(words)
            if left:
                if place - last < WORD_PX:
                    continue
                painter.drawText(QPointF(field.left() - width - 6, place + 4), words)
                last = place
                continue
            begin = float(np.clip(place - width / 2, field.left(), field.right() - width))
            if begin < last + 8:
                continue
            painter.drawText(QPointF(begin, field.bottom() + 14), words)
            last = begin + width


class CostProfileChart(_Chart):
    """A frame's seconds along the picked shot: the band that was predicted, and a dot for each frame that is in."""

    def __init__(self) -> None:
        super().__init__("Predicted against actual along the shot")
        self._shown: CostProfileShown | None = None

    def show_cost_profile(self, shown: CostProfileShown | None) -> None:
        """Show a shot, or nothing."""
        self._shown = shown
        self.setAccessibleDescription(shown.words if shown else "")
        self.update()

    def paintEvent(self, _event: QPaintEvent) -> None:
        shown, palette = self._shown, colours()
        if shown is None:
            return
        field = self.field
        values = np.concatenate([shown.low, shown.high, shown.seconds[np.isfinite(shown.seconds)]])
        values = values[values > 0]
        if not len(values):
            return
        low, high = float(values.min()) * 0.93, float(values.max()) * 1.12
        first, last = float(shown.first), float(shown.last)

        def x(frame: float) -> float:
            return field.left() + field.width() * (frame - first) / max(last - first, 1e-9)

        def y(seconds: float) -> float:
            return field.bottom() - field.height() * (seconds - low) / max(high - low, 1e-9)

        with QPainter(self) as painter:
            painter.setRenderHint(QPainter.RenderHint.Antialiasing)
            painter.setPen(Qt.PenStyle.NoPen)
            painter.setBrush(palette.time_light)
            painter.drawPolygon(_band(shown.at, shown.low, shown.high, x, y))
            painter.setPen(QPen(palette.time, 1.4, Qt.PenStyle.DashLine))
            painter.drawPolyline([QPointF(x(a), y(b)) for a, b in zip(shown.at, shown.middle, strict=True)])
            if shown.updated is not None:
                painter.setPen(QPen(palette.ink, 1.6))
                painter.drawPolyline([QPointF(x(a), y(b)) for a, b in zip(shown.at, shown.updated, strict=True)])
            painter.setPen(Qt.PenStyle.NoPen)
            painter.setBrush(palette.ink)
            painter.setOpacity(0.75)
            for frame, seconds in zip(shown.frames, shown.seconds, strict=True):
                if math.isfinite(seconds):
                    painter.drawEllipse(QPointF(x(float(frame)), y(float(seconds))), 1.9, 1.9)
            painter.setOpacity(1.0)
            self._draw_legend(painter, updated=shown.updated is not None)
            painter.setPen(QPen(palette.line, 1))
            painter.drawLine(field.bottomLeft(), field.bottomRight())
            painter.drawLine(field.bottomLeft(), field.topLeft())
            ticks = _ticks(low, high)
            self.words_along(painter, [(y(value), format_duration(value)) for value in ticks], left=True)
            steps = np.unique(np.round(np.linspace(first, last, 5)).astype(int))
            self.words_along(
                painter,
                [(x(frame), f"frame {frame}" if k == 0 else str(frame)) for k, frame in enumerate(steps.tolist())],
                left=False,
            )

    def _draw_legend(self, painter: QPainter, *, updated: bool) -> None:
        """Say what the lines are, along the top."""
        palette, x, y = colours(), self.field.left() + 6, self.field.top() + 4
        painter.setFont(font(SMALL))
        dashes = QPen(palette.time, 1.4, Qt.PenStyle.DashLine)
        lines = [("predicted", dashes), *([("as known now", QPen(palette.ink, 1.6))] if updated else [])]
        for words, pen in lines:
            painter.setPen(pen)
            painter.drawLine(QPointF(x, y), QPointF(x + 16, y))
            painter.setPen(palette.second)
            painter.drawText(QPointF(x + 20, y + 4), words)
            x += 30 + QFontMetricsF(painter.font()).horizontalAdvance(words)


class MovesChart(_Chart):
    """How the predicted finish moved: the middle, the band of nine in ten, and the deadline across."""

    def __init__(self) -> None:
        super().__init__("How the finish moved since the launch")
        self._shown: MovesShown | None = None
        self._project: Project | None = None

    def show_moves(self, project: Project, shown: MovesShown | None) -> None:
        """Show how it moved, or nothing."""
        self._project, self._shown = project, shown
        self.update()

    def paintEvent(self, _event: QPaintEvent) -> None:
        shown, project, palette = self._shown, self._project, colours()
        if shown is None or project is None or len(shown.at) < 2:
            with QPainter(self) as painter:
                painter.setFont(font(SMALL))
                painter.setPen(palette.second)
                middle = Qt.AlignmentFlag.AlignCenter | Qt.TextFlag.TextWordWrap
                painter.drawText(self.field, middle, "Shown once two frames have come at different times.")
            return
        field, due = self.field, shown.due_h
        low, high = min(due, float(shown.low.min())), max(due, float(shown.high.max()))
        low, high = low - 0.04 * (high - low + 1), high + 0.04 * (high - low + 1)
        first, last = float(shown.at[0]), float(max(shown.at[-1], shown.at[0] + 0.1))

        def x(hours: float) -> float:
            return field.left() + field.width() * (hours - first) / (last - first)

        def y(hours: float) -> float:
            return field.bottom() - field.height() * (hours - low) / (high - low)

        with QPainter(self) as painter:
            painter.setRenderHint(QPainter.RenderHint.Antialiasing)
            painter.setPen(Qt.PenStyle.NoPen)
            painter.setBrush(palette.time_light)
            painter.drawPolygon(_band(shown.at, shown.low, shown.high, x, y))
            painter.setPen(QPen(palette.time, 1.8))
            painter.drawPolyline([QPointF(x(a), y(b)) for a, b in zip(shown.at, shown.middle, strict=True)])
            painter.setPen(QPen(palette.limit, 1.8))
            painter.drawLine(QPointF(field.left(), y(due)), QPointF(field.right(), y(due)))
            painter.setPen(QPen(palette.line, 1))
            painter.drawLine(field.bottomLeft(), field.bottomRight())
            painter.drawLine(field.bottomLeft(), field.topLeft())

            def moment(hours: float) -> str:
                return say_moment(project.start + timedelta(hours=hours), project)

            self.words_along(painter, [(y(due), "due")], left=True)
            days = [(y(at), words) for at, words in shown.midnights if abs(y(at) - y(due)) > WORD_PX]
            self.words_along(painter, days, left=True)
            self.words_along(painter, [(x(first), moment(first)), (x(last), moment(last))], left=False)


def _band(at: Floats, low: Floats, high: Floats, x, y) -> QPolygonF:  # type: ignore[no-untyped-def]  # noqa: ANN001
    shape = [QPointF(x(float(a)), y(float(b))) for a, b in zip(at, low, strict=True)]
    shape += [QPointF(x(float(a)), y(float(b))) for a, b in zip(at[::-1], high[::-1], strict=True)]
    return QPolygonF(shape)


def _ticks(low: float, high: float) -> list[float]:
    """Return a few durations between two, of a step that people count in."""
    step = next((one for one in _NICE if (high - low) / one <= 5), (high - low) / 4)
    if high - low < 2:
        step = 10 ** math.floor(math.log10(max(high - low, 1e-6)))
    return [k * step for k in range(math.ceil(low / step), math.floor(high / step) + 1)]
