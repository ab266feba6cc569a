"""The time left where nothing is known but when each file was written: one to forty machines, away and changing pace.

./dev watch-study runs it after its other tables. Films are those of `practice.py`. Machines are up to a quarter faster
or slower than typed, some render at night only; in a quarter of the films one of them is away for a while, and in a
quarter some become faster or slower part of the way. Seeds from 200 000 on are for the table, those below for tuning.
"""

import heapq
import math
import sys
from concurrent.futures import ProcessPoolExecutor
from dataclasses import dataclass, replace

import numpy as np

from pemlo.core.cost.draws import draw_film
from pemlo.core.cost.fit import fit
from pemlo.core.cost.fit_input import fit_input
from pemlo.core.farm.calendar import spans_of
from pemlo.core.forecast.completed_frames import machine_records
from pemlo.core.forecast.pool_times import with_pool_times
from pemlo.core.forecast.remaining_work import jobs_left, rest_of
from pemlo.core.forecast.updated_posterior import learn
from pemlo.core.project.machines import Machine
from pemlo.core.project.project import Project
from pemlo.core.units import HOUR_S
from pemlo_simulators.farm.schedule import Delivered
from practice import log_uniform, make_film
from watch_study import SHARES, Outcome, files_only, frames_of_run, table, times_of, trials_and_truth

FIRST_SEED = 200_000
HOURS = ("always", "always", "always", "Mon-Fri 19:00-08:00, Sat-Sun all day")
MOST_MACHINES, PACE_OFF, CHANGE = 40, 1.25, 1.25
DAYS = 400


@dataclass(frozen=True)
class Pool:
    """What is really so of a film's machines, slot by slot.

    Attributes
    ----------
    seconds : dict of str to (F,) ndarray
        Of every frame of each shot on the reference machine.
    group : list of int
        The machine of the brief that each slot is of.
    pace : list of float
        By how much each slot is faster than was typed.
    away : (int, float, float), optional
        A slot, and from when until when it renders nothing, s.
    change : (frozenset of int, float, float), optional
        Slots that from a moment on, s, have their pace by a factor.
    loss : float
    """

    seconds: dict[str, np.ndarray]
    group: list[int]
    pace: list[float]
    away: tuple[int, float, float] | None
    change: tuple[frozenset[int], float, float] | None
    loss: float


def make_pool(seed: int) -> tuple[Project, Pool]:
    """Make a film with machines and trials, and what is really so."""
    random = np.random.default_rng([seed, 43])
    project, renderers = make_film(random, int(random.integers(3, 8)))
    many = round(log_uniform(random, 1, MOST_MACHINES))
    whole = sum(one.total() for one in renderers.values())
    factor = many * log_uniform(random, 5, 60) * HOUR_S / whole
    renderers = {name: times_of(one, factor) for name, one in renderers.items()}
    machines = tuple(
        Machine(name=f"m{k}", speed=float(f"{log_uniform(random, 0.5, 2):.2g}"), hours=str(random.choice(HOURS)),
                count=int(count), loss_percent=float(random.choice([0, 1, 2])))
        for k, count in enumerate(random.multinomial(many, np.ones(min(many, 4)) / min(many, 4)))
    )  # fmt: skip
    trials, seconds = trials_and_truth(renderers, random)
    group = [k for k, machine in enumerate(machines) for _ in range(machine.count)]
    pace = [float(PACE_OFF ** random.uniform(-1, 1)) for _ in machines]
    project = project.replace(machines=machines, trials=tuple(trials))
    pool = Pool(seconds, group, [pace[k] for k in group], None, None, float(random.uniform(0, 0.03)))
    end = run_of(project, pool, seed)[-1].at
    away = change = None
    trouble = int(random.integers(4))
    if many > 1 and trouble == 1:
        begun = float(random.uniform(0, 0.8)) * end
        away = (int(random.integers(many)), begun, begun + float(random.uniform(0.05, 0.2)) * end)
    if trouble == 2:
        some = group[int(random.integers(many))]
        which = frozenset(k for k in range(many) if group[k] == some)
        change = (which, float(random.uniform(0.1, 0.9)) * end, float(CHANGE ** random.choice([-1, 1])))
    return project, replace(pool, away=away, change=change)


