"""How well a shot's total is predicted, and how often the 90 % interval holds it, on made-up renderers of known truth.

Run by ``./dev study [films]``; prints the tables of docs/method/validation.md: for renderers about the program's own
middle values, and for those over the whole range of practice.
"""

import sys
import time
from collections.abc import Callable
from concurrent.futures import ProcessPoolExecutor
from typing import Protocol

import numpy as np

import practice
import synthetic
from pemlo.core.cost.along import matern32, places
from pemlo.core.cost.draws import draw_film
from pemlo.core.cost.fit import fit
from pemlo.core.cost.fit_input import fit_input
from pemlo.core.cost.next_trial import advise
from pemlo.core.cost.priors import ALONG_LENGTH, ALONG_SD
from pemlo.core.forecast.needs import shot_hours
from pemlo.core.project.project import Project
from pemlo.core.project.settings import FrameSettings
from pemlo.core.project.shots import Shot
from pemlo.core.project.trials import Trial
from synthetic import STOPWATCH_SD, stopwatch, timed

BUDGETS = (0.5, 1.0, 1.4, 3.0)
MOST_TRIALS = 12
WANTED_AT = 1.4
CHEAP = 0.1
OVERRUN = 1.05  # a trial may end so much over the budget
OPEN_LEVEL_SD = 10.0
Row = tuple[str, float, float, float, bool | None]  # what, cost in full frames, trials, error, held


class Renderer(Protocol):
    """A shot of a made-up renderer."""

    @property
    def shot(self) -> Shot: ...

    def seconds(self, frame: int, settings: FrameSettings) -> float: ...

    def mean_frame(self) -> float: ...

    def total(self) -> float: ...


MakeFilm = Callable[[np.random.Generator], tuple[Project, dict[str, Renderer]]]
KINDS: dict[str, MakeFilm] = {
    "renderers about the program's own middle values": synthetic.make_film,
    "renderers over the whole range of practice": practice.make_film,
}


