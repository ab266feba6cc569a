"""What hours buy: every option a dot, the best there are a line, marks, and what parts the plane. GUI thread.

A click on a dot takes it; dragging along the line goes from option to option of it.
"""

from collections.abc import Mapping, Sequence
from typing import TypeVar

import numpy as np
from PySide6.QtCore import QPointF, QRectF, QSize, Qt, Signal
from PySide6.QtGui import QMouseEvent, QPainter, QPaintEvent, QPen, QPixmap, QPolygonF
from PySide6.QtWidgets import QWidget

from pemlo.core.units import round_figures
from pemlo.gui.common.axes import nice_step, nice_steps
from pemlo.gui.common.colours import colours, mixed
from pemlo.gui.common.fonts import SMALL, bold, font
from pemlo.gui.common.plain import show_tip
from pemlo.gui.trade.frontiers import Frontier, MarkedPoint, Point

P = TypeVar("P", Point, MarkedPoint)
_LEFT, _RIGHT, _TOP, _BOTTOM = 44, 12, 20, 34
_DOT, _MARK, _NEAR = 1.6, 5.0, 14.0


class FrontierChart(QWidget):
    """The frontier.

    Signals
    -------
    taken(int)
        Place of an option that was clicked or dragged to.
    let_go()
        The drag has ended.
    """

    taken = Signal(int)
    let_go = Signal()

    def __init__(self) -> None:
        super().__init__()
        self._shown: Frontier | None = None
        self._words: Mapping[int, str] = {}
        self.ends, self._first = (1.0, 1.0), 0.0
        self._dots: tuple[object, QPixmap] | None = None
        self._dragging = False
        self.setMinimumHeight(150)
        self.setMouseTracking(True)
        self.setAccessibleName("What hours buy")

    def sizeHint(self) -> QSize:
        return QSize(480, 220)

    def show_frontier(self, shown: Frontier | None, words: Mapping[int, str]) -> None:
        """Show a shot's frontier, with words for each option; None where nothing is known."""
        self._shown, self._words = shown, words
        self.ends = (1.0, 1.0) if shown is None else _ends_of(shown)
        self._first = 0.0 if shown is None else _first_of(shown, self.ends[0])
        if shown is not None and shown.plan is not None:
            self.setAccessibleDescription(
                f"Plan: {shown.plan.hours:.3g} {shown.unit}, {shown.names[1]} {shown.plan.error:.2f}"
            )
        self.update()

    # Scales

    def point(self, hours: float, error: float) -> QPointF:
        """Return where hours and an error lie on the widget."""
        right, top = self.ends
        x = _LEFT + (hours - self._first) / (right - self._first) * (self.width() - _LEFT - _RIGHT)
        return QPointF(x, self.height() - _BOTTOM - error / top * (self.height() - _TOP - _BOTTOM))

    def _inside(self) -> QRectF:
        return QRectF(_LEFT, _TOP, self.width() - _LEFT - _RIGHT, self.height() - _TOP - _BOTTOM)

    # Painting

    def paintEvent(self, _event: QPaintEvent) -> None:
        if self._shown is None:
            return
        self._labels: list[QRectF] = []
        with QPainter(self) as painter:
            painter.setRenderHint(QPainter.RenderHint.Antialiasing)
            painter.setFont(font(SMALL))
            self._paint_good(painter)
            self._paint_scales(painter)
            painter.setClipRect(self._inside().adjusted(-1, -1, 1, 1))
            self._paint_dots(painter)
            self._paint_limits(painter)
            self._paint_judged(painter)
            self._paint_marks(painter)

    def _paint_good(self, painter: QPainter) -> None:
        shown, inside = self._shown, self._inside()
        assert shown is not None
        if np.isnan(shown.ceiling):
            return
        corner = self.point(max(shown.left, 0.0), shown.ceiling)
        good = QRectF(QPointF(inside.left(), max(corner.y(), inside.top())),
                      QPointF(min(corner.x(), inside.right()), inside.bottom()))  # fmt: skip
        if good.width() > 1 and good.height() > 1:
            painter.fillRect(good, mixed(colours().time_light, colours().sheet, 0.45))
            painter.setPen(colours().time)
            words, room = "passes, and in time", good.adjusted(6, 0, -6, -3)
            if painter.fontMetrics().horizontalAdvance(words) > room.width():
                words = "passes"
            painter.drawText(room, Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignBottom, words)

    def _paint_scales(self, painter: QPainter) -> None:
        shown, palette, inside = self._shown, colours(), self._inside()
        assert shown is not None
        right, top = self.ends
        for step in nice_steps(top, 4):
            y = self.point(0, step).y()
            painter.setPen(QPen(palette.line, 1))
            painter.drawLine(QPointF(inside.left(), y), QPointF(inside.right(), y))
            painter.setPen(palette.second)
            words = QRectF(0, y - 8, _LEFT - 8, 16)
            painter.drawText(words, Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter, f"{step:g}")
        for step in nice_steps(right, 5, self._first):
            x = self.point(step, 0).x()
            painter.drawText(QRectF(x - 30, inside.bottom() + 3, 60, 14), Qt.AlignmentFlag.AlignCenter, f"{step:g}")
        painter.drawText(QRectF(0, 0, 200, 16), Qt.AlignmentFlag.AlignVCenter, shown.names[1])
        below = QRectF(0, self.height() - 16, self.width() - 12, 15)
        named = painter.fontMetrics().elidedText(shown.names[0], Qt.TextElideMode.ElideRight, int(below.width()))
        painter.drawText(below, Qt.AlignmentFlag.AlignRight, named)

    def _paint_dots(self, painter: QPainter) -> None:
        """Paint all options: once, as long as they and the scales stay, while marks and limits move."""
        shown, palette = self._shown, colours()
        assert shown is not None
        key = (shown.dots, self.ends, self._first, self.size().toTuple(), palette.name, self.devicePixelRatioF())
        if self._dots is None or self._dots[0] != key:
            pixmap = QPixmap(self.size() * self.devicePixelRatioF())
            pixmap.setDevicePixelRatio(self.devicePixelRatioF())
            pixmap.fill(Qt.GlobalColor.transparent)
            with QPainter(pixmap) as inner:
                inner.setRenderHint(QPainter.RenderHint.Antialiasing)
                inner.setPen(Qt.PenStyle.NoPen)
                inner.setBrush(mixed(palette.second, palette.sheet, 0.45))
                for dot in shown.dots:
                    inner.drawEllipse(self.point(dot.hours, dot.error), _DOT, _DOT)
                inner.setBrush(Qt.BrushStyle.NoBrush)
                inner.setPen(QPen(palette.picture, 2))
                inner.drawPolyline(QPolygonF([self.point(point.hours, point.error) for point in shown.line]))
            self._dots = key, pixmap
        painter.drawPixmap(0, 0, self._dots[1])

    def _paint_limits(self, painter: QPainter) -> None:
        shown, palette, inside = self._shown, colours(), self._inside()
        assert shown is not None
        painter.setFont(bold(SMALL))
        if not np.isnan(shown.ceiling):
            y = self.point(0, shown.ceiling).y()
            painter.setPen(QPen(palette.limit, 1.5, Qt.PenStyle.DashLine))
            painter.drawLine(QPointF(inside.left(), y), QPointF(inside.right(), y))
            # At the left and under the line: the best and the marks lie farther right, or above.
            self._paint_limit_words(painter, inside.left() + 6, y + 2, shown.limits[1])
        x = self.point(max(shown.left, 0.0), 0).x()
        if x <= inside.right():
            painter.setPen(QPen(palette.limit, 2))
            painter.drawLine(QPointF(x, inside.top()), QPointF(x, inside.bottom()))
            beyond = "◂ " if x < inside.left() else ""  # fewer hours than any that are shown
            self._paint_limit_words(painter, x + 5, inside.top(), beyond + shown.limits[0])

    def _paint_limit_words(self, painter: QPainter, x: float, y: float, words: str) -> None:
        """Write what a line is, on paper of its own: dots may lie there."""
        inside = self._inside()
        words = painter.fontMetrics().elidedText(words, Qt.TextElideMode.ElideRight, int(inside.width()) - 4)
        width = painter.fontMetrics().horizontalAdvance(words) + 2
        left = max(min(x, inside.right() - width), inside.left() + 1)
        room = self._free_place(QRectF(left, y, width, 15))
        painter.fillRect(room, colours().sheet)
        painter.setPen(colours().limit)
        painter.drawText(room, Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter, words)

    def _paint_judged(self, painter: QPainter) -> None:
        """Paint what somebody marked: a filled triangle that passed, a cross that did not."""
        shown, palette = self._shown, colours()
        assert shown is not None
        for mark in shown.marks:
            at = self.point(mark.hours, mark.error)
            painter.setPen(QPen(palette.picture if mark.passed else palette.limit, 2))
            if mark.passed:
                painter.setBrush(palette.picture)
                painter.drawPolygon(QPolygonF([at + QPointF(x, y) for x, y in ((-5, -4), (5, -4), (0, 5))]))
            else:
                painter.drawLine(at + QPointF(-4, -4), at + QPointF(4, 4))
                painter.drawLine(at + QPointF(-4, 4), at + QPointF(4, -4))

    def _paint_marks(self, painter: QPainter) -> None:
        shown, palette = self._shown, colours()
        assert shown is not None
        painter.setFont(bold(SMALL))
        painter.setPen(QPen(palette.ink, 2))
        asked, plan = shown.asked, shown.plan
        same = asked is not None and plan is not None and _close(asked, plan)
        if asked is not None:
            at = self.point(asked.hours, asked.error)
            painter.setBrush(palette.sheet)
            painter.drawRect(QRectF(at.x() - _MARK, at.y() - _MARK, 2 * _MARK, 2 * _MARK))
            self._name(painter, at, "as asked, and plan" if same else "as asked")
        if plan is not None and not same:
            at = self.point(plan.hours, plan.error)
            painter.setBrush(palette.ink)
            painter.drawEllipse(at, _MARK, _MARK)
            self._name(painter, at, "plan now")

    def _name(self, painter: QPainter, at: QPointF, words: str) -> None:
        width = painter.fontMetrics().horizontalAdvance(words)
        left = at.x() + 10 if at.x() + 14 + width < self._inside().right() else at.x() - 10 - width
        top = self._free_place(QRectF(left - 2, at.y() - 20, width + 4, 15))
        painter.fillRect(top, colours().sheet)
        painter.drawText(top, Qt.AlignmentFlag.AlignCenter, words)

    def _free_place(self, room: QRectF) -> QRectF:
        """Return a place for a label where no other one lies, as near as can be."""
        for down in (0, 30, -16, 46, -32):
            here = room.translated(0, down)
            if self._inside().contains(here) and not any(here.intersects(other) for other in self._labels):
                self._labels.append(here)
                return here
        self._labels.append(room)
        return room

    # Hands

    def _nearest(self, at: QPointF, among: Sequence[P]) -> tuple[float, P | None]:
        best, found = np.inf, None
        for one in among:
            away = self.point(one.hours, one.error) - at
            size = float(np.hypot(away.x(), away.y()))
            if size < best:
                best, found = size, one
        return best, found

    def mousePressEvent(self, event: QMouseEvent) -> None:
        if self._shown is None or event.button() is not Qt.MouseButton.LeftButton:
            return
        plan = self._shown.plan
        away, near = self._nearest(event.position(), self._shown.dots or self._shown.line)
        on_plan = plan is not None and self._nearest(event.position(), [plan])[0] <= _NEAR
        # A dot that is nearer than the line is meant itself; on the line a drag begins.
        on_line = near in self._shown.line and away <= _NEAR
        self._dragging = on_plan or on_line
        if self._dragging:
            self._drag(event.position())
        elif near is not None and away <= _NEAR:
            self.taken.emit(near.place)
            self.let_go.emit()

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if self._shown is None:
            return
        if self._dragging:
            self._drag(event.position())
            return
        marked, judged = self._nearest(event.position(), self._shown.marks)
        if judged is not None and marked <= _NEAR / 2:
            show_tip(event.globalPosition().toPoint(), judged.words, self)
            return
        away, near = self._nearest(event.position(), self._shown.dots or self._shown.line)
        words = "" if near is None or away > _NEAR else self._words.get(near.place, "")
        if words and near is not None:
            what = f"{round_figures(near.hours)} {self._shown.unit}, {self._shown.names[1]} {near.error:.2f}"
            words += f"\n{what}. Click to take it."
        show_tip(event.globalPosition().toPoint(), words, self)

    def mouseReleaseEvent(self, _event: QMouseEvent) -> None:
        if self._dragging:
            self._dragging = False
            self.let_go.emit()

    def _drag(self, at: QPointF) -> None:
        assert self._shown is not None
        _, near = self._nearest(at, self._shown.line)
        if near is not None:
            self.taken.emit(near.place)


