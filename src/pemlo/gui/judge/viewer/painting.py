"""Paints pictures and what lies over them. GUI thread.

Pixels are copied and never worked on, so that a pan stays smooth. From 100 % up each pixel is a square, and nothing
is smoothed.
"""

from collections.abc import Mapping
from dataclasses import dataclass
from functools import partial

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QImage, QPainter, QPen

from pemlo.core.pixels.box import Box
from pemlo.gui.common.colours import ON_PICTURE, UNDER_PICTURE
from pemlo.gui.common.fonts import SMALL, font
from pemlo.gui.judge.viewer.overlays import Overlay
from pemlo.gui.judge.viewer.placement import Placement


@dataclass(frozen=True)
class Sizes:
    """One picture at whole, half and quarter size."""

    images: tuple[QImage, ...]

    def for_zoom(self, zoom: float) -> tuple[QImage, float]:
        """Return the image to paint from, and by how much its pixels are enlarged."""
        level = 0
        while zoom < 1 and level + 1 < len(self.images):
            zoom, level = zoom * 2, level + 1
        return self.images[level], zoom


class Painting:
    """One painting of the canvas: a painter, and where things lie."""

    def __init__(self, painter: QPainter, placement: Placement) -> None:
        self._painter, self._placement = painter, placement

    def pictures(
        self,
        sizes: Mapping[str, Sizes],
        overlay: Overlay | None,
        boxes: tuple[tuple[Box | None, str], ...],
        words: Mapping[str, str],
    ) -> None:
        """Paint all of them, boxes that are marked with what they are, and the names."""
        placement, painter = self._placement, self._painter
        split = placement.is_split
        views = [(name, view) for name, view in placement.views() if name in sizes]
        for name, view in views:
            painter.setClipRect(placement.side(name) if split else view)
            self._picture(sizes[name], view)
            if overlay is not None:
                overlay(painter, partial(placement.box_rect, view=view))
            for box, what in boxes:
                if box is not None:
                    self._box(placement.box_rect(box, view), what)
        painter.setClipping(False)
        if split:
            self._line()
        for name, view in views:
            self._name(name, view, words.get(name, ""), split=split)

    def _picture(self, sizes: Sizes, view: QRectF) -> None:
        placement = self._placement
        image, times = sizes.for_zoom(placement.zoom)
        shrunk = times / placement.zoom  # picture pixels for one of the image, on a side
        first = placement.place(view.topLeft() + QPointF(0.01, 0.01)) / shrunk
        last = placement.place(view.bottomRight() - QPointF(0.01, 0.01)) / shrunk
        left, top = max(int(first.x()), 0), max(int(first.y()), 0)
        right, bottom = min(int(last.x()) + 1, image.width()), min(int(last.y()) + 1, image.height())
        if right <= left or bottom <= top:
            return
        corner = placement.point(QPointF(left, top) * shrunk, view)
        each = placement.scale * times / placement.zoom
        if times >= 1:
            # On whole points, so that every pixel is as wide as its neighbour.
            corner = QPointF(round(corner.x()), round(corner.y()))
        target = QRectF(corner.x(), corner.y(), (right - left) * each, (bottom - top) * each)
        self._painter.drawImage(target, image, QRectF(left, top, right - left, bottom - top))

    def _box(self, rect: QRectF, what: str) -> None:
        painter = self._painter
        painter.setPen(QPen(UNDER_PICTURE, 3))
        painter.drawRect(rect)
        painter.setPen(QPen(ON_PICTURE, 1))
        painter.drawRect(rect)
        self._text(rect.topLeft() - QPointF(0, 20), what)

    def _line(self) -> None:
        painter, upright = self._painter, self._placement.upright
        rect = self._placement.line_rect()
        middle = rect.center()
        ends = (
            (QPointF(middle.x(), 0), QPointF(middle.x(), rect.bottom()))
            if upright
            else (QPointF(0, middle.y()), QPointF(rect.right(), middle.y()))
        )
        for colour, width in ((UNDER_PICTURE, 3), (ON_PICTURE, 1)):
            painter.setPen(QPen(colour, width))
            painter.drawLine(*ends)
        grip = QRectF(0, 0, 12, 26) if upright else QRectF(0, 0, 26, 12)
        grip.moveCenter(middle)
        painter.setBrush(ON_PICTURE)
        painter.setPen(QPen(UNDER_PICTURE, 1))
        painter.drawRect(grip)
        painter.setBrush(Qt.BrushStyle.NoBrush)

    def _name(self, name: str, view: QRectF, words: str, *, split: bool) -> None:
        if not words:
            return
        upright, is_second = self._placement.upright, split and name == "right"
        top = view.bottom() - 26 if is_second and not upright else view.top() + 6
        left = view.left() + 8
        if is_second and upright:
            left = view.right() - self._painter.fontMetrics().horizontalAdvance(words) - 20
        self._text(QPointF(left, top), words)

    def _text(self, at: QPointF, words: str) -> None:
        """Write on a picture, readable on any."""
        painter, whole = self._painter, self._placement.whole
        painter.setFont(font(SMALL))
        width = painter.fontMetrics().horizontalAdvance(words) + 10
        at = QPointF(min(max(at.x(), 2), max(whole.width() - width - 2, 2)), min(max(at.y(), 2), whole.height() - 20))
        rect = QRectF(at.x(), at.y(), width, 18)
        painter.fillRect(rect, UNDER_PICTURE)
        painter.setPen(ON_PICTURE)
        painter.drawText(rect, Qt.AlignmentFlag.AlignCenter, words)
