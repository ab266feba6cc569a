"""Where rows and runs of frames stand on the sheet, and what is at a place. Qt's geometry only."""

from dataclasses import dataclass
from typing import TYPE_CHECKING

import numpy as np
from PySide6.QtCore import QPointF, QRect, QRectF

from pemlo.core.project.machine_hours import Side
from pemlo.gui.runsheet.presenter import MachineLine
from pemlo.gui.runsheet.scale import Scale

if TYPE_CHECKING:
    from pemlo.core.forecast.who_when import SlotRuns

LEFT, RIGHT, TOP, BOTTOM = 118, 14, 24, 40
LEAST_ROW, MOST_ROW = 22, 60
EDGE_PX = 5


@dataclass(frozen=True)
class Places:
    """Where things stand.

    Attributes
    ----------
    rows : tuple of MachineLine
    runs : SlotRuns, optional
    scale : Scale
    width, height : int
        Of the sheet, px.
    scrolled : int
        How far down, px.
    """

    rows: tuple[MachineLine, ...]
    runs: "SlotRuns | None"
    scale: Scale
    width: int
    height: int
    scrolled: int

    @property
    def row_px(self) -> float:
        """Height of a row."""
        room = (self.height - TOP - BOTTOM) / max(len(self.rows), 1)
        return min(max(room, LEAST_ROW), MOST_ROW)

    @property
    def inside(self) -> QRect:
        """Where rows are drawn; what is scrolled away is not."""
        return QRect(0, TOP, self.width, self.height - TOP - BOTTOM)

    def row_rect(self, number: int) -> QRectF:
        """Return where a row's hours are drawn."""
        top = TOP + number * self.row_px - self.scrolled
        return QRectF(self.scale.left, top + 3, self.scale.width, self.row_px - 6)

    def row_at(self, at: QPointF) -> int | None:
        """Return which row is at a place."""
        if not self.inside.contains(at.toPoint()):
            return None
        number = int((at.y() - TOP + self.scrolled) // self.row_px)
        return number if 0 <= number < len(self.rows) else None

    def run_at(self, at: QPointF, number: int) -> int | None:
        """Return which run of frames is at a place of a row."""
        row = self.rows[number]
        if self.runs is None or not row.slots:
            return None
        rect = self.row_rect(number)
        lane = int((at.y() - rect.top()) / rect.height() * len(row.slots))
        if not 0 <= lane < len(row.slots):
            return None
        hours = self.scale.hours(at.x())
        mine = np.arange(len(self.runs.slot))[self.runs.of_slot(row.slots[lane])]
        here = mine[(self.runs.begin[mine] <= hours) & (self.runs.end[mine] > hours)]
        return int(here[0]) if len(here) else None

    def edge_at(self, at: QPointF) -> tuple[str, float, Side] | None:
        """Return the machine, the hour and the side of an end of its hours that is at a place."""
        number = self.row_at(at)
        if number is None:
            return None
        row = self.rows[number]
        near: list[tuple[float, float, Side]] = []
        for begin, end in row.spans:
            near += [(abs(self.scale.x(begin) - at.x()), begin, "begin")] if begin > 0 else []
            near += [(abs(self.scale.x(end) - at.x()), end, "end")]
        distance, hours, side = min(near, default=(EDGE_PX + 1.0, 0.0, "end"))
        return (row.machine, hours, side) if distance <= EDGE_PX else None
