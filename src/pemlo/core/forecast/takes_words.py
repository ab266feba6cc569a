"""What it would take, in words. Pure text."""

import math
from collections.abc import Callable, Sequence
from datetime import date

from pemlo.core.chances import chance_percent
from pemlo.core.forecast.moves_most import Move
from pemlo.core.forecast.what_it_takes import Addition, Kind, Step
from pemlo.core.units import HOUR_S, counted, format_span, round_figures

LITTLE = 0.02  # of the end: what moves it less is about the same
Moment = Callable[[float], str | None]


def more_words(kind: Kind, count: int) -> str:
    """Return how many more.

    Examples
    --------
    >>> more_words("machines", 3), more_words("nights", 1)
    ('3 more', '1 night more')
    """
    if kind == "machines":
        return f"{count} more"
    return f"{counted(count, 'night' if kind == 'nights' else 'day')} more"


def way_words(way: Addition, moment: Moment) -> str:
    """Return the fewest that are enough, and what comes of them."""
    if way.least is None:
        return f"{way.machine}: not even {_all_of(way)} enough"
    comes = come_to(way.least, moment)
    if not way.least.extra:
        return f"{way.machine}: none more; {comes}"
    if way.kind == "machines":
        return f"{way.machine}: {way.least.extra} more; {comes}"
    free = "free on" if way.kind == "nights" else "free round the clock on"
    return f"{way.machine}: {free} {more_words(way.kind, way.least.extra)} ({days_words(way.days)}); {comes}"


def _all_of(way: Addition) -> str:
    if way.kind == "machines":
        return f"{way.most} more are"
    free = "free on" if way.kind == "nights" else "free round the clock on"
    return f"{free} all {more_words(way.kind, way.most)} is"


def moves_words(moves: Sequence[Move], end_h: float) -> str:
    """Return which of some would move the end most; empty if none moves it more than a little.

    Parameters
    ----------
    moves : sequence of Move
        What moves it most first.
    end_h : float
        The middle end as it stands, hours since the start.
    """
    if not moves or moves[0].sooner_h < LITTLE * min(end_h, 1e6):
        return ""
    best = moves[0]
    more = {"machines": "One more of", "nights": "One night more of", "days": "One day more, round the clock, of"}
    sooner = "it ends only then" if math.isinf(best.sooner_h) else f"{format_span(best.sooner_h * HOUR_S)} sooner"
    if best.kind == "off":
        return f"Without {best.machine} it would end {sooner}: it takes one of the last frames, and is slow."
    return f"{more[best.kind]} {best.machine} would move the end most: {sooner}."


def days_words(days: Sequence[date]) -> str:
    """Return dates as people say them: the first and the last."""
    named = [f"{day:%a} {day.day} {day:%b}" for day in days]
    return named[0] if len(named) == 1 else f"{named[0]} to {named[-1]}"


def come_to(one: Step, moment: Moment) -> str:
    """Return what a number of more comes to."""
    cost = "" if one.cost is None else f", cost {round_figures(one.cost)}"
    return f"chance {chance_percent(one.probability)}, done {moment(one.finish_h) or 'never'}{cost}"
