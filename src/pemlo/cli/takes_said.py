"""What it would take to be done in time, as data and as lines for people."""

from collections.abc import Callable, Sequence
from datetime import date
from typing import Any

from pemlo.core.forecast.what_it_takes import SEARCH_DRAWS, Addition, Step
from pemlo.core.units import counted, round_figures

Moment = Callable[[float], str | None]


def takes_json(ways: Sequence[Addition], moment: Moment) -> list[dict[str, Any]]:
    """Return the ways as plain data; `moment` writes hours since the start, None for never."""

    def step(one: Step) -> dict[str, Any]:
        cost = None if one.cost is None else float(f"{one.cost:.6g}")
        return {"extra": one.extra, "odds": one.probability, "finish": moment(one.finish_h), "cost": cost}

    return [
        {
            "kind": way.kind,
            "machine": way.machine,
            "least": None if way.least is None else step(way.least),
            "most_tried": way.most,
            "days": [day.isoformat() for day in way.days],
            "curve": [step(one) for one in way.curve],
        }
        for way in ways
    ]


def takes_text(ways: Sequence[Addition], wanted: float, moment: Moment) -> list[str]:
    """Return the ways as lines: the fewest that are enough, then what other numbers come to."""
    lines = [f"for {wanted:.0%} it would take"]
    for way in ways:
        lines.append(f"  {_in_short(way, moment)}")
        lines += [f"    {_more(way, one.extra):>12}  {_come_to(one, moment)}" for one in way.curve]
    return [*lines, f"  (the rows from {SEARCH_DRAWS} runs, what is enough from all)"]


def _more(way: Addition, extra: int) -> str:
    return f"{extra} more" if way.kind == "machines" else f"{counted(extra, 'day')} more"


def _in_short(way: Addition, moment: Moment) -> str:
    if way.least is None:
        if way.kind == "machines":
            return f"{way.machine}: not even {way.most} more are enough"
        return f"{way.machine}: not even free round the clock on all {counted(way.most, 'day')} more is enough"
    if not way.least.extra:
        return f"{way.machine}: none more; {_come_to(way.least, moment)}"
    if way.kind == "machines":
        return f"{way.machine}: {way.least.extra} more; {_come_to(way.least, moment)}"
    days = counted(way.least.extra, "day")
    return f"{way.machine}: free round the clock on {days} more ({_said(way.days)}); {_come_to(way.least, moment)}"


def _said(days: Sequence[date]) -> str:
    named = [f"{day:%a} {day.day} {day:%b}" for day in days]
    return named[0] if len(named) == 1 else f"{named[0]} to {named[-1]}"


def _come_to(one: Step, moment: Moment) -> str:
    cost = "" if one.cost is None else f", {round_figures(one.cost)} of money"
    return f"chance {one.probability:.0%}, done {moment(one.finish_h) or 'never'}{cost}"
