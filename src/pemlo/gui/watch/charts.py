"""Two small charts: predicted against actual along a shot, and how the finish moved since the launch. GUI thread."""

from dataclasses import dataclass

import numpy as np
from PySide6.QtCore import Qt

from pemlo.core.project.project import Project
from pemlo.core.units import format_duration
from pemlo.gui.common.axes import Axis, frame_axis, seconds_axis
from pemlo.gui.common.plot import Plot
from pemlo.gui.watch.presenter import CostProfileShown, MovesShown
from pemlo.words.verdicts import say_hours

FRAME_PX, WORD_PX = 2.2, 14.0


@dataclass(frozen=True)
class _FrameIn:
    """A frame that is in, as a dot."""

    index: int
    seconds: float

    @property
    def words(self) -> str:
        return f"frame {self.index}: {format_duration(self.seconds)}"


class CostProfileChart(Plot):
    """A frame's seconds along the picked shot: the band that was predicted, and a dot for each frame that is in."""

    def __init__(self) -> None:
        name = "Predicted against actual along the shot"
        super().__init__(name, seconds_axis("time of a frame"), frame_axis("frame", 1, 1))

    def show_cost_profile(self, shown: CostProfileShown | None) -> None:
        """Show a shot, or nothing."""
        self.clear()
        if shown is None:
            return
        self.bottom = frame_axis("frame", shown.first, shown.last)
        self.add_band(shown.at, shown.low, shown.high, "time_light")
        self.add_line(shown.at, shown.middle, "time", 1.4, Qt.PenStyle.DashLine)
        if shown.updated is not None:
            self.add_line(shown.at, shown.updated, "ink", 1.6)
        known = np.isfinite(shown.seconds)
        frames, seconds = shown.frames[known], shown.seconds[known]
        dots = [_FrameIn(int(frame), float(took)) for frame, took in zip(frames, seconds, strict=True)]
        self.add_dots(dots, frames.astype(float), seconds, "ink", size=FRAME_PX)
        values = np.concatenate([shown.low, shown.high, seconds])
        first, top = float(shown.first), float(values.max())
        self.add_words("╌ predicted", first, top, (0, 0.5), "time")
        if shown.updated is not None:
            self.add_words("— as known now", first, top, (0, 0.5), "ink")
        self.set_range(np.array([shown.first, max(shown.last, shown.first + 1)], float), values)
        self.setAccessibleDescription(f"{shown.words} {self.values()}")


class MovesChart(Plot):
    """How the predicted finish moved: the middle, the band of nine in ten, and the deadline across."""

    def __init__(self) -> None:
        none = Axis("", lambda _low, _high, _size: [], str)
        super().__init__("How the finish moved since the launch", none, none)
        self.nothing = "Shown once two frames have come at different times."

    def show_moves(self, project: Project, shown: MovesShown | None) -> None:
        """Show how it moved, or nothing."""
        self.clear()
        if shown is None or len(shown.at) < 2:
            return
        due = shown.due_h
        first, last = float(shown.at[0]), float(max(shown.at[-1], shown.at[0] + 0.1))
        days = {hours: words for hours, words in shown.midnights if abs(hours - due) > 1e-6} | {due: "due"}

        def moment(hours: float) -> str:
            return say_hours(hours, project)

        def ticks(low: float, high: float, size: float) -> list[float]:
            near = WORD_PX * (high - low) / max(size, 1.0)
            return sorted(hours for hours in days if hours == due or abs(hours - due) > near)

        self.left = Axis("likely finish", ticks, lambda hours: days[hours])
        self.bottom = Axis("as known at", lambda _low, _high, _size: [first, last], moment)
        self.add_band(shown.at, shown.low, shown.high, "time_light")
        self.add_line(shown.at, shown.middle, "time", 1.8)
        self.add_level(due, "limit")
        ends = np.concatenate([shown.low, shown.high, [due]])
        self.set_range(np.array([first, last]), ends, margins=(0.0, 0.04))
        at_first, at_last = moment(float(shown.middle[0])), moment(float(shown.middle[-1]))
        self.setAccessibleDescription(f"Likely finish {at_first} at first, {at_last} now; due {moment(due)}.")
