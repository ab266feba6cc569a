"""Charts of the case as SVG: the tape, and the fall from as asked to the plan. Pure text.

Words are escaped where they are written; colours and sizes stand in attributes, which every reader of SVG knows.
"""

from collections.abc import Sequence
from html import escape

import numpy as np

from pemlo.core import palette
from pemlo.core.forecast.finish_density import FLAT, density, last_hour
from pemlo.core.forecast.ledger import in_units, said_in
from pemlo.core.forecast.time_ticks import time_ticks
from pemlo.core.forecast.verdict import Forecast
from pemlo.core.project.project import Project
from pemlo.core.trade.levers import lever_name
from pemlo.core.trade.waterfall import Waterfall
from pemlo.core.units import round_figures
from pemlo.words.verdicts import say_moment

WIDTH = 680
_TAPE_HIGH, _BASE, _MARGIN = 118, 94, 8
_FALL_HIGH = 190
_LETTER = 6.0  # px of a letter, roughly
_BESIDE = 112.0  # px right of the bars, for words
_INK = palette.DAY


def _text(x: float, y: float, words: str, *, colour: str = "second", anchor: str = "start", weight: int = 400) -> str:
    return (
        f'<text x="{x:.1f}" y="{y:.1f}" font-size="11" font-weight="{weight}" text-anchor="{anchor}" '
        f'fill="{_INK[colour]}">{escape(words)}</text>'
    )


def _rect(x: float, y: float, wide: float, high: float, colour: str, opacity: float = 1.0) -> str:
    return (
        f'<rect x="{x:.1f}" y="{y:.1f}" width="{wide:.1f}" height="{max(high, 0.0):.1f}" fill="{_INK[colour]}" '
        f'fill-opacity="{opacity}"/>'
    )


def _line(x1: float, y1: float, x2: float, y2: float, colour: str, wide: float = 1.0, dash: str = "") -> str:
    dashed = f' stroke-dasharray="{dash}"' if dash else ""
    return (
        f'<line x1="{x1:.1f}" y1="{y1:.1f}" x2="{x2:.1f}" y2="{y2:.1f}" stroke="{_INK[colour]}" '
        f'stroke-width="{wide}"{dashed}/>'
    )


def _svg(high: float, parts: Sequence[str], says: str) -> str:
    return (
        f'<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 {WIDTH} {high}" width="{WIDTH}" height="{high}" '
        f'role="img" font-family="Inter, sans-serif"><title>{escape(says)}</title>{"".join(parts)}</svg>'
    )


def tape_svg(project: Project, forecast: Forecast) -> str:
    """Return the tape: what machines can do at each hour, as far as it is needed, and how the end is spread."""
    due_h = project.deadline_h
    end_h = last_hour(forecast, due_h)
    wide = WIDTH - 2 * _MARGIN

    def x(hours: float) -> float:
        return _MARGIN + hours / end_h * wide

    curve = forecast.capacity
    at = np.append(curve.at[curve.at < end_h], end_h)
    rate = curve.rate[: len(at) - 1]
    tallest = max(float(rate.max(initial=0.0)), 1e-9)
    needed = float(np.median(forecast.finish_h)) if len(forecast.finish_h) else 0.0
    parts = []
    for begin, end, height in zip(at[:-1], at[1:], rate, strict=True):
        if height <= 0:
            continue
        high = 40.0 * float(height) / tallest
        for left, right, colour, opacity in (
            (begin, min(end, needed), "time", 0.62),
            (max(begin, needed), end, "time_light", 1.0),
        ):
            if right > left:
                parts.append(_rect(x(left), _BASE - high, x(right) - x(left) + 0.3, high, colour, opacity))
    parts += _hump_parts(forecast, due_h, end_h)
    parts.append(_line(_MARGIN, _BASE, WIDTH - _MARGIN, _BASE, "ink", 1.4))
    for tick in time_ticks(project, 0.0, end_h, wide):
        parts.append(_line(x(tick.hours), _BASE, x(tick.hours), _BASE + (6 if tick.midnight else 3), "second"))
        if tick.words and tick.midnight and x(tick.hours) < WIDTH - 50:
            parts.append(_text(x(tick.hours) + 4, _BASE + 15, tick.words))
    due = f"due {say_moment(project.delivery.deadline, project)}"
    parts.append(_line(x(due_h), 6, x(due_h), _BASE + 6, "limit", 2.4))
    parts.append(_text(x(due_h) - 6, 16, due, colour="limit", anchor="end", weight=600))
    parts.append(_text(_MARGIN, 16, f"start {say_moment(project.start, project)}"))
    if forecast.finish is not None:
        # Beside the deadline where there is room, else a line lower.
        words = f"50 % by {say_moment(forecast.finish[1], project)}"
        low = x(due_h) + 6 > WIDTH - _MARGIN - _LETTER * len(words)
        parts.append(_text(WIDTH - _MARGIN, 30 if low else 16, words, anchor="end"))
    parts.append(_text(_MARGIN, _BASE - 44, f"{round_figures(tallest, 2)} machine-hours an hour at most"))
    return _svg(_TAPE_HIGH, parts, "Machine-hours by time, and when the film is done")