def cheapest_share(true: Renderer) -> float:
    """Return what the cheapest sensible test costs, in mean frames: 16 samples, a quarter of the size, no denoising."""
    low = FrameSettings(samples=16, resolution_percent=25)
    return true.seconds((true.shot.first + true.shot.last) // 2, low) / true.mean_frame()


def limit(true: Renderer, trials: tuple[Trial, ...], random: np.random.Generator) -> float:
    """Return the error that is left where the true cost function is known and only the course along the shot is not.

    The same frames are timed, without slips; how much dearer the shot is than the cost function says is open.
    """
    middle = (true.shot.first + true.shot.last) // 2
    seen = np.array([trial.frame for trial in trials], dtype=float)
    # Settings scale all frames alike, so a frame's factor can be had with any of them.
    factor = [true.seconds(trial.frame, true.shot.asked) / true.seconds(middle, true.shot.asked) for trial in trials]
    value = np.log(factor) + STOPWATCH_SD * random.standard_normal(len(trials))
    at = places(seen, true.shot.first, true.shot.last)
    everywhere = places(np.arange(true.shot.first, true.shot.last + 1.0), true.shot.first, true.shot.last)
    own = matern32(at, at, ALONG_SD, ALONG_LENGTH) + OPEN_LEVEL_SD**2 + STOPWATCH_SD**2 * np.eye(len(at))
    across = matern32(everywhere, at, ALONG_SD, ALONG_LENGTH) + OPEN_LEVEL_SD**2
    predicted = np.exp(across @ np.linalg.solve(own, value)).mean()
    return float(predicted * true.seconds(middle, true.shot.asked) / true.mean_frame() - 1)


def follow_advice(
    project: Project, truth: dict[str, Renderer], budget: float, random: np.random.Generator
) -> tuple[Project, dict[str, float]]:
    """Time what the program advises until nothing more is affordable: one shot, then two, then all others in turn.

    What a trial takes is known only when it is done: one that runs over the budget is stopped there and lost.
    """
    spent = dict.fromkeys(truth, 0.0)
    names = list(truth)
    for group in (names[:1], names[1:3], names[3:]):
        for _ in range(MOST_TRIALS):
            left = {name: budget - spent[name] for name in group}
            added = []
            for advice in advise(fit(fit_input(project)), project, group, left):
                true = truth[advice.shot]
                cost = true.seconds(advice.frame, advice.settings) / true.mean_frame()
                if cost > left[advice.shot] * OVERRUN:
                    spent[advice.shot] = budget
                    continue
                spent[advice.shot] += cost
                added.append(timed(true, advice.frame, advice.settings, random))
            if not added:
                break
            project = project.replace(trials=(*project.trials, *added))
    return project, spent


def study_film(kind: str, seed: int) -> list[Row]:
    make_film = KINDS[kind]
    rows: list[Row] = []
    for budget in BUDGETS:
        random = np.random.default_rng([seed, 1])
        project, truth = make_film(random)
        timing = np.random.default_rng([seed, 2])
        told, spent = follow_advice(project, truth, budget, timing)
        known = fit(fit_input(told))
        draws = draw_film(known, told, seed)
        for name, true in truth.items():
            hours = shot_hours(known, draws, told, told.shot(name))
            low, middle, high = np.quantile(hours, [0.05, 0.5, 0.95])
            total = true.total() / 3600
            count = len(told.trials_of(name))
            row = (spent[name], count, middle / total - 1, bool(low <= total <= high))
            rows.append((f"advice, up to {budget:g}", *row))
            if count:
                error = limit(true, told.trials_of(name), np.random.default_rng([seed, 4]))
                rows.append((f"- the limit, up to {budget:g}", spent[name], count, error, None))
            if budget == WANTED_AT:
                cheap = cheapest_share(true) <= CHEAP
                what = "under" if cheap else "over"
                rows.append((f"- of these, cheapest test {what} {100 * CHEAP:.0f} % of a frame", *row))
    random = np.random.default_rng([seed, 1])
    _, truth = make_film(random)
    timing = np.random.default_rng([seed, 3])
    for true in truth.values():
        rows += by_hand(true, timing)
    return rows


def by_hand(true: Renderer, random: np.random.Generator) -> list[Row]:
    first, last = true.shot.first, true.shot.last
    times = [stopwatch(true.seconds(f, true.shot.settings), random) for f in (first, (first + last) // 2, last)]
    count = true.shot.frame_count
    total = true.total()
    guesses = {
        "by hand, mean of first, middle and last": np.mean(times),
        "by hand, the middle frame": times[1],
        "by hand, the last frame": times[2],
    }
    return [
        (what, 3.0 if "mean" in what else 1.0, 3 if "mean" in what else 1, guess * count / total - 1, None)
        for what, guess in guesses.items()
    ]


def _order(what: str) -> tuple[int, float, str]:
    """Put advice before hand calculations, and the parts of a row under it."""
    if "up to" in what:
        return (0, float(what.rsplit(maxsplit=1)[-1]), "" if what.startswith("advice") else what)
    return (0, WANTED_AT, what) if what.startswith("-") else (1, 0.0, what)


def show(rows: list[Row]) -> None:
    print("| trials | cost, full frames | trials a shot | median error | 90th percentile | 90 % interval holds |")
    print("|---|---|---|---|---|---|")
    for what in sorted(dict.fromkeys(row[0] for row in rows), key=_order):
        mine = [row for row in rows if row[0] == what]
        errors = np.abs([row[3] for row in mine])
        held = "no interval" if mine[0][4] is None else f"{100 * np.mean([bool(row[4]) for row in mine]):.0f} %"
        print(
            f"| {what} | {np.mean([row[1] for row in mine]):.2f} | {np.mean([row[2] for row in mine]):.1f} "
            f"| {100 * np.median(errors):.1f} % | {100 * np.quantile(errors, 0.9):.1f} % | {held} |"
        )


def main() -> None:
    films = int(sys.argv[1]) if len(sys.argv) > 1 else 60
    for kind in KINDS:
        started = time.perf_counter()
        with ProcessPoolExecutor(2) as pool:
            rows = [row for film in pool.map(study_film, [kind] * films, range(films)) for row in film]
        print(f"\n{kind}: {films * 10} shots in {films} films, {time.perf_counter() - started:.0f} s\n")
        show(rows)


if __name__ == "__main__":
    main()
