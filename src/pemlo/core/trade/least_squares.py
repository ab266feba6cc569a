"""One option for each shot with the least sum of costs within a budget of hours, and how far from the least it can be.

With a price on hours each shot chooses by itself, and that bounds every choice from below [1]_. Where few options are
left that could better the one that this leads to, an exact search goes on among them [2]_; in a film of a thousand
shots nothing is won by that: the bound is nearer than a ten thousandth.

References
----------
.. [1] M. Fisher, "The Lagrangian relaxation method for solving integer programming problems", Management Science 27,
   1981 (from memory).
.. [2] Q. Huangfu, J. Hall, "Parallelizing the dual revised simplex method", Math. Prog. Comp. 10, 2018 (HiGHS).
"""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

from pemlo.core.arrays import Floats
from pemlo.core.output import kept_from_standard_output

MOST_EXACT = 300  # options, beyond one a shot, among which the exact search is quick
_HIGHEST_PRICE, _PRICE_STEPS = 1e12, 50
_LONGEST_S = 20.0  # of the exact search; what it did not prove then is said
_SOLVED = 0  # what the solver says of a solution that is proved to be the best
_ROUNDING = 1e-9


@dataclass(frozen=True)
class Choice:
    """An option of each shot.

    Attributes
    ----------
    chosen : tuple of int
        Its place among all options of the shot.
    gap : float
        The share of its cost by which another choice can be cheaper at most; 0 where there is none.
    """

    chosen: tuple[int, ...]
    gap: float


def least_sum(
    costs: Sequence[Floats], hours: Sequence[Floats], among: Sequence[npt.NDArray[np.intp]], budget: float
) -> Choice | None:
    """Return the options with the least sum of costs whose hours are within a budget; None if none are.

    Parameters
    ----------
    costs, hours : sequence of (K,) ndarray
        Of the options of each shot.
    among : sequence of ndarray of int
        The options of each shot that may be chosen.
    budget : float
        Hours.
    """
    if not all(len(k) for k in among):
        return None
    pairs = [(c[k], h[k]) for c, h, k in zip(costs, hours, among, strict=True)]
    price, bound = _best_price(pairs, budget)
    picks = _at(pairs, price)
    if _sum(pairs, picks)[1] > budget:  # rounding, or hours that are absurd: the fewest there are
        picks = [int(np.argmin(h)) for _, h in pairs]
        if _sum(pairs, picks)[1] > budget:
            return None
    picks = _filled(pairs, picks, budget)
    cost = _sum(pairs, picks)[0]
    kept = _could_better(pairs, price, cost, bound)
    left = sum(map(len, kept)) - len(kept)
    if left == 0:
        bound = cost
    elif left <= MOST_EXACT:
        found = _exact(pairs, kept, budget)
        if found is not None:
            exact, lowest = found
            bound = max(bound, lowest)
            if _sum(pairs, exact)[0] <= cost:
                picks, cost = exact, _sum(pairs, exact)[0]
    gap = max(0.0, (cost - bound) / cost) if cost > 0 else 0.0
    return Choice(tuple(int(k[pick]) for k, pick in zip(among, picks, strict=True)), gap if gap > _ROUNDING else 0.0)


Pairs = Sequence[tuple[Floats, Floats]]


def _at(pairs: Pairs, price: float) -> list[int]:
    """Return what each shot chooses by itself at a price of an hour."""
    return [int(np.argmin(c + price * h)) for c, h in pairs]


def _sum(pairs: Pairs, picks: Sequence[int]) -> tuple[float, float]:
    """Return the cost and the hours of a choice."""
    cost = sum(float(c[k]) for (c, _), k in zip(pairs, picks, strict=True))
    return cost, sum(float(h[k]) for (_, h), k in zip(pairs, picks, strict=True))


def _best_price(pairs: Pairs, budget: float) -> tuple[float, float]:
    """Return the least price of an hour at which shots by themselves keep a budget, and the highest bound found."""

    def reached(price: float) -> tuple[float, float]:
        cost, taken = _sum(pairs, _at(pairs, price))
        return cost + price * (taken - budget), taken

    low, high = 0.0, 1e-9
    while reached(high)[1] > budget and high < _HIGHEST_PRICE:
        low, high = high, 4 * high
    for _ in range(_PRICE_STEPS):
        middle = (low + high) / 2
        low, high = (middle, high) if reached(middle)[1] > budget else (low, middle)
    return high, max(reached(high)[0], reached(low)[0])


def _filled(pairs: Pairs, picks: list[int], budget: float) -> list[int]:
    """Return a choice in which the hours that are left over buy what they can, the largest gain first."""
    picks, left = list(picks), budget - _sum(pairs, picks)[1]
    while True:
        gain, change = 0.0, None
        for shot, (c, h) in enumerate(pairs):
            now = picks[shot]
            gains = np.where(h - h[now] <= left, c[now] - c, 0.0)
            best = int(np.argmax(gains))
            if gains[best] > gain:
                gain, change = float(gains[best]), (shot, best)
        if change is None:
            return picks
        shot, best = change
        left -= float(pairs[shot][1][best] - pairs[shot][1][picks[shot]])
        picks[shot] = best


def _could_better(pairs: Pairs, price: float, cost: float, bound: float) -> list[npt.NDArray[np.intp]]:
    """Return the options of each shot that a cheaper choice than a known one can have."""
    room = (cost - bound) * (1 + _ROUNDING) + _ROUNDING * abs(cost)
    return [np.flatnonzero(c + price * h - np.min(c + price * h) <= room) for c, h in pairs]


def _exact(pairs: Pairs, kept: Sequence[npt.NDArray[np.intp]], budget: float) -> tuple[list[int], float] | None:
    """Return the cheapest choice among some options, and a cost below which there is none; None if none was found."""
    from scipy import sparse  # noqa: PLC0415 - heavy to load
    from scipy.optimize import Bounds, LinearConstraint, milp  # noqa: PLC0415 - as above

    cost = np.concatenate([c[k] for (c, _), k in zip(pairs, kept, strict=True)])
    hours = np.concatenate([h[k] for (_, h), k in zip(pairs, kept, strict=True)])
    owner = np.repeat(np.arange(len(kept)), [len(k) for k in kept])
    one_each = sparse.csr_array((np.ones(len(owner)), (owner, np.arange(len(owner)))))
    in_budget = LinearConstraint(hours[None, :] / max(budget, 1e-12), -np.inf, 1.0)
    unit = max(float(cost.max()), 1e-12)
    with kept_from_standard_output():
        found = milp(
            cost / unit,
            integrality=np.ones(len(cost), int),
            bounds=Bounds(0, 1),
            constraints=[LinearConstraint(one_each, 1, 1), in_budget],
            # What presolving would do is done above.
            options={"mip_rel_gap": 0.0, "presolve": False, "time_limit": _LONGEST_S},
        )
    if found.x is None:
        return None
    picks = [int(kept[shot][np.argmax(found.x[owner == shot])]) for shot in range(len(kept))]
    if _sum(pairs, picks)[1] > budget * (1 + _ROUNDING):
        return None
    solved = found.status == _SOLVED
    return picks, _sum(pairs, picks)[0] if solved else unit * float(found.mip_dual_bound or -np.inf)
