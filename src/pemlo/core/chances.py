"""How a chance is written: in words and short. Pure.

Chances are counted over about a thousand draws: none of them and all of them are not certainties.
"""

import math

_LEAST_SHARE = 0.005


def chance_words(probability: float) -> str:
    """Write a chance for a sentence.

    Examples
    --------
    >>> chance_words(0.894), chance_words(0.999), chance_words(0.0)
    ('89 in 100', 'more than 99 in 100', 'less than 1 in 100')
    """
    return _bounded(probability, " in 100")


def chance_percent(probability: float) -> str:
    """Write a chance where there is little room.

    Examples
    --------
    >>> chance_percent(0.894), chance_percent(0.999), chance_percent(0.0)
    ('89%', 'more than 99%', 'less than 1%')
    """
    return _bounded(probability, "%")


def share_percent(share: float) -> str:
    """Write a share of a whole; a little is never nothing.

    Examples
    --------
    >>> share_percent(0.31), share_percent(1.0), share_percent(0.002)
    ('31%', '100%', 'less than 1%')
    """
    return f"{share:.0%}" if share >= _LEAST_SHARE else "less than 1%"


def _bounded(probability: float, unit: str) -> str:
    if not math.isfinite(probability):
        return "not known"
    percent = round(100 * probability)
    if percent <= 0:
        return f"less than 1{unit}"
    if percent >= 100:
        return f"more than 99{unit}"
    return f"{percent}{unit}"