def _ends_of(shown: Frontier) -> tuple[float, float]:
    marks: list[Point | MarkedPoint] = [point for point in (shown.asked, shown.plan, *shown.marks) if point is not None]
    known = [] if np.isnan(shown.ceiling) else [shown.ceiling]
    hours = max([point.hours for point in marks], default=1.0)
    error = max([*(point.error for point in marks), *known], default=1.0)
    # As far up as the best goes for a third of the hours, but not so far that the rest lies at the bottom.
    cheap = [point.error for point in shown.line if point.hours >= hours / 3]
    error = max(error, min(max(cheap, default=0.0), 4 * error) / 1.4)
    # In steps of a quarter more, so that scales hardly move while a mark is dragged.
    return _above(1.1 * hours), _above(1.4 * error)


def _first_of(shown: Frontier, right: float) -> float:
    """Return where the scale of hours begins: at nothing, or a little before the quickest there is."""
    points: list[Point | MarkedPoint] = [*shown.line, *(p for p in (shown.asked, shown.plan, *shown.marks) if p)]
    quickest = min((point.hours for point in points), default=0.0)
    if quickest < right / 3:
        return 0.0
    step = nice_step(right, 5)
    return max(0.0, (0.9 * quickest // step) * step)


def _above(value: float) -> float:
    return float(1.25 ** np.ceil(np.log(max(value, 1e-6)) / np.log(1.25)))


def _close(point: Point, other: Point) -> bool:
    return abs(point.hours - other.hours) < 1e-6 + 1e-6 * point.hours and abs(point.error - other.error) < 1e-6
