"""What it would take to be done in time, as data and as lines for people."""

from collections.abc import Sequence
from typing import Any

from pemlo.core.forecast.takes_words import Moment, come_to, more_words, way_words
from pemlo.core.forecast.what_it_takes import SEARCH_DRAWS, Addition, Step


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
        lines.append(f"  {way_words(way, moment)}")
        lines += [f"    {more_words(way.kind, one.extra):>12}  {come_to(one, moment)}" for one in way.curve]
    return [*lines, f"  (the rows from {SEARCH_DRAWS} runs, what is enough from all)"]
