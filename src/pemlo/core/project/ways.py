"""Ways of rendering: another engine, method or quality, by a name and perhaps a number. Pure.

What a way costs is timed, never guessed from other ways; only a number that was not timed lies between its neighbours.
"""

import math
from collections.abc import Collection, Iterable

from pemlo.core.project.settings import WayCost, way_name
from pemlo.core.project.spelling import Way
from pemlo.core.project.trials import Trial


def way_costs(planned: Collection[Way], trials: Iterable[Trial]) -> tuple[WayCost, ...]:
    """Return every way that is planned or named, by its name; of those not timed, between which others they lie."""
    tried = tuple(trials)
    timed = {(trial.way, trial.way_value) for trial in tried if not trial.assumed and not trial.left_out}
    found = {}
    for way, value in {*planned, *((trial.way, trial.way_value) for trial in tried)} - {("", None)}:
        own = (way, value) in timed
        values = sorted(other for name, other in timed if name == way and other is not None)
        between = () if own or value is None else weights_between(value, values)
        found[way_name(way, value)] = tuple((way_name(way, other), weight) for other, weight in between)
    return tuple(WayCost(name, between) for name, between in sorted(found.items()))


def weights_between(value: float, timed: list[float]) -> tuple[tuple[float, float], ...]:
    """Return between which timed values another lies, with their weights: by logarithms where all are above 0.

    Beyond the last of them it counts as that one: nothing says how it goes on.

    Examples
    --------
    >>> weights_between(20, [10, 40]), weights_between(80, [10, 40]), weights_between(1, [])
    (((10, 0.5), (40, 0.5)), ((40, 1.0),), ())
    """
    if not timed:
        return ()
    below = [one for one in timed if one <= value]
    above = [one for one in timed if one >= value]
    if not below or not above:
        return ((timed[0] if not below else timed[-1], 1.0),)
    low, high = below[-1], above[0]
    if low == high:
        return ((low, 1.0),)
    place = (value - low) / (high - low)
    if low > 0:
        place = math.log(value / low) / math.log(high / low)
    return ((low, 1.0 - place), (high, place))
