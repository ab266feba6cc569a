"""Paints the run sheet. GUI thread."""

from collections.abc import Mapping
from typing import TYPE_CHECKING

import numpy as np
from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QBrush, QColor, QFontMetricsF, QPainter, QPen, QPolygonF

from pemlo.core.forecast.time_ticks import time_ticks
from pemlo.core.project.project import Project
from pemlo.core.project.sequences import sequence_of
from pemlo.core.units import HOUR_S
from pemlo.gui.common.colours import colours
from pemlo.gui.common.finish_hump import paint_hump
from pemlo.gui.common.fonts import SMALL, bold, font
from pemlo.gui.runsheet.looks import fill, ink_on
from pemlo.gui.runsheet.presenter import looks_of, own_dates
from pemlo.words.verdicts import say_moment

if TYPE_CHECKING:
    from pemlo.gui.runsheet.presenter import MachineLine
    from pemlo.gui.runsheet.sheet import Sheet

_LABEL_PX = 18  # a run needs so much more than its name to carry it
_SEQUENCE_PX = 6  # a sequence needs less: its neighbours look otherwise
_LEAST_LANE = 9.0  # and a lane so much height
_CROSS = 3.0
_NARROW = 5.0


def paint_sheet(sheet: "Sheet") -> None:
    """Paint all of it."""
    with QPainter(sheet) as painter:
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setFont(font(SMALL))
        if sheet.project is None:
            return
        painter.save()
        painter.setClipRect(sheet.places.inside)
        names = tuple(shot.name for shot in sheet.project.shots)
        looks = looks_of(names)
        look = names, sheet.scale, sheet.picked_shots, sheet.rows, colours(), sheet.devicePixelRatioF()
        sheet.lanes.show_same(sheet.found, look)
        places = sheet.places
        for number in range(len(sheet.rows)):
            rect = places.row_rect(number)
            if rect.bottom() > 0 and rect.top() < sheet.height():
                _paint_row(sheet, painter, number, rect, looks)
        painter.restore()
        _paint_ruler(sheet, painter)
        _paint_spread(sheet, painter)
        _paint_limits(sheet, painter)
        if sheet.hasFocus():
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.setPen(QPen(colours().time, 1))
            painter.drawRect(QRectF(sheet.rect()).adjusted(0.5, 0.5, -0.5, -0.5))


def _paint_row(sheet: "Sheet", painter: QPainter, number: int, rect: QRectF, looks: Mapping[str, int]) -> None:
    row, palette, scale = sheet.rows[number], colours(), sheet.scale
    picked = row.machine == sheet.picked_machine
    _paint_label(painter, row, rect, picked=picked)
    painter.save()
    painter.setClipRect(QRectF(scale.left, 0, scale.width, sheet.height()), Qt.ClipOperation.IntersectClip)
    painter.setPen(QPen(palette.line, 1))
    painter.drawLine(QPointF(rect.left(), rect.bottom() + 3), QPointF(rect.right(), rect.bottom() + 3))
    for begin, end in row.spans:
        if scale.shows(begin, end):
            x = scale.x(begin)
            painter.setPen(QPen(palette.ink if picked else palette.line, 1))
            painter.setBrush(palette.raised)
            painter.drawRect(QRectF(x, rect.top(), scale.x(end) - x, rect.height()))
    if sheet.runs is not None:
        painter.setOpacity(0.45 if sheet.stale else 1.0)
        if sheet.bar.maximum():  # rows lie on whole pixels then
            ratio = sheet.devicePixelRatioF()
            lanes = sheet.lanes.of(number, rect, ratio, lambda painter: _paint_lanes(sheet, painter, row, rect, looks))
            painter.drawImage(rect.topLeft(), lanes)
        else:
            _paint_lanes(sheet, painter, row, rect, looks)
    painter.restore()


def _paint_lanes(sheet: "Sheet", painter: QPainter, row: "MachineLine", rect: QRectF, looks: Mapping[str, int]) -> None:
    painter.setFont(font(SMALL))
    high = rect.height() / max(len(row.slots), 1)
    for lane, slot in enumerate(row.slots):
        gap = 1.0 if high > 5 else 0.0
        place = QRectF(rect.left(), rect.top() + lane * high, rect.width(), high - gap)
        _paint_lane(sheet, painter, row, slot, place, looks)


