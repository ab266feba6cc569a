"""Speed of planning a film of 60 shots with 500 options each: a table of `./dev bench`."""

import statistics
import time
from collections.abc import Callable, Sequence

import numpy as np

from pemlo.core.trade.best_plan import Wish, best_plan
from pemlo.core.trade.fall import ShotFall, film_fall
from pemlo.core.trade.options import Options
from pemlo.core.trade.prices import most_for_least, steps_from
from plan_study import CONFIDENCE, made_up

SHOTS, TIMES = 60, 5
BUDGET_STEPS = 400


def film() -> list[Options]:
    dice = np.random.default_rng(11)
    return [one for _ in range(3) for one in made_up(dice)][:SHOTS]


def timed(work: Callable[[], object], times: int = TIMES) -> float:
    """Return the median milliseconds of some runs, after one to warm up."""
    work()
    taken = []
    for _ in range(times):
        began = time.perf_counter()
        work()
        taken.append(1000 * (time.perf_counter() - began))
    return statistics.median(taken)


def plain_search(options: Sequence[Options], there: float) -> float:
    """Return the least sum of squares in the hours there are, trying every option on a grid of hours; plain Python."""
    step = there / BUDGET_STEPS
    best = [0.0] * (BUDGET_STEPS + 1)
    for one in options:
        pairs = [(int(np.ceil(h / step)), e * e) for h, e in zip(one.middle_hours, one.error, strict=True)]
        after = [float("inf")] * (BUDGET_STEPS + 1)
        for cost, square in pairs:
            for budget in range(cost, BUDGET_STEPS + 1):
                value = best[budget - cost] + square
                after[budget] = min(after[budget], value)
        best = after
    return best[-1]


def main() -> None:
    options = film()
    asked = float(sum(one.middle_hours[0] for one in options))
    wishes = [Wish("picture", share * asked, CONFIDENCE) for share in (0.4, 0.6, 0.8)]
    exact = [timed(lambda wish=wish: best_plan(options, wish)) for wish in wishes]  # type: ignore[misc]
    plain = timed(lambda: plain_search(options, 0.6 * asked), 1)
    falls = [ShotFall(one.shot, ("samples", "denoise"), one.hours[[0, 5, 9]]) for one in options]
    dragged = timed(lambda: film_fall(falls))
    price = timed(lambda: steps_from(options[0], 40))
    steps = [step for one in options for step in steps_from(one, 40)]
    ranked = timed(lambda: most_for_least(steps, 5))
    print(f"\n| a film of {SHOTS} shots with {len(options[0].settings)} options each | median | against plain Python |")
    print("|---|---|---|")
    print(f"| every option on a grid of {BUDGET_STEPS} hours, plain Python, least squares only | {plain:.0f} ms | 1 |")
    for wish, taken in zip(wishes, exact, strict=True):
        share = wish.there / asked
        print(f"| the exact plan, {share:.0%} of the hours as asked there | {taken:.0f} ms | {taken / plain:.3f} |")
    print(f"| while a lever is dragged: the fall of the film | {dragged:.1f} ms | |")
    print(
        f"| the steps of the shot that is dragged, and which of all give most for least | {price + ranked:.1f} ms | |"
    )


if __name__ == "__main__":
    main()