def run_of(project: Project, pool: Pool, seed: int) -> tuple[Delivered, ...]:
    """Return all frames as they come: whoever is free first takes the next."""
    random = np.random.default_rng([seed, 47])
    spans = [
        [(a * HOUR_S, b * HOUR_S) for a, b in spans_of(machine, project.delivery.timezone, project.start, DAYS)]
        for machine in project.machines
    ]
    frames = [(shot.name, frame, frame - shot.first) for shot in project.shots
              for frame in range(shot.first, shot.last + 1)]  # fmt: skip
    free = [(0.0, slot) for slot in range(len(pool.group))]
    found = []
    for name, frame, place in frames:
        begun, slot = heapq.heappop(free)
        machine = project.machines[pool.group[slot]]
        own = _spans(spans[pool.group[slot]], pool.away, slot)
        at, took = begun, 0.0
        while True:
            pace = pool.pace[slot]
            if pool.change is not None and slot in pool.change[0] and at >= pool.change[1]:
                pace *= pool.change[2]
            seconds = float(pool.seconds[name][place]) / (machine.speed * pace)
            lost = random.random() < pool.loss
            at = _spend(own, at, seconds * (random.random() if lost else 1.0))
            took = seconds
            if not lost:
                break
        found.append(Delivered(at, begun, name, frame, machine.name, slot, took, 1, False, False))
        heapq.heappush(free, (at, slot))
    return tuple(sorted(found))


def _spans(
    spans: list[tuple[float, float]], away: tuple[int, float, float] | None, slot: int
) -> list[tuple[float, float]]:
    if away is None or away[0] != slot:
        return spans
    parts = [part for a, b in spans for part in ((a, min(b, away[1])), (max(a, away[2]), b))]
    return [part for part in parts if part[1] > part[0]]


def _spend(spans: list[tuple[float, float]], time: float, work: float) -> float:
    """Return when so much work is done that begins at a time."""
    for begin, end in spans:
        if end <= time:
            continue
        time = max(time, begin)
        if time + work <= end:
            return time + work
        work -= end - time
    return math.inf


def outcomes(seed: int) -> list[Outcome]:
    """Return what is left of a film at some moments, and what Pemlo and division say."""
    project, pool = make_pool(seed)
    snapshot = run_of(project, pool, seed)
    known = fit(fit_input(project, seed))
    draws = draw_film(known, project, seed)
    end, first = snapshot[-1].at, min(one.begun for one in snapshot)
    found = []
    for share in SHARES:
        count = max(1, round(len(snapshot) * share / 100))
        now = snapshot[count - 1].at
        frames = with_pool_times(project, known, draws, files_only(frames_of_run(project, list(snapshot[:count]))))
        records = machine_records(project, frames, 0.0)
        updated = learn(project, known, draws, frames, records, seed)
        done = {shot.name: frames.frame[frames.shot == k] for k, shot in enumerate(project.shots)}
        rest = rest_of(project, known, updated, jobs_left(project, done, {}), frames, records, now, 0.0,
                       which=np.arange(0, 1000, 4), seed=seed)  # fmt: skip
        left = rest.hours - now / HOUR_S
        low, middle, high = (float(np.quantile(left, q, method="higher")) for q in (0.05, 0.5, 0.95))
        divided = (now - first) / HOUR_S / count * (len(snapshot) - count)
        found.append(Outcome(share, (end - now) / HOUR_S, low, middle, high, divided))
    return found


def main(films: int = 200, first: int = FIRST_SEED) -> None:
    """Print the table."""
    with ProcessPoolExecutor(2) as pool:
        found = [one for many in pool.map(outcomes, range(first, first + films), chunksize=4) for one in many]
    table(f"{films} films, file times only, 1 to {MOST_MACHINES} machines", found)


if __name__ == "__main__":
    main(*(int(argument) for argument in sys.argv[1:]))
