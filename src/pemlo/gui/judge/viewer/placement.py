"""Where pictures lie on the canvas: zoom, middle, the line that splits them - lengths in widget units. GUI thread."""

from enum import Enum

from PySide6.QtCore import QPointF, QRect, QRectF, QSize
from PySide6.QtWidgets import QWidget

from pemlo.core.pixels.box import Box

ZOOMS = (0.25, 0.5, 1.0, 2.0, 3.0, 4.0, 6.0, 8.0, 12.0, 16.0)
_GRIP = 9
_GAP = 2
PAIR = {"left", "right"}


class Mode(Enum):
    """How two pictures are shown."""

    SPLIT = "split"
    BESIDE = "next to each other"
    SWAP = "swap"
    DIFFERENCE = "difference"


class Placement:
    """Relates places of the pictures (px) to points of a widget.

    Attributes
    ----------
    mode : Mode
    upright : bool
        Which way the line that splits them goes.
    zoom : float
        Screen pixels a picture pixel.
    centre : QPointF
        The place of the picture that is in the middle, px.
    line : float
        Where the line is, as a share of the widget.
    showing_second : bool
        Whether the right one is shown where there is room for one.
    names : set of str
        Which there are of ``left``, ``right`` and ``difference``.
    """

    def __init__(self, widget: QWidget) -> None:
        self._widget = widget
        self.mode, self.upright, self.showing_second = Mode.SPLIT, True, False
        self.zoom, self.line = 1.0, 0.5
        self.picture, self.centre = QSize(), QPointF()
        self.names: set[str] = set()

    def of_whole_pictures(self, paper: QWidget) -> "Placement":
        """Return a placement that shows the same with every pixel, on a widget that is made as large as that takes."""
        made = Placement(paper)
        made.mode, made.upright, made.showing_second = self.mode, self.upright, self.showing_second
        made.line, made.picture, made.names = self.line, self.picture, self.names
        across, down = self.picture.toTuple()
        beside = self.mode is Mode.BESIDE and self.names >= PAIR
        paper.resize(2 * across + _GAP if beside else across, down)
        made.centre, made.zoom = QPointF(across / 2, down / 2), paper.devicePixelRatioF()
        return made

    @property
    def whole(self) -> QRectF:
        """The widget."""
        return QRectF(self._widget.rect())

    @property
    def is_split(self) -> bool:
        """Whether a line splits two pictures."""
        return self.mode is Mode.SPLIT and self.names >= PAIR

    def fitting_zoom(self) -> float:
        """Return the largest zoom at which the whole picture fits."""
        view = self.views()[0][1]
        across, down = (max(edge, 1) for edge in (self.picture.width(), self.picture.height()))
        most = min(view.width() / across, view.height() / down) * self._widget.devicePixelRatioF()
        return max((zoom for zoom in ZOOMS if zoom <= most), default=ZOOMS[0])

    def zoom_to(self, zoom: float, at: QPointF | None = None) -> None:
        """Zoom, and keep the place under a point of the widget where it is."""
        if at is not None:
            self.centre += (self.place(at) - self.centre) * (1 - self.zoom / zoom)
        self.zoom = zoom

    def next_zoom(self, steps: int) -> float:
        """Return the zoom so many steps nearer."""
        now = min(range(len(ZOOMS)), key=lambda k: abs(ZOOMS[k] - self.zoom))
        return ZOOMS[min(max(now + steps, 0), len(ZOOMS) - 1)]

    @property
    def scale(self) -> float:
        """Widget units a picture pixel."""
        return self.zoom / self._widget.devicePixelRatioF()

    def views(self) -> list[tuple[str, QRectF]]:
        """Return which picture is painted where."""
        whole = self.whole
        if self.mode is Mode.BESIDE and self.names >= PAIR:
            half = (whole.width() - _GAP) / 2
            return [
                ("left", QRectF(0, 0, half, whole.height())),
                ("right", QRectF(half + _GAP, 0, half, whole.height())),
            ]
        if self.mode is Mode.DIFFERENCE and "difference" in self.names:
            return [("difference", whole)]
        if self.is_split:
            return [("left", whole), ("right", whole)]
        names = ("right", "left") if self.showing_second else ("left", "right")
        return [(next((name for name in names if name in self.names), "left"), whole)]

    def _view_at(self, at: QPointF) -> QRectF:
        views = self.views()
        return next((view for _, view in views if view.contains(at)), views[0][1])

    def place(self, at: QPointF) -> QPointF:
        """Return which place of the picture is at a point of the widget."""
        return self.centre + (at - self._view_at(at).center()) / self.scale

    def point(self, place: QPointF, view: QRectF) -> QPointF:
        """Return where a place of the picture lies in a view of the widget."""
        return view.center() + (place - self.centre) * self.scale

    def box_rect(self, box: Box, view: QRectF) -> QRectF:
        """Return where a box of the picture lies in a view of the widget."""
        return QRectF(self.point(QPointF(box[0], box[1]), view), self.point(QPointF(box[2], box[3]), view))

    def line_rect(self) -> QRectF:
        """Return where the line can be taken."""
        if self.upright:
            return QRectF(self.line * self._widget.width() - _GRIP, 0, 2 * _GRIP, self._widget.height())
        return QRectF(0, self.line * self._widget.height() - _GRIP, self._widget.width(), 2 * _GRIP)

    def side(self, name: str) -> QRectF:
        """Return the side of the line on which a picture is seen."""
        whole, at = self.whole, self.line_rect().center()
        if self.upright:
            edges = (0.0, at.x()) if name == "left" else (at.x(), whole.right())
            return QRectF(edges[0], 0, edges[1] - edges[0], whole.height())
        edges = (0.0, at.y()) if name == "left" else (at.y(), whole.bottom())
        return QRectF(0, edges[0], whole.width(), edges[1] - edges[0])

    def box_between(self, point_f: QPointF, other: QPointF) -> Box | None:
        """Return the box of the picture between two of its places; None where there is none."""
        rect = QRectF(point_f, other).normalized().toAlignedRect().intersected(QRect(0, 0, *self.picture.toTuple()))
        return None if rect.isEmpty() else (rect.left(), rect.top(), rect.right() + 1, rect.bottom() + 1)