def _paint_label(painter: QPainter, row: "MachineLine", rect: QRectF, *, picked: bool) -> None:
    palette = colours()
    painter.setFont(bold(SMALL) if picked else font(SMALL))
    left = 14.0 if row.heads else 22.0
    room = rect.left() - left - 8
    metrics = QFontMetricsF(painter.font())
    detail = row.detail if rect.height() > 24 and row.heads else ""
    name = metrics.elidedText(row.label, Qt.TextElideMode.ElideRight, room)
    middle = rect.center().y() - (7 if detail else 0)
    painter.setPen(palette.ink)
    painter.drawText(QRectF(left, middle - 9, room, 18), Qt.AlignmentFlag.AlignVCenter, name)
    if detail:
        painter.setFont(font(SMALL))
        painter.setPen(palette.second)
        words = QFontMetricsF(painter.font()).elidedText(detail, Qt.TextElideMode.ElideRight, room)
        painter.drawText(QRectF(left, middle + 5, room, 18), Qt.AlignmentFlag.AlignVCenter, words)
    if row.can_fold and row.heads:
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(palette.second)
        x, y = 6.0, middle
        points = [(-3, -4), (4, 0), (-3, 4)] if row.folded else [(-4, -3), (4, -3), (0, 4)]
        painter.drawPolygon(QPolygonF([QPointF(x + a, y + b) for a, b in points]))
    painter.setFont(font(SMALL))


def _paint_lane(
    sheet: "Sheet", painter: QPainter, row: "MachineLine", slot: int, rect: QRectF, looks: Mapping[str, int]
) -> None:
    runs, finish, scale = sheet.runs, sheet.found, sheet.scale
    assert runs is not None
    assert finish is not None
    mine = np.arange(len(runs.slot))[runs.of_slot(slot)]
    mine = mine[(runs.end[mine] > scale.first_h) & (runs.begin[mine] < scale.last_h)]
    names = _SequenceNames(painter, rect, grouped=len(set(looks.values())) < len(looks))
    bands = _Bands(painter, rect)
    done_px = -1.0
    for run in mine:
        begin, end = float(runs.begin[run]), float(runs.end[run])
        if scale.x(end) <= done_px + 0.3:
            continue  # it lies within a pixel that is painted already
        job = finish.jobs[int(runs.job[run])]
        number = looks.get(job.shot.name, 0)
        picked = job.shot.name in sheet.picked_shots
        for open_h, close_h in row.spans or ((begin, end),):
            left, right = scale.x(max(begin, open_h)), scale.x(min(end, close_h))
            if right <= left:
                continue
            box = QRectF(left, rect.top(), max(right - left, 0.6), rect.height())
            if bands.take(box, number, alone=picked or job.part != "final"):
                names.add(job.name, box, number, named=False)
                continue
            fill(painter, box, number)
            if job.part != "final" and box.height() >= 4:  # a strip of paper along the top tells other passes
                painter.fillRect(QRectF(box.left(), box.top(), box.width(), 2), colours().raised)
            painter.fillRect(QRectF(box.right() - 1, box.top(), 1, box.height()), colours().raised)
            if picked and box.width() > 1.5:
                painter.setPen(QPen(colours().ink, 2))
                painter.setBrush(Qt.BrushStyle.NoBrush)
                painter.drawRect(box.adjusted(1, 1, -1.5, -1))
            names.add(job.name, box, number, named=_paint_name(painter, box, job.name, number))
        if runs.fills[run]:
            _paint_filling(sheet, painter, int(run), rect)
        if runs.lost[run]:
            _paint_lost(sheet, painter, int(run), rect)
        done_px = scale.x(end)
    bands.end()
    names.end()


def _paint_name(painter: QPainter, box: QRectF, name: str, number: int, margin: float = _LABEL_PX) -> bool:
    """Write a name where it has room, and tell whether it had."""
    if box.height() < _LEAST_LANE:
        return False
    width = QFontMetricsF(painter.font()).horizontalAdvance(name)
    if width + margin > box.width():
        return False
    painter.setPen(ink_on(number))
    painter.drawText(box.adjusted(margin / 2, 0, 0, 0), Qt.AlignmentFlag.AlignVCenter, name)
    return True


