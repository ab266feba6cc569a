"""What it would take, in words. Pure text."""

from collections.abc import Callable, Sequence
from datetime import date

from pemlo.core.forecast.what_it_takes import Addition, Kind, Step
from pemlo.core.units import counted, round_figures

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


def days_words(days: Sequence[date]) -> str:
    """Return dates as people say them: the first and the last."""
    named = [f"{day:%a} {day.day} {day:%b}" for day in days]
    return named[0] if len(named) == 1 else f"{named[0]} to {named[-1]}"


def come_to(one: Step, moment: Moment) -> str:
    """Return what a number of more comes to."""
    cost = "" if one.cost is None else f", {round_figures(one.cost)} of money"
    return f"chance {one.probability:.0%}, done {moment(one.finish_h) or 'never'}{cost}"
