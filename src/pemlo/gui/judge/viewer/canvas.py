"""Shows one or two pictures: next to each other, split by a line, swapped in place, or their difference. GUI thread.

Pictures come ready as images at whole, half and quarter size, so that painting copies pixels and never works on them.
"""

from PySide6.QtCore import QPointF, QSize, Qt, Signal
from PySide6.QtGui import QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QWheelEvent
from PySide6.QtWidgets import QWidget

from pemlo.core.pixels.box import Box
from pemlo.gui.common.colours import SURROUND
from pemlo.gui.common.wheel import WheelSteps
from pemlo.gui.judge.viewer.overlays import Overlay
from pemlo.gui.judge.viewer.painting import Painting, Sizes
from pemlo.gui.judge.viewer.placement import Mode, Placement

_PAN_STEP = 60


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
        self.placement = Placement(self)
        self.region: Box | None = None
        self.spot: tuple[Box, str] | None = None
        self.overlay: Overlay | None = None
        self.drawing_region = False
        self._wheel = WheelSteps()
        self._sizes: dict[str, Sizes] = {}
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
        self.placement.names = set(sizes)
        first = sizes.get("left") or sizes.get("right")
        size = first.images[0].size() if first else QSize()
        if size != self.placement.picture:
            self.placement.picture = size
            self.region, self.spot, self.overlay = None, None, None
            self.fit()
        self.update()

    def say(self, left: str, right: str) -> None:
        """Name the pictures, on them."""
        self._words = {"left": left, "right": right}
        self.update()

    def show_mode(self, mode: Mode) -> None:
        self.placement.mode = mode
        self.update()

    def swap(self) -> None:
        """Show the other picture in the same place."""
        self.placement.mode = Mode.SWAP
        self.placement.showing_second = not self.placement.showing_second
        self.update()

    def turn_line(self) -> None:
        """Turn the line that splits the pictures."""
        self.placement.upright = not self.placement.upright
        self.update()

    # Zoom and pan

    def fit(self) -> None:
        """Show the whole picture, at the largest zoom at which it fits."""
        size = self.placement.picture
        self.placement.centre = QPointF(size.width() / 2, size.height() / 2)
        self.set_zoom(self.placement.fitting_zoom())

    def set_zoom(self, zoom: float, at: QPointF | None = None) -> None:
        """Zoom, and keep the place under a point of the widget where it is."""
        self.placement.zoom_to(zoom, at)
        self.update()
        self.zoom_changed.emit(zoom)

    def step_zoom(self, steps: int, at: QPointF | None = None) -> None:
        """Zoom by steps; more than none is nearer."""
        self.set_zoom(self.placement.next_zoom(steps), at)

    def go_to(self, box: Box) -> None:
        """Bring a part of the picture to the middle."""
        self.placement.centre = QPointF((box[0] + box[2]) / 2, (box[1] + box[3]) / 2)
        self.update()

    def paintEvent(self, _event: QPaintEvent) -> None:
        with QPainter(self) as painter:
            painter.fillRect(self.rect(), SURROUND)
            if self._sizes:
                self.paint_on(painter, self.placement)

    def paint_on(self, painter: QPainter, placement: Placement) -> None:
        """Paint what is shown as something else places it."""
        boxes = (self.region, "region"), self.spot or (None, "")
        Painting(painter, placement).pictures(self._sizes, self.overlay, boxes, self._words)

    @property
    def shows_pictures(self) -> bool:
        """Whether there is a picture to be seen, once it is loaded."""
        return any(name in self._sizes for name, _ in self.placement.views())

    # Hands

    def mousePressEvent(self, event: QMouseEvent) -> None:
        at = event.position()
        if event.button() is not Qt.MouseButton.LeftButton or not self._sizes:
            return
        if self.drawing_region or event.modifiers() & Qt.KeyboardModifier.ShiftModifier:
            self._grabbed, self._from = "region", self.placement.place(at)
        elif self.placement.is_split and self.placement.line_rect().contains(at):
            self._grabbed = "line"
        else:
            self._grabbed, self._from = "picture", at
            self.setCursor(Qt.CursorShape.ClosedHandCursor)

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        at = event.position()
        if self._grabbed == "line":
            share = at.x() / max(self.width(), 1) if self.placement.upright else at.y() / max(self.height(), 1)
            self.placement.line = min(max(share, 0.0), 1.0)
        elif self._grabbed == "picture":
            self.placement.centre -= (at - self._from) / self.placement.scale
            self._from = at
        elif self._grabbed == "region":
            self.region = self.placement.box_between(self._from, self.placement.place(at))
        if self._grabbed:
            self.update()
        place, picture = self.placement.place(at), self.placement.picture
        inside = 0 <= place.x() < picture.width() and 0 <= place.y() < picture.height()
        self.hovered.emit((int(place.x()), int(place.y())) if inside else None)

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        if self._grabbed == "region":
            box = self.placement.box_between(self._from, self.placement.place(event.position()))
            # A click without a drag takes the region away.
            self.region = box if box is not None and min(box[2] - box[0], box[3] - box[1]) >= 4 else None
            self.update()
            self.region_drawn.emit(self.region)
        self._grabbed = ""
        self.setCursor(Qt.CursorShape.CrossCursor if self.drawing_region else Qt.CursorShape.ArrowCursor)

    def leaveEvent(self, event: object) -> None:  # noqa: ARG002 - Qt's signature
        self.hovered.emit(None)

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
        self.placement.centre += step * _PAN_STEP / self.placement.scale
        self.update()