class _Bands:
    """Paints runs that are too narrow to be told apart, and look alike, as one: of a thousand shots most are."""

    def __init__(self, painter: QPainter, rect: QRectF) -> None:
        self._painter, self._rect = painter, rect
        self._left, self._right, self._number = 0.0, -1.0, -1

    def take(self, box: QRectF, number: int, *, alone: bool) -> bool:
        """Take a run in, if it is narrow; what was taken before is painted unless it goes on."""
        narrow = not alone and box.width() < _NARROW
        if narrow and number == self._number and box.left() - self._right < 1:
            self._right = box.right()
            return True
        self.end()
        if narrow:
            self._left, self._right, self._number = box.left(), box.right(), number
        return narrow

    def end(self) -> None:
        """Paint what was taken in."""
        if self._right > self._left:
            band = QRectF(self._left, self._rect.top(), self._right - self._left, self._rect.height())
            fill(self._painter, band, self._number)
            if band.width() > _NARROW:
                self._painter.fillRect(QRectF(band.right() - 1, band.top(), 1, band.height()), colours().raised)
        self._right, self._number = -1.0, -1


class _SequenceNames:
    """Writes the names of sequences over their shots, where none of these has room for its own."""

    def __init__(self, painter: QPainter, rect: QRectF, *, grouped: bool) -> None:
        self._painter, self._rect, self._grouped = painter, rect, grouped
        self._name, self._number, self._left, self._right = "", 0, 0.0, 0.0
        self._named = True

    def add(self, shot: str, box: QRectF, number: int, *, named: bool) -> None:
        """Go on with the run of a shot; `named` if its own name was written."""
        name = sequence_of(shot)
        if name != self._name or box.left() > self._right + 2:
            self.end()
            self._name, self._number, self._left, self._named = name, number, box.left(), False
        self._right = box.right()
        self._named |= named

    def end(self) -> None:
        """Write the name of the sequence that ends here."""
        if self._grouped and not self._named and self._name:
            room = QRectF(self._left, self._rect.top(), self._right - self._left, self._rect.height())
            _paint_name(self._painter, room, self._name, self._number, _SEQUENCE_PX)
        self._named = True


def _paint_filling(sheet: "Sheet", painter: QPainter, run: int, rect: QRectF) -> None:
    """Dot the first frame of a run where it fills data that are kept then."""
    runs, finish = sheet.runs, sheet.found
    assert runs is not None
    assert finish is not None
    begin, end = (finish.run.trace[runs.frames[int(runs.first[run])], k] / HOUR_S for k in (1, 2))
    left = sheet.scale.x(float(begin))
    box = QRectF(left, rect.top(), max(sheet.scale.x(float(end)) - left, 4.0), rect.height())
    painter.fillRect(box, colours().raised)
    painter.fillRect(box, QBrush(colours().time, Qt.BrushStyle.Dense5Pattern))


def _paint_lost(sheet: "Sheet", painter: QPainter, run: int, rect: QRectF) -> None:
    """Put a cross where a frame broke."""
    runs, finish = sheet.runs, sheet.found
    assert runs is not None
    assert finish is not None
    frames = runs.frames[int(runs.first[run]) : int(runs.last[run]) + 1]
    broken = frames[finish.run.trace[frames, 3] > 1]
    painter.setPen(QPen(colours().limit, 2))
    size = min(_CROSS, rect.height() / 2)
    y = rect.bottom() - size - 2
    last = -10.0
    for frame in broken:
        x = sheet.scale.x(float(finish.run.trace[frame, 1]) / HOUR_S)
        if x - last < 2 * _CROSS:
            continue
        last = x
        painter.drawLine(QPointF(x - size, y - size), QPointF(x + size, y + size))
        painter.drawLine(QPointF(x - size, y + size), QPointF(x + size, y - size))


