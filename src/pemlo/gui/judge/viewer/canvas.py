"""Paints one or two pictures: next to each other, split by a line, swapped in place, or their difference. GUI thread.

Pictures come ready as images at whole, half and quarter size, so that painting copies pixels and never works on them.
From 100 % up each pixel is a square; nothing is smoothed.
"""

from dataclasses import dataclass
from enum import Enum

from PySide6.QtCore import QPointF, QRect, QRectF, QSize, Qt, Signal
from PySide6.QtGui import QImage, QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen, QWheelEvent
from PySide6.QtWidgets import QWidget

from pemlo.core.pixels.box import Box
from pemlo.gui.common.colours import ON_PICTURE, SURROUND, UNDER_PICTURE
from pemlo.gui.common.fonts import SMALL, font
from pemlo.gui.common.wheel import WheelSteps
from pemlo.gui.judge.viewer.overlays import Overlay

ZOOMS = (0.25, 0.5, 1.0, 2.0, 3.0, 4.0, 6.0, 8.0, 12.0, 16.0)
_GRIP = 9
_GAP = 2
_PAN_STEP = 60


class Mode(Enum):
    """How two pictures are shown."""

    SPLIT = "split"
    BESIDE = "next to each other"
    SWAP = "swap"
    DIFFERENCE = "difference"


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


