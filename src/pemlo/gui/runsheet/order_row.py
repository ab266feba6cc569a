"""The shots in the order in which they are handed out, to be dragged into another, and how each looks. GUI thread."""

from collections.abc import Sequence

from PySide6.QtCore import QEvent, QRectF, QSize, Qt, Signal
from PySide6.QtGui import QFontMetricsF, QHelpEvent, QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen, QResizeEvent
from PySide6.QtWidgets import QWidget

from pemlo.core.project.sequences import in_sequences, runs_of, sequence_of
from pemlo.gui.common.colours import colours
from pemlo.gui.common.fonts import SMALL, bold, font
from pemlo.gui.common.names_over import NAMES_PX, NameOver, names_over, paint_names_over
from pemlo.gui.common.plain import show_tip
from pemlo.gui.runsheet.looks import fill, ink_on
from pemlo.gui.runsheet.presenter import looks_of

HEIGHT, SWATCH, GAP, WIDEST = 26, 16, 3, 84


class OrderRow(QWidget):
    """The row.

    Signals
    -------
    reordered(tuple of str, bool)
        The shots in their new order, and whether the hand has let go.
    shot_picked(str)
    """

    reordered = Signal(tuple, bool)
    shot_picked = Signal(str)

    def __init__(self) -> None:
        super().__init__()
        self.names: tuple[str, ...] = ()
        self._place: dict[str, int] = {}
        self._picked: tuple[str, ...] = ()
        self._dragged = ""
        self._over: list[NameOver] = []
        self.setFixedHeight(HEIGHT)
        self.setMinimumWidth(120)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName("Order in which shots are assigned")

    def sizeHint(self) -> QSize:
        return QSize(600, HEIGHT)

    def show_order(self, names: Sequence[str], film: Sequence[str]) -> None:
        """Show the shots in order; `film` says how each looks."""
        self._place = looks_of(film)
        if not self._dragged:
            self.names = tuple(names)
        self.setAccessibleDescription(", ".join(self.names))
        self._show_names_over()
        self.update()

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        self._show_names_over()

    def _runs(self) -> list[tuple[str, float, float]]:
        """Return name, left and width of the shots of a sequence that follow each other, px."""
        runs = runs_of([sequence_of(name) for name in self.names])
        return [(name, self.chip(first).left(), self.chip(last).right()) for name, first, last in runs]

    @property
    def _in_sequences(self) -> bool:
        """Whether shots are so narrow that those of a sequence are painted as one."""
        return bool(self.names) and self.chip(0).width() < SWATCH and in_sequences(self.names)

    def _show_names_over(self) -> None:
        """Keep a line for the names of sequences where they do not fit into their boxes."""
        metrics, self._over = QFontMetricsF(font(SMALL)), []
        if self._in_sequences:
            runs = self._runs()
            if any(metrics.horizontalAdvance(name) + 8 > right - left for name, left, right in runs):
                self._over = names_over(((name, left, right - left) for name, left, right in runs), self.width())
        self.setFixedHeight(HEIGHT + (NAMES_PX if self._over else 0))

    def pick(self, names: tuple[str, ...]) -> None:
        """Make some shots stand out."""
        self._picked = names
        self.update()

    def chip(self, number: int) -> QRectF:
        """Return where a shot is drawn."""
        width = min(WIDEST, (self.width() - 2) / max(len(self.names), 1))
        gap = GAP if width > 12 else 0
        top = NAMES_PX if self._over else 0
        return QRectF(1 + number * width, top + 2, width - gap, HEIGHT - 4)

    def _at(self, x: float) -> int:
        width = min(WIDEST, (self.width() - 2) / max(len(self.names), 1))
        return max(0, min(len(self.names) - 1, int((x - 1) // width)))

    def mousePressEvent(self, event: QMouseEvent) -> None:
        if event.button() == Qt.MouseButton.LeftButton and self.names:
            self._dragged = self.names[self._at(event.position().x())]
            self.shot_picked.emit(self._dragged)

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if not self._dragged:
            return
        place = self._at(event.position().x())
        if self.names.index(self._dragged) != place:
            self._move(place)
            self.reordered.emit(self.names, False)

    def mouseReleaseEvent(self, _event: QMouseEvent) -> None:
        if self._dragged:
            self._dragged = ""
            self.reordered.emit(self.names, True)

    def _move(self, place: int) -> None:
        others = [name for name in self.names if name != self._dragged]
        others.insert(place, self._dragged)
        self.names = tuple(others)
        self.update()

    def keyPressEvent(self, event: QKeyEvent) -> None:
        steps = {Qt.Key.Key_Left: -1, Qt.Key.Key_Right: 1}
        if event.key() not in steps or not self.names:
            super().keyPressEvent(event)
            return
        here = self.names.index(self._picked[0]) if self._picked and self._picked[0] in self.names else 0
        place = max(0, min(len(self.names) - 1, here + steps[Qt.Key(event.key())]))
        if event.modifiers() & Qt.KeyboardModifier.AltModifier:
            self._dragged = self.names[here]
            self._move(place)
            self._dragged = ""
            self.reordered.emit(self.names, True)
        else:
            self.shot_picked.emit(self.names[place])

    def event(self, event: QEvent) -> bool:
        if isinstance(event, QHelpEvent) and event.type() == QEvent.Type.ToolTip and self.names:
            name = self.names[self._at(event.pos().x())]
            words = (
                f"Shot {name}: number {self.names.index(name) + 1} of {len(self.names)}\nDrag it, or Alt+Left and Right"
            )
            show_tip(event.globalPos(), words, self)
            return True
        return super().event(event)

    def _paint_sequences(self, painter: QPainter) -> None:
        """Paint shots of a sequence that follow each other as one, with its name; the picked ones are underlined."""
        painter.setFont(font(SMALL))
        for name, first, last in runs_of([sequence_of(name) for name in self.names]):
            box = QRectF(self.chip(first).topLeft(), self.chip(last).bottomRight()).adjusted(0, 0, -1, 0)
            number = self._place.get(self.names[first], 0)
            fill(painter, box, number)
            if not self._over:
                painter.setPen(ink_on(number))
                painter.drawText(box.adjusted(5, 0, 0, 0), Qt.AlignmentFlag.AlignVCenter, name)
        paint_names_over(painter, self._over)
        for number, name in enumerate(self.names):
            if name in self._picked:
                box = self.chip(number)
                painter.fillRect(QRectF(box.left(), box.bottom() - 2, max(box.width(), 2.0), 3), colours().ink)

    def paintEvent(self, _event: QPaintEvent) -> None:
        palette = colours()
        with QPainter(self) as painter:
            painter.setRenderHint(QPainter.RenderHint.Antialiasing)
            if self._in_sequences:
                self._paint_sequences(painter)
                return
            for number, name in enumerate(self.names):
                box = self.chip(number)
                chosen = name in self._picked
                painter.setPen(QPen(palette.ink if chosen else palette.line, 2 if chosen else 1))
                painter.setBrush(palette.raised)
                if box.width() > 8:
                    painter.drawRect(box.adjusted(0.5, 0.5, -0.5, -0.5))
                swatch = min(SWATCH, box.width())
                fill(
                    painter,
                    QRectF(box.left() + 2, box.top() + 2, swatch - 2, box.height() - 4),
                    self._place.get(name, 0),
                )
                painter.setFont(bold(SMALL) if chosen else font(SMALL))
                if QFontMetricsF(painter.font()).horizontalAdvance(name) + SWATCH + 8 <= box.width():
                    painter.setPen(palette.ink)
                    place = box.adjusted(SWATCH + 5, 0, 0, 0)
                    painter.drawText(place, Qt.AlignmentFlag.AlignVCenter, name)
            if self.hasFocus():
                painter.setBrush(Qt.BrushStyle.NoBrush)
                painter.setPen(QPen(palette.time, 1))
                painter.drawRect(QRectF(self.rect()).adjusted(0.5, 0.5, -0.5, -0.5))
