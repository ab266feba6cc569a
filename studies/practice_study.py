"""Forecasts from a few plain times, over the whole range of practice, beside what people work out by hand.

./dev practice [shots] [first seed]     (a quarter of an hour; the table of docs/method/validation.md)

Errors are factors less one: half and twice the truth are both 100 % off, as both would be planned wrongly by as much.
The truth is the frame timed once more, without a slip. Seeds from 100 000 on are for the table, those below for tuning.
"""

import sys
import time
from concurrent.futures import ProcessPoolExecutor
from dataclasses import dataclass

import numpy as np
from scipy.optimize import nnls

from pemlo.core.cost.draws import draw_film, draw_frame
from pemlo.core.cost.fit import fit
from pemlo.core.cost.fit_input import fit_input
from pemlo.core.forecast.needs import shot_hours
from pemlo.core.project.settings import FrameSettings
from pemlo.core.project.trials import Trial
from practice import FORMS, LADDERS, NAME, STOPWATCH_SD, Renderer, make_renderer, time_tests

FIRST_SEED = 100_000
ADAPTIVE_SHARE = 0.4
HOUR_S = 3600.0


@dataclass(frozen=True)
class Outcome:
    """One shot and ladder: logs of predicted over true, whether the interval held, and what was said."""

    ladder: str
    slip: bool
    ours: float
    held: bool
    said: bool
    settled: bool
    by_hand: tuple[float, float, float]  # proportion, least squares, typical frame
    share: float  # of the full frame that is preparing
    form: str


def outcome(job: tuple[int, int, bool]) -> Outcome:
    seed, number, slip = job
    ladder = LADDERS[number]
    random = np.random.default_rng([seed, number, 5])
    adaptive = bool(random.random() < ADAPTIVE_SHARE) if ladder.fixed and ladder.adaptive else ladder.adaptive
    renderer = make_renderer(random, adaptive=adaptive)
    trials = time_tests(renderer, ladder.tests(renderer), random, slip=slip)
    project = renderer.project(trials)
    known = fit(fit_input(project))
    if ladder.whole_shot:
        drawn = HOUR_S * shot_hours(known, draw_film(known, project), project, project.shots[0])
        truth, frames = renderer.total(), renderer.shot.frame_count
    else:
        asked = FrameSettings.model_validate(renderer.asked.frame_fields())
        drawn = draw_frame(known, project, NAME, renderer.middle, asked)
        truth, frames = renderer.full_frame() * float(np.exp(STOPWATCH_SD * random.standard_normal())), 1
    low, middle, high = np.quantile(drawn, [0.05, 0.5, 0.95])
    guesses = [float(np.log(max(guess * frames, 1e-12) / truth)) for guess in by_hand(renderer, trials)]
    fixed = renderer.prepare + renderer.textures
    share = fixed / (renderer.full_frame() / renderer.along[renderer.middle - 1])
    return Outcome(
        ladder.name,
        slip,
        float(np.log(middle / truth)),
        bool(low <= truth <= high),
        bool(known.disagreements),
        known.settled,
        (guesses[0], guesses[1], guesses[2]),
        share,
        renderer.form,
    )


def by_hand(renderer: Renderer, trials: tuple[Trial, ...]) -> tuple[float, float, float]:
    """Return what a frame takes by proportion from the slowest test, by least squares, and as the typical full one."""
    work = np.array([_work(renderer, trial) for trial in trials]) / _work(renderer, renderer.asked)
    seconds = np.array([trial.seconds for trial in trials])
    slowest = int(work.argmax())
    columns = np.column_stack([np.ones_like(work), work]) / seconds[:, None]
    (fixed, whole), _ = nnls(columns, np.ones_like(work))
    asked = renderer.asked.frame_fields()
    full = [trial.seconds for trial in trials if {name: getattr(trial, name) for name in asked} == asked]
    return seconds[slowest] / work[slowest], fixed + whole, float(np.mean(full)) if full else np.nan


def _work(renderer: Renderer, settings: FrameSettings) -> float:
    """Return pixels times samples, as people reckon: with a threshold, samples go with one over its square."""
    threshold = settings.noise_threshold
    samples = settings.samples if threshold is None else (1 / threshold) ** 2
    return float(renderer.size[0] * renderer.size[1] * (settings.resolution_percent / 100) ** 2 * samples)


def _errors(logs: list[float]) -> str:
    if np.isnan(logs).all():
        return "–"
    size = np.expm1(np.abs(logs))
    return f"{100 * np.median(size):.0f} / {100 * np.quantile(size, 0.9):.0f} %"


def _percent(values: list[bool]) -> str:
    return f"{100 * np.mean(values):.0f} %" if values else "–"


def print_table(outcomes: list[Outcome]) -> None:
    print("| tests | Pemlo | 90 % interval holds | disagreement is said | held or said | ", end="")
    print("proportion | least squares | typical frame |\n|---|---|---|---|---|---|---|---|")
    for slip in (False, True):
        for ladder in LADDERS:
            mine = [one for one in outcomes if one.ladder == ladder.name and one.slip == slip]
            hands = [_errors([one.by_hand[number] for one in mine]) for number in range(3)]
            cells = [
                ladder.name + (", one slip" if slip else ""),
                _errors([one.ours for one in mine]),
                _percent([one.held for one in mine]),
                _percent([one.said for one in mine]),
                _percent([one.held or one.said for one in mine]),
                *hands,
            ]
            print(f"| {' | '.join(cells)} |")


def print_parts(outcomes: list[Outcome]) -> None:
    plain = [one for one in outcomes if not one.slip]
    parts = {
        "preparing under 5 % of the frame": [one for one in plain if one.share < 0.05],
        "preparing 5 to 60 %": [one for one in plain if 0.05 <= one.share < 0.6],
        "preparing 60 to 90 %": [one for one in plain if one.share >= 0.6],
        **{f"cost: {form}": [one for one in plain if one.form == form] for form in FORMS},
    }
    print("\n| without slips | shots | Pemlo | 90 % interval holds | least squares |\n|---|---|---|---|---|")
    for name, mine in parts.items():
        cells = [_errors([one.ours for one in mine]), _percent([one.held for one in mine])]
        print(f"| {name} | {len(mine)} | {' | '.join(cells)} | {_errors([one.by_hand[1] for one in mine])} |")


def main() -> None:
    shots = int(sys.argv[1]) if len(sys.argv) > 1 else 150
    first = int(sys.argv[2]) if len(sys.argv) > 2 else FIRST_SEED
    started = time.perf_counter()
    jobs = [
        (seed, number, slip)
        for slip in (False, True)
        for number in range(len(LADDERS))
        for seed in range(first, first + shots)
    ]
    with ProcessPoolExecutor(2) as pool:
        outcomes = list(pool.map(outcome, jobs, chunksize=8))
    print(f"{len(outcomes)} ladders of as many shots, {time.perf_counter() - started:.0f} s; ", end="")
    print(f"the fit came to rest in {_percent([one.settled for one in outcomes])}\n")
    print_table(outcomes)
    print_parts(outcomes)


if __name__ == "__main__":
    main()