class Canvas(QWidget):
    """The pictures, with what lies over them.

    Signals
    -------
    hovered(object)
        (x, y) of the pixel under the cursor, or None.
    region_drawn(object)
        Left, top, right and bottom edge of a region drawn by hand, px; None when it is taken away.
    zoom_changed(float)
    """

    hovered = Signal(object)
    region_drawn = Signal(object)
    zoom_changed = Signal(float)

    def __init__(self) -> None:
        super().__init__()
        self.mode = Mode.SPLIT
        self.upright = True
        self.zoom = 1.0
        self.region: Box | None = None
        self.spot: tuple[Box, str] | None = None
        self.overlay: Overlay | None = None
        self.showing_second = False
        self.drawing_region = False
        self._wheel = WheelSteps()
        self._sizes: dict[str, Sizes] = {}
        self._picture = QSize()
        self._centre = QPointF()
        self._line = 0.5
        self._grabbed = ""
        self._from = QPointF()
        self._words: dict[str, str] = {}
        self.setMouseTracking(True)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName("Pictures")
        self.setMinimumSize(320, 200)

    def sizeHint(self) -> QSize:
        return QSize(820, 460)

    # What is shown

    def show_pictures(self, sizes: dict[str, Sizes]) -> None:
        """Show pictures: ``left``, ``right`` and ``difference``, those that there are, all of one size."""
        self._sizes = sizes
        first = sizes.get("left") or sizes.get("right")
        size = first.images[0].size() if first else QSize()
        if size != self._picture:
            self._picture = size
            self.region, self.spot, self.overlay = None, None, None
            self.fit()
        self.update()

    def say(self, left: str, right: str) -> None:
        """Name the pictures, on them."""
        self._words = {"left": left, "right": right}
        self.update()

    def show_mode(self, mode: Mode) -> None:
        self.mode = mode
        self.update()

    def swap(self) -> None:
        """Show the other picture in the same place."""
        self.mode = Mode.SWAP
        self.showing_second = not self.showing_second
        self.update()

    def turn_line(self) -> None:
        """Turn the line that splits the pictures."""
        self.upright = not self.upright
        self.update()

    # Zoom and pan

    def fit(self) -> None:
        """Show the whole picture, at the largest zoom at which it fits."""
        self._centre = QPointF(self._picture.width() / 2, self._picture.height() / 2)
        view = self._views()[0][1]
        room = (
            min(view.width() / max(self._picture.width(), 1), view.height() / max(self._picture.height(), 1))
            * self.devicePixelRatioF()
        )
        self.set_zoom(max((zoom for zoom in ZOOMS if zoom <= room), default=ZOOMS[0]))

    def set_zoom(self, zoom: float, at: QPointF | None = None) -> None:
        """Zoom, and keep the place under a point of the widget where it is."""
        if at is not None:
            before = self._place(at)
            self._centre += (before - self._centre) * (1 - self.zoom / zoom)
        self.zoom = zoom
        self.update()
        self.zoom_changed.emit(zoom)

    def step_zoom(self, steps: int, at: QPointF | None = None) -> None:
        """Zoom by steps; more than none is nearer."""
        place = min(range(len(ZOOMS)), key=lambda k: abs(ZOOMS[k] - self.zoom))
        self.set_zoom(ZOOMS[min(max(place + steps, 0), len(ZOOMS) - 1)], at)

    def go_to(self, box: Box) -> None:
        """Bring a part of the picture to the middle."""
        self._centre = QPointF((box[0] + box[2]) / 2, (box[1] + box[3]) / 2)
        self.update()

    @property
    def centre(self) -> tuple[float, float]:
        """The place of the picture that is in the middle, px."""
        return self._centre.x(), self._centre.y()

    # Geometry

    @property
    def _scale(self) -> float:
        """Widget units a picture pixel."""
        return self.zoom / self.devicePixelRatioF()

    def _views(self) -> list[tuple[str, QRectF]]:
        """Return which picture is painted where."""
        whole = QRectF(self.rect())
        if self.mode is Mode.BESIDE and {"left", "right"} <= set(self._sizes):
            half = (whole.width() - _GAP) / 2
            return [
                ("left", QRectF(0, 0, half, whole.height())),
                ("right", QRectF(half + _GAP, 0, half, whole.height())),
            ]
        if self.mode is Mode.DIFFERENCE and "difference" in self._sizes:
            return [("difference", whole)]
        if self.mode is Mode.SPLIT and {"left", "right"} <= set(self._sizes):
            return [("left", whole), ("right", whole)]
        names = ("right", "left") if self.showing_second else ("left", "right")
        return [(next((name for name in names if name in self._sizes), "left"), whole)]

    def _view_at(self, at: QPointF) -> QRectF:
        views = self._views()
        return next((view for _, view in views if view.contains(at)), views[0][1])

    def _place(self, at: QPointF) -> QPointF:
        """Return which place of the picture is at a point of the widget."""
        return self._centre + (at - self._view_at(at).center()) / self._scale

    def _point(self, place: QPointF, view: QRectF) -> QPointF:
        return view.center() + (place - self._centre) * self._scale

    def _box_rect(self, box: Box, view: QRectF) -> QRectF:
        return QRectF(self._point(QPointF(box[0], box[1]), view), self._point(QPointF(box[2], box[3]), view))

    def _line_rect(self) -> QRectF:
        """Return where the line can be taken."""
        if self.upright:
            return QRectF(self._line * self.width() - _GRIP, 0, 2 * _GRIP, self.height())
        return QRectF(0, self._line * self.height() - _GRIP, self.width(), 2 * _GRIP)

    # Painting

    def paintEvent(self, _event: QPaintEvent) -> None:
        with QPainter(self) as painter:
            painter.fillRect(self.rect(), SURROUND)
            if not self._sizes:
                return
            views = self._views()
            split = self.mode is Mode.SPLIT and len(views) == 2
            for name, view in views:
                painter.setClipRect(self._side(name) if split else view)
                self._paint_picture(painter, name, view)
                self._paint_over(painter, view)
            painter.setClipping(False)
            if split:
                self._paint_line(painter)
            self._paint_words(painter, views, split=split)

    def _side(self, name: str) -> QRectF:
        whole = QRectF(self.rect())
        if self.upright:
            whole.setRight(self._line * self.width()) if name == "left" else whole.setLeft(self._line * self.width())
        elif name == "left":
            whole.setBottom(self._line * self.height())
        else:
            whole.setTop(self._line * self.height())
        return whole

    def _paint_picture(self, painter: QPainter, name: str, view: QRectF) -> None:
        image, times = self._sizes[name].for_zoom(self.zoom)
        shrunk = times / self.zoom  # picture pixels for one of the image, on a side
        first = self._place(view.topLeft() + QPointF(0.01, 0.01)) / shrunk
        last = self._place(view.bottomRight() - QPointF(0.01, 0.01)) / shrunk
        left, top = max(int(first.x()), 0), max(int(first.y()), 0)
        right, bottom = min(int(last.x()) + 1, image.width()), min(int(last.y()) + 1, image.height())
        if right <= left or bottom <= top:
            return
        corner = self._point(QPointF(left, top) * shrunk, view)
        each = times / self.devicePixelRatioF()
        if times >= 1:
            # On whole points, so that every pixel is as wide as its neighbour.
            corner = QPointF(round(corner.x()), round(corner.y()))
        target = QRectF(corner.x(), corner.y(), (right - left) * each, (bottom - top) * each)
        painter.drawImage(target, image, QRectF(left, top, right - left, bottom - top))

    def _paint_over(self, painter: QPainter, view: QRectF) -> None:
        if self.overlay is not None:
            self.overlay(painter, lambda box: self._box_rect(box, view))
        for box, words in ((self.region, "region"), self.spot or (None, "")):
            if box is None:
                continue
            rect = self._box_rect(box, view)
            painter.setPen(QPen(UNDER_PICTURE, 3))
            painter.drawRect(rect)
            painter.setPen(QPen(ON_PICTURE, 1))
            painter.drawRect(rect)
            self._paint_text(painter, rect.topLeft() - QPointF(0, 20), words)

    def _paint_line(self, painter: QPainter) -> None:
        rect = self._line_rect()
        middle = rect.center()
        ends = (
            (QPointF(middle.x(), 0), QPointF(middle.x(), self.height()))
            if self.upright
            else (QPointF(0, middle.y()), QPointF(self.width(), middle.y()))
        )
        for colour, width in ((UNDER_PICTURE, 3), (ON_PICTURE, 1)):
            painter.setPen(QPen(colour, width))
            painter.drawLine(*ends)
        grip = QRectF(0, 0, 12, 26) if self.upright else QRectF(0, 0, 26, 12)
        grip.moveCenter(middle)
        painter.setBrush(ON_PICTURE)
        painter.setPen(QPen(UNDER_PICTURE, 1))
        painter.drawRect(grip)
        painter.setBrush(Qt.BrushStyle.NoBrush)

    def _paint_words(self, painter: QPainter, views: list[tuple[str, QRectF]], *, split: bool) -> None:
        for name, view in views:
            words = self._words.get(name, "")
            if not words:
                continue
            at_right = split and name == "right"
            bottom = at_right and not self.upright
            top = view.bottom() - 26 if bottom else view.top() + 6
            left = view.left() + 8
            if at_right and self.upright:
                left = view.right() - painter.fontMetrics().horizontalAdvance(words) - 20
            self._paint_text(painter, QPointF(left, top), words)

    def _paint_text(self, painter: QPainter, at: QPointF, words: str) -> None:
        """Write on a picture, readable on any."""
        painter.setFont(font(SMALL))
        width = painter.fontMetrics().horizontalAdvance(words) + 10
        at = QPointF(min(max(at.x(), 2), max(self.width() - width - 2, 2)), min(max(at.y(), 2), self.height() - 20))
        rect = QRectF(at.x(), at.y(), width, 18)
        painter.fillRect(rect, UNDER_PICTURE)
        painter.setPen(ON_PICTURE)
        painter.drawText(rect, Qt.AlignmentFlag.AlignCenter, words)

    # Hands

    def mousePressEvent(self, event: QMouseEvent) -> None:
        at = event.position()
        split = self.mode is Mode.SPLIT and len(self._views()) == 2
        if event.button() is not Qt.MouseButton.LeftButton or not self._sizes:
            return
        if self.drawing_region or event.modifiers() & Qt.KeyboardModifier.ShiftModifier:
            self._grabbed, self._from = "region", self._place(at)
        elif split and self._line_rect().contains(at):
            self._grabbed = "line"
        else:
            self._grabbed, self._from = "picture", at
            self.setCursor(Qt.CursorShape.ClosedHandCursor)

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        at = event.position()
        if self._grabbed == "line":
            share = at.x() / max(self.width(), 1) if self.upright else at.y() / max(self.height(), 1)
            self._line = min(max(share, 0.0), 1.0)
        elif self._grabbed == "picture":
            self._centre -= (at - self._from) / self._scale
            self._from = at
        elif self._grabbed == "region":
            self.region = self._drawn(self._from, self._place(at))
        if self._grabbed:
            self.update()
        self._tell_hover(at)

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        if self._grabbed == "region":
            box = self._drawn(self._from, self._place(event.position()))
            # A click without a drag takes the region away.
            self.region = box if box is not None and min(box[2] - box[0], box[3] - box[1]) >= 4 else None
            self.update()
            self.region_drawn.emit(self.region)
        self._grabbed = ""
        self.unsetCursor()

    def _drawn(self, one: QPointF, other: QPointF) -> Box | None:
        rect = QRectF(one, other).normalized().toAlignedRect().intersected(QRect(0, 0, *self._picture.toTuple()))
        return None if rect.isEmpty() else (rect.left(), rect.top(), rect.right() + 1, rect.bottom() + 1)

    def leaveEvent(self, event: object) -> None:  # noqa: ARG002 - Qt's signature
        self.hovered.emit(None)

    def _tell_hover(self, at: QPointF) -> None:
        place = self._place(at)
        x, y = int(place.x()), int(place.y())
        inside = 0 <= place.x() < self._picture.width() and 0 <= place.y() < self._picture.height()
        self.hovered.emit((x, y) if inside else None)

    def wheelEvent(self, event: QWheelEvent) -> None:
        steps = self._wheel.of(event)
        if steps:
            self.step_zoom(steps, event.position())
        event.accept()

    def keyPressEvent(self, event: QKeyEvent) -> None:
        steps = {
            Qt.Key.Key_Left: QPointF(-1, 0), Qt.Key.Key_Right: QPointF(1, 0),
            Qt.Key.Key_Up: QPointF(0, -1), Qt.Key.Key_Down: QPointF(0, 1),
        }  # fmt: skip
        step = steps.get(Qt.Key(event.key()))
        if step is None:
            super().keyPressEvent(event)
            return
        self._centre += step * _PAN_STEP / self._scale
        self.update()