def _paint_ruler(sheet: "Sheet", painter: QPainter) -> None:
    palette, scale = colours(), sheet.scale
    assert sheet.project is not None
    bottom = sheet.places.inside.bottom()
    taken = _due_room(sheet)
    painter.setFont(font(SMALL))
    for tick in time_ticks(sheet.project, scale.first_h, scale.last_h, scale.width):
        x = scale.x(tick.hours)
        line = QColor(palette.second if tick.midnight else palette.line)
        line.setAlpha(150)
        painter.setPen(QPen(line, 1))
        painter.drawLine(QPointF(x, sheet.places.inside.top() - 4), QPointF(x, bottom))
        width = QFontMetricsF(painter.font()).horizontalAdvance(tick.words)
        covered = taken.left() - 4 < x + width / 2 and x - width / 2 < taken.right()
        if tick.words and not covered and x + width / 2 < scale.left + scale.width + 6:
            painter.setPen(palette.second)
            painter.drawText(QPointF(x - width / 2, sheet.places.inside.top() - 9), tick.words)


def _due_words(project: Project) -> str:
    return f"due {say_moment(project.delivery.deadline, project)}"


def _due_room(sheet: "Sheet") -> QRectF:
    """Return where the deadline is written; empty where it is not shown."""
    assert sheet.project is not None
    due = sheet.project.deadline_h
    if not sheet.scale.first_h <= due <= sheet.scale.last_h:
        return QRectF()
    width = QFontMetricsF(bold(SMALL)).horizontalAdvance(_due_words(sheet.project))
    return QRectF(sheet.scale.x(due) - width - 10, 2, width + 6, 15)


def _paint_limits(sheet: "Sheet", painter: QPainter) -> None:
    """Draw the start and the deadline over everything."""
    palette, scale = colours(), sheet.scale
    assert sheet.project is not None
    room = _due_room(sheet)
    if not room.isEmpty():
        x = scale.x(sheet.project.deadline_h)
        painter.setPen(QPen(palette.limit, 2.4))
        painter.drawLine(QPointF(x, 4), QPointF(x, sheet.height() - 6))
        painter.setFont(bold(SMALL))
        painter.fillRect(room, palette.sheet)
        painter.setPen(palette.limit)
        painter.drawText(QPointF(room.left() + 3, 14), _due_words(sheet.project))
    _paint_dates(sheet, painter)
    if scale.first_h <= 0:
        painter.setPen(QPen(palette.ink, 2))
        painter.drawLine(QPointF(scale.left, 18), QPointF(scale.left, sheet.places.inside.bottom()))


def _paint_dates(sheet: "Sheet", painter: QPainter) -> None:
    """Draw the dates that shots have of their own: dashed, with their names below."""
    palette, scale, last = colours(), sheet.scale, -100.0
    assert sheet.project is not None
    painter.setFont(font(SMALL))
    for hours, name in own_dates(sheet.project):
        if not scale.first_h <= hours <= scale.last_h:
            continue
        x, words = scale.x(hours), f"{name} due"
        painter.setPen(QPen(palette.limit, 1.4, Qt.PenStyle.DashLine))
        painter.drawLine(QPointF(x, sheet.places.inside.top()), QPointF(x, sheet.places.inside.bottom() + 14))
        width = QFontMetricsF(painter.font()).horizontalAdvance(words)
        if x - width - 5 > last:
            painter.setPen(palette.limit)
            painter.drawText(QPointF(x - width - 5, sheet.places.inside.bottom() + 13), words)
            last = x


def _paint_spread(sheet: "Sheet", painter: QPainter) -> None:
    """Draw how the end is spread, below the machines."""
    palette, scale = colours(), sheet.scale
    assert sheet.project is not None
    base, high = float(sheet.height() - 6), 26.0
    painter.setFont(font(SMALL))
    painter.setPen(palette.second)
    painter.drawText(QRectF(0, base - 20, scale.left - 8, 18), Qt.AlignmentFlag.AlignRight, "spread of the end")
    if sheet.density is None or not sheet.density.height.any():
        painter.drawText(QPointF(scale.left + 6, base - 7), "not known yet")
        return
    due = sheet.project.deadline_h
    painter.save()
    painter.setClipRect(QRectF(scale.left, base - high - 4, scale.width, high + 8))
    paint_hump(painter, sheet.density, due, scale.x, base, high)
    painter.restore()
    painter.setPen(QPen(palette.second, 1))
    painter.drawLine(QPointF(scale.left, base), QPointF(scale.left + scale.width, base))
