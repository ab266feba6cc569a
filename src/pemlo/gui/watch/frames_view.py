"""Every frame of the film as one small mark, a row a shot: to be hovered, picked and copied. GUI thread."""

from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np
from PySide6.QtCore import QEvent, QPointF, QRect, QRectF, QSize, Qt, Signal
from PySide6.QtGui import (
    QColor,
    QContextMenuEvent,
    QFontMetricsF,
    QHelpEvent,
    QImage,
    QKeyEvent,
    QMouseEvent,
    QPainter,
    QPaintEvent,
    QPen,
    QResizeEvent,
)
from PySide6.QtWidgets import QToolTip, QWidget

from pemlo.gui.common.colours import colours, mixed
from pemlo.gui.common.fonts import SMALL, bold, font
from pemlo.gui.watch.marks import Drawn, Grid, MarkColours, MarkRow, draw_marks, frame_numbers, grid_for

LEAST_LEFT, MOST_LEFT, RIGHT = 62, 128, 92
LEAST_ROW = 15  # px in which a name can be read


@dataclass(frozen=True)
class Picked:
    """Frames of one row, from one place to another."""

    row: int
    first: int
    last: int

    def has(self, row: int, place: int) -> bool:
        """Whether a frame is among them."""
        low, high = sorted((self.first, self.last))
        return self.row == row and low <= place <= high


