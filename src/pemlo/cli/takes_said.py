"""What it would take to be done in time, and what other orders give, as data and as lines for people."""

from collections.abc import Sequence
from typing import Any

from pemlo.core.chances import chance_percent
from pemlo.core.forecast.best_order import TRIED_DRAWS, TriedOrder
from pemlo.core.forecast.what_it_takes import Addition, Step
from pemlo.words.takes import Moment, come_to, more_words, way_words


def takes_json(ways: Sequence[Addition], moment: Moment) -> list[dict[str, Any]]:
    """Return the ways as plain data; `moment` writes hours since the start, None for never."""

    def step(one: Step) -> dict[str, Any]:
        cost = None if one.cost is None else float(f"{one.cost:.6g}")
        return {"extra": one.extra, "odds": one.probability, "finish": moment(one.finish_h), "cost": cost}

    def rent(way: Addition) -> dict[str, Any]:
        return {
            "rented": [
                {
                    "machine": rental.machine,
                    "hours": float(f"{rental.hours:.6g}"),
                    "spans": [[moment(end) for end in span] for span in rental.spans],
                }
                for rental in way.rented
            ],
            "as_entered": None if way.as_entered is None else step(way.as_entered),
            "a_day_later": None if way.a_day_later is None else step(way.a_day_later),
        }

    return [
        {
            "kind": way.kind,
            "machine": way.machine,
            "least": None if way.least is None else step(way.least),
            "most_tried": way.most,
            "days": [day.isoformat() for day in way.days],
            "curve": [step(one) for one in way.curve],
        }
        | ({} if way.kind != "rent" else rent(way))
        for way in ways
    ]


def takes_text(ways: Sequence[Addition], wanted: float, moment: Moment, currency: str = "") -> list[str]:
    """Return the ways as lines: the fewest that are enough, then what other numbers come to."""
    lines = [f"for {wanted:.0%} it would take"]
    for way in ways:
        lines.append(f"  {way_words(way, moment, currency)}")
        lines += [
            f"    {more_words(way.kind, step.extra):>14}  {come_to(step, moment, currency)}" for step in way.curve
        ]
    return lines


def orders_json(orders: Sequence[TriedOrder], moment: Moment) -> list[dict[str, Any]]:
    """Return orders as plain data: the one that stands, then the others, the best first."""
    return [
        {
            "order": order.order,
            "queue": list(order.queue),
            "odds": order.probability,
            "dates_kept": order.dates,
            "finish": moment(order.end_h),
        }
        for order in orders
    ]


def orders_text(orders: Sequence[TriedOrder], moment: Moment) -> list[str]:
    """Return orders as lines."""
    lines = [f"orders of the shots, from {TRIED_DRAWS} runs each"]
    for number, tried_order in enumerate(orders):
        shots = f" ({' '.join(tried_order.queue)})" if tried_order.order == "by hand" else ""
        stands = ", as now" if number == 0 else ""
        lines.append(
            f"  {tried_order.order}{shots}{stands}: done {moment(tried_order.end_h) or 'never'}, "
            f"chance {chance_percent(tried_order.probability)}, {tried_order.dates:.0%} of the dates kept"
        )
    return lines
