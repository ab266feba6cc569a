"""The two plots of the trials stage: the ladder, and cost along the shot. GUI thread."""

import numpy as np
from PySide6.QtCore import Qt

from pemlo.core.arrays import Floats
from pemlo.core.units import format_duration
from pemlo.gui.common.axes import doubling_axis, duration_axis, factor_axis, frame_axis, percent_axis
from pemlo.gui.common.plot import BAND_OPACITY, Plot
from pemlo.gui.trials.presenter import Along, Ladder, NoiseLadder, TrialDot


def make_ladder_plot() -> Plot:
    """Return an empty ladder plot: time over samples at the left, noise over the same samples at the right."""
    return Plot("Ladder plot", duration_axis("time of a frame"), doubling_axis("samples a pixel that were spent"))


def make_along_plot() -> Plot:
    """Return an empty plot along the shot."""
    return Plot("Cost along the shot", factor_axis("against the typical frame"), frame_axis("frame", 1, 1))


def draw_ladder(plot: Plot, ladder: Ladder) -> None:
    """Show a ladder: the plan's line with its band, dashed lines for other sizes, trials, and the plan itself."""
    plot.clear()
    plan_line = next(line for line in ladder.lines if line.plan)
    x = np.log10(plan_line.samples)
    plot.add_band(x, np.log10(plan_line.curve.low), np.log10(plan_line.curve.high), "time_light")
    _add_noise(plot, ladder.noise)
    for line in ladder.lines:
        across, up = np.log10(line.samples), np.log10(line.curve.middle)
        if line.plan:
            plot.add_line(across, up, "time")
        else:
            plot.add_line(across, up, "time", 1.3, Qt.PenStyle.DashLine, opacity=0.6)
        plot.add_words(line.label, float(across[-1]), float(up[-1]), (1, 1), "time")
    dots = np.array([(dot.x, dot.y) for dot in ladder.dots]).reshape(-1, 2)
    _add_trials(plot, ladder.dots, np.log10(dots))
    samples, low, middle, high = ladder.plan
    plot.show_ring(samples, middle, "time")
    words = f"as planned: {format_duration(middle)} ({format_duration(low)} to {format_duration(high)})"
    plot.add_words(words, float(np.log10(samples)), float(np.log10(middle)), (1.03, 1.15), "time", strong=True)
    seconds = [
        values
        for line in ladder.lines
        for values in ((line.curve.low, line.curve.high) if line.plan else (line.curve.middle,))
    ]
    plot.set_range(np.log10(ladder.lines[0].samples), np.log10(np.concatenate([*seconds, dots[:, 1]])))


def _add_noise(plot: Plot, noise: NoiseLadder) -> None:
    """Show the noise that trials left, as diamonds, and how it falls with samples, dotted."""
    if not noise.dots:
        return
    curve = noise.curve
    values = [dot.y for dot in noise.dots]
    if curve is not None:
        x = np.log10(curve.x)
        low, middle, high = (np.log10(part) for part in (curve.low, curve.middle, curve.high))
        plot.add_band(x, low, high, "picture_light", BAND_OPACITY, right=True)
        plot.add_line(x, middle, "picture", 1.3, Qt.PenStyle.DotLine, right=True)
        values += [float(curve.high[0]), float(curve.low[-1])]
    at = np.log10([(dot.x, dot.y) for dot in noise.dots])
    plot.add_dots(noise.dots, at[:, 0], at[:, 1], "picture", "d", right=True)
    plot.set_right(percent_axis("noise left, % of brightness"), np.log10(values))


def _add_trials(plot: Plot, dots: tuple[TrialDot, ...], at: Floats) -> None:
    """Show trials at (K, 2) places; those that look like a slip as crosses."""
    for doubtful in (False, True):
        chosen = [number for number, dot in enumerate(dots) if dot.doubtful == doubtful]
        colour, symbol = ("limit", "x") if doubtful else ("time", "o")
        plot.add_dots([dots[number] for number in chosen], at[chosen, 0], at[chosen, 1], colour, symbol)


def draw_along(plot: Plot, along: Along, next_frame: int | None) -> None:
    """Show the course of cost with its band, the trials, and where to time next."""
    plot.clear()
    curve = along.curve
    first, last = float(curve.x[0]), float(curve.x[-1])
    plot.bottom = frame_axis("frame", int(first), int(last))
    low, middle, high = (np.log10(values) for values in (curve.low, curve.middle, curve.high))
    plot.add_band(curve.x, low, high, "time_light")
    plot.add_line(curve.x, middle, "time")
    dots = np.array([(dot.x, np.log10(dot.y)) for dot in along.dots]).reshape(-1, 2)
    up = np.concatenate([low, high, dots[:, 1]])
    if next_frame is not None:
        plot.add_moment(next_frame, "ink")
        anchor = (1.03 if next_frame > (first + last) / 2 else -0.03, 0.1)
        plot.add_words("time this one next", next_frame, float(up.max()), anchor, "time", strong=True)
    _add_trials(plot, along.dots, dots)
    plot.set_range(np.array([first, max(last, first + 1.0)]), up, margins=(0.05, 0.12))