class FramesView(QWidget):
    """The marks.

    Signals
    -------
    frame_picked(str, int)
        A frame was clicked, or reached by the keys.
    range_picked(str, tuple of int)
    copied(str)
        A range was copied, as text.
    menu_wanted(QPoint)
    reading_wanted(str, int, QPoint)
        Of a frame, and where on the screen it is to be shown.
    group_reading_wanted(str, QPoint)
    group_toggled(str)
        The shots of a sequence are to be shown, or hidden.
    """

    frame_picked = Signal(str, int)
    range_picked = Signal(str, tuple)
    menu_wanted = Signal(object)
    copy_wanted = Signal()
    play_wanted = Signal()
    reading_wanted = Signal(str, int, object)
    group_reading_wanted = Signal(str, object)
    group_toggled = Signal(str)

    def __init__(self) -> None:
        super().__init__()
        self.rows: tuple[MarkRow, ...] = ()
        self.left = LEAST_LEFT  # px before the marks, for names
        self.picked: Picked | None = None
        self._shown_shots: tuple[str, ...] = ()
        self._image: QImage | None = None
        self._drawn: Drawn | None = None  # holds what the image shows: that keeps no copy
        self.setMouseTracking(True)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName("Frames of the film")

    def sizeHint(self) -> QSize:
        return QSize(640, 30 + 20 * min(max(len(self.rows), 4), 14))

    def minimumSizeHint(self) -> QSize:
        return QSize(300, LEAST_ROW * max(len(self.rows), 4) + 4)

    def show_rows(self, rows: tuple[MarkRow, ...]) -> None:
        """Show other marks."""
        same = [(row.shot, row.group) for row in rows] == [(row.shot, row.group) for row in self.rows]
        before, picked = self.rows, self.picked
        self.rows = rows
        if not same:
            # What was picked stays picked where its row is another now.
            names = [(row.shot, row.group) for row in rows]
            was = None if picked is None else (before[picked.row].shot, before[picked.row].group)
            self.picked = replace(picked, row=names.index(was)) if picked is not None and was in names else None
        if self.picked is not None and max(self.picked.first, self.picked.last) >= len(rows[self.picked.row].frames):
            self.picked = None  # the shot has fewer frames now
            metrics = QFontMetricsF(bold(SMALL))
            longest = max((metrics.horizontalAdvance(_name(row, self.rows)) for row in rows), default=0.0)
            self.left = int(min(max(longest + 14, LEAST_LEFT), MOST_LEFT))
        self.setMinimumHeight(self.minimumSizeHint().height())
        self.setAccessibleDescription("; ".join(f"{row.group or row.shot} {row.words}" for row in rows))
        self._draw()

    def pick_shots(self, names: tuple[str, ...]) -> None:
        """Make some shots stand out."""
        self._shown_shots = names
        self.update()

    @property
    def grid(self) -> Grid:
        """Where marks stand now."""
        longest = max((len(row.frames) for row in self.rows if not row.group), default=1)
        return grid_for(longest, len(self.rows), self.width() - self.left - RIGHT, self.height() - 4)

    @property
    def picked_frames(self) -> tuple[str, tuple[int, ...]] | None:
        """The shot and the frames that are picked."""
        if self.picked is None or self.rows[self.picked.row].group:
            return None
        row = self.rows[self.picked.row]
        return row.shot, frame_numbers(row.frames, self.picked.first, self.picked.last)

    def pick_frames(self, shot: str, frames: tuple[int, ...]) -> None:
        """Pick frames from elsewhere: from the first of them to the last."""
        for number, row in enumerate(self.rows):
            if row.shot == shot and frames and not row.group:
                places = np.flatnonzero(np.isin(row.frames, frames))
                if len(places):
                    self._pick(Picked(number, int(places[0]), int(places[-1])))

    def _pick(self, picked: Picked) -> None:
        self.picked = picked
        self.update()
        row = self.rows[picked.row]
        if row.group:
            return
        if picked.first == picked.last:
            self.frame_picked.emit(row.shot, int(row.frames[picked.first]))
        self.range_picked.emit(row.shot, frame_numbers(row.frames, picked.first, picked.last))

    # Drawing

    def _draw(self) -> None:
        """Draw the marks anew; painting only shows them."""
        width = max(self.width() - self.left - RIGHT, 1)
        palette = colours()
        look = MarkColours(
            _rgb(palette.sheet), _rgb(mixed(palette.sheet, palette.faint, 0.75)), _rgb(palette.time),
            _rgb(palette.limit),
        )  # fmt: skip
        if self.rows:
            marks = [row.marks for row in self.rows]
            before = self._drawn if self._drawn is not None and len(self._drawn.rows) == len(marks) else None
            self._drawn = draw_marks(marks, self.grid, width, look, before)
            pixels = self._drawn.pixels
            self._image = QImage(
                pixels.data, pixels.shape[1], pixels.shape[0], 4 * pixels.shape[1], QImage.Format.Format_RGB32
            )
        else:
            self._image = None
        self.update()

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        self._draw()

    def changeEvent(self, event: QEvent) -> None:
        super().changeEvent(event)
        if event.type() in (QEvent.Type.PaletteChange, QEvent.Type.StyleChange):
            self._draw()

    def paintEvent(self, _event: QPaintEvent) -> None:
        palette, grid = colours(), self.grid
        with QPainter(self) as painter:
            if self._image is None:
                return
            painter.drawImage(self.left, 2, self._image)
            every = max(1, -(-15 // grid.pitch))  # names that have no room give way
            for number, row in enumerate(self.rows):
                top = 2 + number * grid.pitch
                mine = row.shot in self._shown_shots and not row.group
                if number % every and not mine:
                    continue
                painter.setFont(bold(SMALL) if mine else font(SMALL))
                painter.setPen(palette.ink if mine else palette.second)
                middle = QRectF(4, top + grid.pitch / 2 - 8, self.left - 10, 16)
                name = QFontMetricsF(painter.font()).elidedText(
                    _name(row, self.rows), Qt.TextElideMode.ElideLeft, self.left - 10
                )
                painter.drawText(middle, Qt.AlignmentFlag.AlignVCenter, name)
                end = QRectF(self.width() - RIGHT + 6, middle.top(), RIGHT - 8, 16)
                painter.drawText(end, Qt.AlignmentFlag.AlignVCenter | Qt.AlignmentFlag.AlignRight, row.words)
            if self.picked is not None:
                painter.setPen(QPen(palette.ink, 1.6))
                painter.drawRect(self.box_of(self.picked))
            if self.hasFocus():
                painter.setPen(QPen(palette.time, 1))
                painter.drawRect(self.rect().adjusted(0, 0, -1, -1))

    def box_of(self, picked: Picked) -> QRect:
        """Return where picked frames stand, px."""
        grid = self.grid
        left, right = grid.column(picked.first), grid.column(picked.last + 1)
        if picked.last < picked.first:
            left, right = grid.column(picked.last), grid.column(picked.first + 1)
        top = 2 + picked.row * grid.pitch + (grid.pitch - grid.high) // 2
        if self.rows[picked.row].group:
            left, right = -1.0, float(self.width() - self.left - RIGHT)
        return QRect(round(self.left + left) - 2, top - 2, max(round(right - left), 1) + 2, grid.high + 3)

    # Hands

    def frame_at(self, at: QPointF) -> tuple[int, int] | None:
        """Return the row, and the place in it, of the mark at a point; None where there is none."""
        grid = self.grid
        number = int((at.y() - 2) // grid.pitch)
        if not 0 <= number < len(self.rows):
            return None
        row = self.rows[number]
        if row.group:
            return number, 0
        place = grid.frame_at(at.x() - self.left, len(row.frames))
        return None if place is None else (number, place)

    def event(self, event: QEvent) -> bool:
        if isinstance(event, QHelpEvent) and event.type() == QEvent.Type.ToolTip:
            found = self.frame_at(QPointF(event.pos()))
            if found is None:
                QToolTip.hideText()
            else:
                row = self.rows[found[0]]
                if row.group:
                    self.group_reading_wanted.emit(row.group, event.globalPos())
                    return True
                self.reading_wanted.emit(row.shot, int(row.frames[found[1]]), event.globalPos())
            return True
        return super().event(event)

    def mousePressEvent(self, event: QMouseEvent) -> None:
        found = self.frame_at(event.position())
        if event.button() != Qt.MouseButton.LeftButton or found is None:
            return
        if self.rows[found[0]].group:
            self._pick(Picked(found[0], 0, 0))
            self.group_toggled.emit(self.rows[found[0]].group)
        elif event.modifiers() & Qt.KeyboardModifier.ShiftModifier and self.picked and self.picked.row == found[0]:
            self._pick(Picked(found[0], self.picked.first, found[1]))
        else:
            self._pick(Picked(found[0], found[1], found[1]))

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if not event.buttons() & Qt.MouseButton.LeftButton or self.picked is None:
            return
        row = self.rows[self.picked.row]
        if row.group:
            return
        place = int(np.clip((event.position().x() - self.left) / self.grid.cell, 0, len(row.frames) - 1))
        if place != self.picked.last:
            self._pick(Picked(self.picked.row, self.picked.first, place))

    def contextMenuEvent(self, event: QContextMenuEvent) -> None:
        found = self.frame_at(QPointF(event.pos()))
        if found is not None and (self.picked is None or not self.picked.has(*found)):
            self._pick(Picked(found[0], found[1], found[1]))
        if self.picked_frames is not None:
            self.menu_wanted.emit(event.globalPos())

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.key() == Qt.Key.Key_C and event.modifiers() & Qt.KeyboardModifier.ControlModifier:
            self.copy_wanted.emit()
            return
        group = "" if self.picked is None else self.rows[self.picked.row].group
        if group and event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter, Qt.Key.Key_Space):
            self.group_toggled.emit(group)
            return
        if event.key() == Qt.Key.Key_Space:
            self.play_wanted.emit()
            return
        steps = {
            Qt.Key.Key_Left: (0, -1), Qt.Key.Key_Right: (0, 1), Qt.Key.Key_Up: (-1, 0), Qt.Key.Key_Down: (1, 0),
        }  # fmt: skip
        step = steps.get(Qt.Key(event.key()))
        if step is None or not self.rows:
            super().keyPressEvent(event)
            return
        now = self.picked or Picked(0, 0, 0)
        row = int(np.clip(now.row + step[0], 0, len(self.rows) - 1))
        place = int(np.clip(now.last + step[1], 0, len(self.rows[row].frames) - 1))
        more = event.modifiers() & Qt.KeyboardModifier.ShiftModifier and row == now.row
        self._pick(Picked(row, now.first if more else place, place))


def _name(row: MarkRow, rows: Sequence[MarkRow]) -> str:
    """Return what stands before a row; a sequence has a sign that tells whether its shots are shown."""
    if not row.group:
        return row.shot
    opened = any(one.shot == row.shot and not one.group for one in rows)
    return f"{'▾' if opened else '▸'} {row.group}"


def _rgb(colour: QColor) -> tuple[int, int, int]:
    return colour.red(), colour.green(), colour.blue()
