"""Pictures as labelled tiles: two that are clicked are compared, or one is framed to be marked. GUI thread."""

from collections.abc import Sequence
from dataclasses import dataclass

from PySide6.QtCore import QEvent, QPointF, QRect, QRectF, QSize, Qt, Signal
from PySide6.QtGui import QFontMetrics, QHelpEvent, QImage, QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QWidget

from pemlo.gui.common.colours import ON_PICTURE, SURROUND, UNDER_PICTURE
from pemlo.gui.common.fonts import SMALL, font
from pemlo.gui.common.plain import set_tip, show_tip

TILE = QSize(248, 176)
_GAP, _LABEL = 10, 34


@dataclass(frozen=True)
class Tile:
    """A part of a trial's picture, and what stands under it."""

    image: QImage
    first: str
    second: str


def paint_tile(painter: QPainter, tile: Tile, at: QPointF, *, picked: bool) -> None:
    """Paint a tile with its label; the label stands on its own ground, so that it can be read on any."""
    painter.drawImage(at, tile.image)
    below = QRectF(at.x(), at.y() + TILE.height(), TILE.width(), _LABEL)
    painter.fillRect(below, UNDER_PICTURE)
    painter.setPen(ON_PICTURE)
    painter.setFont(font(SMALL))
    metrics = QFontMetrics(painter.font())
    for row, words in enumerate((tile.first, tile.second)):
        line = below.adjusted(6, 2 + 15 * row, -6, 0)
        line.setHeight(15)
        text = metrics.elidedText(words, Qt.TextElideMode.ElideRight, int(line.width()))
        painter.drawText(line, Qt.AlignmentFlag.AlignVCenter, text)
    if picked:
        frame = QRectF(at.x(), at.y(), TILE.width(), TILE.height() + _LABEL).adjusted(1, 1, -1, -1)
        painter.setPen(QPen(UNDER_PICTURE, 5))
        painter.drawRect(frame)
        painter.setPen(QPen(ON_PICTURE, 2))
        painter.drawRect(frame)
        painter.drawText(QRectF(frame.right() - 60, frame.top() + 4, 54, 16), Qt.AlignmentFlag.AlignRight, "picked")


class LadderSheet(QWidget):
    """Tiles in order.

    Parameters
    ----------
    compares : bool
        Whether two that are clicked are compared, or one is framed and can be opened.

    Attributes
    ----------
    at : int
        The tile that keys move from; framed where tiles are not compared.

    Signals
    -------
    pair_chosen(int, int)
        Places of two tiles, in the order in which they were clicked.
    opened(int)
        A tile was clicked twice, or Enter was pressed on it.
    moved(QRect)
        Where the tile is that was framed.
    """

    pair_chosen = Signal(int, int)
    opened = Signal(int)
    moved = Signal(object)

    def __init__(self, *, compares: bool = True) -> None:
        super().__init__()
        self._compares = compares
        self.tiles: tuple[Tile, ...] = ()
        self.picked: list[int] = []
        self.at = 0
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName("Ladder sheet" if compares else "Picture sheet")
        set_tip(self, "Click two to compare them" if compares else "Click one, then Y or N; click twice to open it")

    def show_tiles(self, tiles: Sequence[Tile], *, stay: bool = False) -> None:
        """Show tiles, from the first on or where it stood."""
        self.tiles, self.picked = tuple(tiles), []
        self.at = min(self.at, max(len(tiles) - 1, 0)) if stay else 0
        self._say()
        self._place()

    def _say(self) -> None:
        """Tell who cannot see it what is framed."""
        if self.tiles:
            tile = self.tiles[self.at]
            self.setAccessibleDescription(f"{tile.first}; {tile.second}")

    def _columns(self) -> int:
        return max(1, (self.width() - _GAP) // (TILE.width() + _GAP))

    def _place(self) -> None:
        rows = -(-len(self.tiles) // self._columns())
        self.setMinimumHeight(_GAP + rows * (TILE.height() + _LABEL + _GAP))
        self.update()

    def resizeEvent(self, event: object) -> None:  # noqa: ARG002 - Qt's signature
        self._place()

    def rect_of(self, number: int) -> QRect:
        row, column = divmod(number, self._columns())
        left, top = _GAP + column * (TILE.width() + _GAP), _GAP + row * (TILE.height() + _LABEL + _GAP)
        return QRect(left, top, TILE.width(), TILE.height() + _LABEL)

    def paintEvent(self, _event: QPaintEvent) -> None:
        with QPainter(self) as painter:
            painter.fillRect(self.rect(), SURROUND)
            self._paint(painter)
            if self.tiles and (self.hasFocus() or not self._compares):
                painter.setPen(QPen(ON_PICTURE, 1, Qt.PenStyle.DotLine if self._compares else Qt.PenStyle.SolidLine))
                painter.drawRect(self.rect_of(self.at).adjusted(-3, -3, 2, 2))

    def _paint(self, painter: QPainter) -> None:
        for number, tile in enumerate(self.tiles):
            paint_tile(painter, tile, QPointF(self.rect_of(number).topLeft()), picked=number in self.picked)

    def as_image(self) -> QImage:
        """Return the sheet as a picture."""
        image = QImage(self.width(), self.minimumHeight(), QImage.Format.Format_RGB32)
        image.fill(SURROUND)
        with QPainter(image) as painter:
            self._paint(painter)
        return image

    def event(self, event: QEvent) -> bool:
        if isinstance(event, QHelpEvent) and event.type() == QEvent.Type.ToolTip:
            over = next((n for n in range(len(self.tiles)) if self.rect_of(n).contains(event.pos())), None)
            if over is not None:  # labels may be cut
                tile = self.tiles[over]
                show_tip(event.globalPos(), f"{tile.first}\n{tile.second}", self)
                return True
        return super().event(event)

    def mousePressEvent(self, event: QMouseEvent) -> None:
        at = event.position().toPoint()
        number = next((n for n in range(len(self.tiles)) if self.rect_of(n).contains(at)), None)
        if number is not None:
            self.pick(number)

    def mouseDoubleClickEvent(self, event: QMouseEvent) -> None:
        if self._compares:
            self.mousePressEvent(event)
        elif self.tiles and self.rect_of(self.at).contains(event.position().toPoint()):
            self.opened.emit(self.at)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        steps = {
            Qt.Key.Key_Left: -1,
            Qt.Key.Key_Right: 1,
            Qt.Key.Key_Up: -self._columns(),
            Qt.Key.Key_Down: self._columns(),
        }
        if event.key() in steps and self.tiles:
            self.frame(min(max(self.at + steps[Qt.Key(event.key())], 0), len(self.tiles) - 1))
        elif event.key() in {Qt.Key.Key_Return, Qt.Key.Key_Enter, Qt.Key.Key_Space} and self.tiles:
            self.pick(self.at) if self._compares else self.opened.emit(self.at)
        else:
            super().keyPressEvent(event)

    def frame(self, number: int) -> None:
        """Frame a tile, and see that it can be seen."""
        self.at = number
        self._say()
        self.moved.emit(self.rect_of(number))
        self.update()

    def pick(self, number: int) -> None:
        """Pick a tile; where they are compared, with the second one both are."""
        self.at = number
        self._say()
        if not self._compares:
            self.update()
            return
        self.picked = [one for one in self.picked if one != number] if number in self.picked else [*self.picked, number]
        self.update()
        if len(self.picked) == 2:
            first, second = self.picked
            self.picked = []
            self.pair_chosen.emit(first, second)
