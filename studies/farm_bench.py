"""Speed of running a film frame by frame, beside a plain process model of the same rules. Tables of `./dev bench`."""

from collections.abc import Iterator

import numpy as np

from pemlo.core.cost.draws import draw_film
from pemlo.core.cost.fit import fit
from pemlo.core.cost.fit_input import fit_input
from pemlo.core.farm.simulation import Farm, RunRules, Work, simulate
from pemlo.core.film.film import Film
from pemlo.core.film.values import FIRST_FORECAST, FIT, QUICK_FORECAST
from pemlo.core.forecast.finish import finish_of
from pemlo.core.project.edits import set_delivery
from pemlo.demo import demo_project
from plain_farm import by_simpy
from timing import least_seconds

DAY_S, NIGHT_S, SHOTS, PLACES = 86_400.0, 50_000.0, 20, 20


def farm(machines: int) -> Farm:
    """Machines of many speeds that are free at night, and lose a frame now and then."""
    dice = np.random.default_rng(1)
    nights = 400
    begins = np.tile(np.arange(nights) * DAY_S, machines)
    return Farm(
        tuple(f"machine {k}" for k in range(machines)), np.arange(machines), dice.uniform(0.5, 3, machines),
        np.full(machines, 0.02), np.full(machines, np.inf), np.arange(machines + 1) * nights, begins, begins + NIGHT_S,
        np.full(machines, np.nan), np.ones(machines, int),
    )  # fmt: skip


def work(frames: int, draws: int) -> Work:
    """Frames of twenty shots with data that are kept, and draws of what they take."""
    dice = np.random.default_rng(2)
    shot = np.arange(frames) * SHOTS // frames
    count = np.bincount(shot, minlength=SHOTS)
    place = np.concatenate([np.linspace(0, 1, n) for n in count])
    full = dice.lognormal(5, 0.2, (draws, SHOTS, PLACES))
    return Work(
        tuple(map(str, range(SHOTS))), np.arange(SHOTS), np.cumsum([0, *count]), np.arange(SHOTS), np.arange(frames),
        place, full, 0.5 * full, np.full(SHOTS, PLACES, np.int64), 0.05, np.ones(SHOTS, bool),
        np.zeros(SHOTS, np.int64), np.zeros(SHOTS), np.ones(SHOTS), ((),) * SHOTS, np.full(SHOTS, -1),
    )  # fmt: skip


def previews() -> list[str]:
    """Return how far the preview of a film's end is from the exact run, and what it takes."""
    project = demo_project()
    known = fit(fit_input(project))
    draws = draw_film(known, project)
    rows = []
    for times, nights in ((1, False), (3, False), (10, False), (40, False), (3, True)):
        machines = tuple(
            machine.replace(count=machine.count * times, hours="Mon-Sun 22:00-06:00" if nights else machine.hours)
            for machine in project.machines
        )
        film = Film(project.replace(machines=machines))
        film.memo.put(FIT, film.fit_input, known)
        run = film.run_input
        quick = film.get(QUICK_FORECAST, run).finish_h
        minutes = iter(range(10_000))

        def preview(film: Film = film, minutes: Iterator[int] = minutes) -> None:
            later = set_delivery(film.project, assembly_minutes=next(minutes) / 10)
            changed = film.with_project(later)
            changed.get(QUICK_FORECAST, changed.run_input)

        taken = least_seconds(preview)
        whole = finish_of(film.project, known, draws).hours
        errors = [np.quantile(quick, q) / np.quantile(whole, q) - 1 for q in (0.5, 0.9)]
        poured = np.quantile(film.get(FIRST_FORECAST, run).finish_h, 0.5) / np.median(whole) - 1
        words = f"{len(whole)} runs on {3 * times} machines{', nights only' if nights else ''}"
        rows.append(f"| {words} | {1000 * taken:.0f} ms | {errors[0]:+.2%} | {errors[1]:+.2%} | {poured:+.2%} |")
    return rows


def main() -> None:
    simulate(farm(2), work(40, 1))  # compiled, or read from the cache
    machines, queue = farm(40), work(10_000, 1000)
    plain = least_seconds(lambda: by_simpy(machines, work(10_000, 1), RunRules()))
    own = least_seconds(lambda: simulate(machines, queue))
    print("\n| 10 000 frames on 40 machines, every rule on | seconds a draw | against SimPy |")
    print("|---|---|---|")
    print(f"| plain SimPy model | {plain:.3f} | 1 |")
    print(f"| compiled, 1 000 draws in {own:.2f} s | {own / 1000:.5f} | {1000 * plain / own:.0f} times faster |")
    print("\n| one draw | 10 machines | 100 | 1 000 |")
    print("|---|---|---|---|")
    for frames in (1_000, 10_000, 100_000, 1_000_000):
        taken = [least_seconds(lambda n=n, f=frames: simulate(farm(n), work(f, 1))) for n in (10, 100, 1_000)]  # type: ignore[misc]
        print(f"| {frames:,} frames | {' | '.join(f'{1000 * one:.1f} ms' for one in taken)} |".replace(",", " "))
    print("\n| preview of the demo film | takes | error of the middle end | of 9 in 10 | of hours poured |")
    print("|---|---|---|---|---|")
    print("\n".join(previews()))


if __name__ == "__main__":
    main()
