"""What it would take, in words. Pure text."""

import math
from collections.abc import Callable, Sequence
from datetime import date

from pemlo.core.chances import chance_percent
from pemlo.core.farm.money import amount_words
from pemlo.core.forecast.moves_most import Move
from pemlo.core.forecast.renting import Rented
from pemlo.core.forecast.what_it_takes import Addition, Kind, Step
from pemlo.core.units import HOUR_S, counted, format_span, round_figures

LITTLE = 0.02  # of the end, or of what it costs: less is about the same
MOST_SPANS = 3
Moment = Callable[[float], str | None]


def more_words(kind: Kind, count: int) -> str:
    """Return how many more.

    Examples
    --------
    >>> more_words("machines", 3), more_words("nights", 1)
    ('3 more', '1 night more')
    """
    if kind == "rent":
        return f"{counted(count, 'hour')} rented"
    if kind == "machines":
        return f"{count} more"
    return f"{counted(count, 'night' if kind == 'nights' else 'day')} more"


def way_words(way: Addition, moment: Moment, currency: str = "") -> str:
    """Return the fewest that are enough, and what comes of them."""
    if way.kind == "rent":
        return rent_words(way, moment, currency)
    if way.least is None:
        return f"{way.machine}: not even {_all_of(way)} enough"
    comes = come_to(way.least, moment, currency)
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


def rent_words(way: Addition, moment: Moment, currency: str) -> str:
    """Return which machines to rent for which hours, what that costs, and what a day later would."""
    if way.least is None:
        alone = f"Not even with all {counted(way.most, 'hour')} of the rented machines"
        later = way.a_day_later
        if later is None or later.cost is None:
            return alone
        return f"{alone}. A day later they are enough, for {amount_words(later.cost, currency)}"
    comes = come_to(way.least, moment, currency)
    if not way.least.extra:
        words = f"No machine need be rented: {comes}"
    else:
        used = [rental for rental in way.rented if rental.hours]
        words = f"Rent {'; '.join(_hours_of(rented, moment) for rented in used)}: {comes}"
    entered, least = way.as_entered, way.least.cost or 0.0
    if entered is not None and entered.cost is not None and entered.cost > least * (1 + LITTLE):
        words += f". As entered they cost {amount_words(entered.cost, currency)}"
    later = way.a_day_later
    if later is not None and later.cost is not None and later.cost < least * (1 - LITTLE):
        words += f". A day later saves {amount_words(least - later.cost, currency)}"
    return words


def _hours_of(rented: Rented, moment: Moment) -> str:
    named = [f"{moment(begin)} to {moment(end)}" for begin, end in rented.spans[:MOST_SPANS]]
    more = f" and {len(rented.spans) - MOST_SPANS} times more" if len(rented.spans) > MOST_SPANS else ""
    many = f"{rented.count} of {rented.machine} for {round_figures(rented.hours)} h together"
    what = many if rented.count > 1 else f"{rented.machine} for {round_figures(rented.hours)} h"
    return f"{what} ({', '.join(named)}{more})"


def come_to(step: Step, moment: Moment, currency: str = "") -> str:
    """Return what a number of more comes to."""
    cost = "" if step.cost is None else f", cost {amount_words(step.cost, currency)}"
    return f"chance {chance_percent(step.probability)}, done {moment(step.finish_h) or 'never'}{cost}"