def _hump_parts(forecast: Forecast, due_h: float, end_h: float) -> list[str]:
    if not len(forecast.finish_h):
        return []
    curve = density(forecast.finish_h, end_h)
    parts = []
    for past in (False, True):
        inside = curve.at > due_h if past else curve.at <= due_h
        at, height = curve.at[inside], curve.height[inside]
        if len(at) < 2 or height.max() < FLAT:
            continue
        points = [(float(at[0]), 0.0), *zip(at.tolist(), height.tolist(), strict=True), (float(at[-1]), 0.0)]
        shape = " ".join(
            f"{_MARGIN + hours / end_h * (WIDTH - 2 * _MARGIN):.1f},{_BASE - 52 * tall:.1f}" for hours, tall in points
        )
        colour, line = ("limit_light", "limit") if past else ("time", "time")
        parts.append(
            f'<polygon points="{shape}" fill="{_INK[colour]}" fill-opacity="{0.85 if past else 1}" '
            f'stroke="{_INK[line]}" stroke-width="1.2"/>'
        )
    return parts


def fall_svg(fall: Waterfall, available_h: float) -> str:
    """Return the fall: bars from as asked to the plan, one for each lever, against the machine-hours there are."""
    unit = fall.unit
    bars: list[tuple[str, float, float, str]] = [("as asked", 0.0, in_units(fall.asked.middle, unit), "time")]
    for bar in fall.bars():
        name = lever_name(bar.steps[0].lever) if len(bar.steps) == 1 else f"others ({len(bar.steps)})"
        bars.append((name, bar.start, bar.end, "picture"))
    bars.append(("plan", 0.0, in_units(fall.plan.middle, unit), "time"))
    top = 1.08 * max(available_h, *(max(bar[1], bar[2]) for bar in bars), fall.asked.high, 1e-3)
    left, base, head, right = 8.0, _FALL_HIGH - 26.0, 14.0, WIDTH - _BESIDE

    def y(hours: float) -> float:
        return base - hours / top * (base - head)

    room = (right - left) / len(bars)
    wide = min(0.6 * room, 74.0)
    parts = []
    for number, (name, begin, end, colour) in enumerate(bars):
        x = left + room * (number + 0.5) - wide / 2
        middle, high, low = x + wide / 2, y(max(begin, end)), y(min(begin, end))
        parts.append(_rect(x, high, wide, max(low - high, 1.5), colour))
        ends = number in (0, len(bars) - 1)
        if ends:  # how far the hours may be off
            points = fall.asked if number == 0 else fall.plan
            parts.append(_line(x + wide - 6, y(points.low), x + wide - 6, y(points.high), "ink", 1.4))
            parts.append(_text(middle - 3, base - 6, said_in(end, unit), colour="raised", anchor="middle", weight=600))
        else:
            apart = said_in(abs(begin - end), unit)
            said = "about 0" if apart == "0" else f"{'−' if begin > end else '+'}{apart}"
            parts.append(_text(middle, low + 13, said, colour="ink", anchor="middle", weight=600))
        parts.append(_text(middle, base + 15, name, anchor="middle"))
        if number + 1 < len(bars):
            parts.append(_line(x + wide, y(end), x + room, y(end), "second", 0.8))
    parts.append(_line(left, base, right, base, "ink", 1.4))
    parts.append(_line(left, y(available_h), right + 4, y(available_h), "limit", 1.6, "6 3"))
    for row, words in enumerate((f"{said_in(available_h, unit)} machine-", "hours available")):
        parts.append(_text(right + 8, y(available_h) + 4 + 13 * row, words, colour="limit", weight=600))
    return _svg(_FALL_HIGH, parts, "Machine-hours from as asked to the plan")
