"""The finish as frames come in, beside elapsed time divided by frames.

./dev watch-study [films] [first seed] [--on dask://HOST:PORT]     (ten minutes; the tables of docs/method/watching.md)

Films are those of `practice.py`, whose renderers follow no belief of the program: one to three stopwatch times a shot,
some shots never timed, cost that runs along shots, machines of unlike speed that are not quite as fast as was typed,
losses other than was typed, and nights. Seeds from 100 000 on are for the table, those below for tuning.
"""

import argparse
import tempfile
from concurrent.futures import ProcessPoolExecutor
from dataclasses import dataclass, replace
from functools import partial
from pathlib import Path

import numpy as np

from pemlo.cli.arguments import add_cluster
from pemlo.core.arrays import Floats
from pemlo.core.cost.draws import draw_film
from pemlo.core.cost.fit import fit
from pemlo.core.cost.fit_input import fit_input
from pemlo.core.forecast.completed_frames import UNKNOWN_MACHINE, CompletedFrames, machine_records
from pemlo.core.forecast.pool_times import with_pool_times
from pemlo.core.forecast.remaining_work import jobs_left, rest_of
from pemlo.core.forecast.updated_posterior import learn
from pemlo.core.project.machines import Machine
from pemlo.core.project.project import Project
from pemlo.core.project.settings import FrameSettings
from pemlo.core.project.trials import Trial
from pemlo.core.units import HOUR_S
from pemlo.demo import demo_project
from pemlo_simulators.farm.pictures import FilmPictures
from pemlo_simulators.farm.schedule import Delivered, deliveries
from pemlo_simulators.farm.truth import Truth
from practice import STOPWATCH_SD, Renderer, log_uniform, make_film
from watched import Played

FIRST_SEED = 100_000
SHARES = (5, 10, 25, 50, 75)
HOURS = ("always", "always", "Mon-Fri 19:00-08:00, Sat-Sun all day", "Mon-Fri 21:00-06:00")
SPEED_OFF, LOSS_MOST = 0.15, 0.05


@dataclass(frozen=True)
class Outcome:
    """One film at one moment: true hours that are left, ours with its interval, and by division."""

    share: int
    truth: float
    low: float
    middle: float
    high: float
    divided: float


def make_run(seed: int) -> tuple[Project, Truth]:
    """Make a film with machines and trials, and what is really so."""
    random = np.random.default_rng([seed, 41])
    project, renderers = make_film(random, int(random.integers(3, 8)))
    whole = sum(one.total() for one in renderers.values())
    factor = log_uniform(random, 15, 250) * HOUR_S / whole
    renderers = {name: times_of(one, factor) for name, one in renderers.items()}
    machines = tuple(
        Machine(name=f"m{k}", speed=float(f"{log_uniform(random, 0.3, 3):.2g}"), hours=str(random.choice(HOURS)),
                count=int(random.choice([1, 1, 1, 2])), loss_percent=float(random.choice([0, 1, 2])))
        for k in range(int(random.integers(2, 6)))
    )  # fmt: skip
    trials, seconds = trials_and_truth(renderers, random)
    pace = np.exp(SPEED_OFF * random.standard_normal(len(machines)))
    loss = random.uniform(0, LOSS_MOST, len(machines))
    return project.replace(machines=machines, trials=tuple(trials)), Truth(seconds, pace, loss)


def times_of(one: Renderer, factor: float) -> Renderer:
    stages = ("prepare", "pixel", "sample", "denoise", "write", "textures")
    return replace(one, **{name: factor * getattr(one, name) for name in stages})


def trials_and_truth(
    renderers: dict[str, Renderer], random: np.random.Generator
) -> tuple[list[Trial], dict[str, Floats]]:
    """Return stopwatch times, some shots without any, and what every frame really takes on the reference machine."""
    trials = [
        trial
        for name, one in renderers.items()
        if random.random() > 0.15 or name == "010"
        for trial in timed_of(name, one, random)
    ]
    seconds = {
        name: np.array([one.seconds(frame, one.asked) for frame in range(one.shot.first, one.shot.last + 1)])
        * np.exp(STOPWATCH_SD * random.standard_normal(one.shot.frame_count))
        for name, one in renderers.items()
    }
    return trials, seconds


def timed_of(name: str, one: Renderer, random: np.random.Generator) -> list[Trial]:
    frames = [[one.middle], [one.shot.first, one.shot.last], [one.shot.first, one.middle, one.shot.last]]
    asked = FrameSettings.model_validate(one.asked.frame_fields())
    return [
        Trial(shot=name, frame=frame, **asked.frame_fields(),
              seconds=float(f"{one.seconds(frame, asked) * np.exp(STOPWATCH_SD * random.standard_normal()):.3g}"))
        for frame in frames[int(random.integers(3))]
    ]  # fmt: skip


def frames_of_run(project: Project, snapshot: list[Delivered]) -> CompletedFrames:
    shots = {shot.name: k for k, shot in enumerate(project.shots)}
    machines = {machine.name: k for k, machine in enumerate(project.machines)}
    kinds = tuple(dict.fromkeys(FrameSettings.model_validate(shot.settings.frame_fields()) for shot in project.shots))
    kind = {
        shot.name: kinds.index(FrameSettings.model_validate(shot.settings.frame_fields())) for shot in project.shots
    }
    return CompletedFrames(
        np.array([shots[one.shot] for one in snapshot], np.int64), np.array([one.frame for one in snapshot], np.int64),
        np.array([one.seconds for one in snapshot]), np.array([machines[one.machine] for one in snapshot], np.int64),
        np.array([one.at for one in snapshot]), np.array([kind[one.shot] for one in snapshot], np.int64), kinds,
    )  # fmt: skip


def files_only(frames: CompletedFrames) -> CompletedFrames:
    """Return frames as a folder shows them: when each file was written, and nothing of its time or machine."""
    return replace(
        frames, seconds=np.full(len(frames), np.nan), machine=np.full(len(frames), UNKNOWN_MACHINE, np.int64)
    )


def outcomes(seed: int, *, files: bool = False) -> list[Outcome]:
    project, truth = make_run(seed)
    snapshot = list(deliveries(project, truth, seed=seed))
    known = fit(fit_input(project, seed))
    draws = draw_film(known, project, seed)
    end = snapshot[-1].at
    first = min(one.begun for one in snapshot)
    found = []
    for share in SHARES:
        count = max(1, round(len(snapshot) * share / 100))
        there = snapshot[:count]
        now = there[-1].at
        frames = frames_of_run(project, there)
        if files:
            frames = with_pool_times(project, known, draws, files_only(frames))
        records = machine_records(project, frames, 0.0)
        updated = learn(project, known, draws, frames, records, seed)
        done = {shot.name: frames.frame[frames.shot == k] for k, shot in enumerate(project.shots)}
        jobs = jobs_left(project, done, {})
        rest = rest_of(project, known, updated, jobs, frames, records, now, 0.0, which=np.arange(0, 1000, 4), seed=seed)
        left = rest.hours - now / HOUR_S
        low, middle, high = (float(np.quantile(left, q, method="higher")) for q in (0.05, 0.5, 0.95))
        divided = (now - first) / HOUR_S / count * (len(snapshot) - count)
        found.append(Outcome(share, (end - now) / HOUR_S, low, middle, high, divided))
    return found


def demo_outcomes(seed: int) -> list[Outcome]:
    """The demo, rendered by the small farm into a folder, and watched there."""
    with tempfile.TemporaryDirectory() as folder:
        film = demo_project()
        film = film.replace(delivery=film.delivery.replace(retake_share=0.0, assembly_minutes=0.0))
        run = Played(film, Path(folder), seed=seed, pictures=FilmPictures(film))
        snapshot = run.run.coming
        end, first = snapshot[-1].at, min(one.begun for one in snapshot)
        found = []
        for share in SHARES:
            at = run.at_share(share / 100)
            count = round(len(snapshot) * share / 100)
            finish = run.seen(at).finish_h
            assert finish is not None
            low, middle, high = (hours - at / HOUR_S for hours in (finish.low, finish.middle, finish.high))
            divided = (at - first) / HOUR_S / count * (len(snapshot) - count)
            found.append(Outcome(share, (end - at) / HOUR_S, low, middle, high, divided))
    return found


def table(title: str, found: list[Outcome]) -> None:
    """Print how far forecasts were off."""
    print(f"{title}\nframes in | held of 9 in 10 | median error of what is left, % | by division, % | width, %")
    for share in SHARES:
        mine = [one for one in found if one.share == share]
        held = np.mean([one.low <= one.truth <= one.high for one in mine])
        ours = np.median([abs(one.middle - one.truth) / one.truth for one in mine])
        by_hand = np.median([abs(one.divided - one.truth) / one.truth for one in mine])
        width = np.median([(one.high - one.low) / one.truth for one in mine])
        below = np.mean([one.truth < one.low for one in mine])
        print(f"{share:3d} % | {100 * held:.0f} % (below {100 * below:.0f}) | {100 * ours:.1f} | {100 * by_hand:.1f} "
              f"| {100 * width:.0f}", flush=True)  # fmt: skip


def on_cluster(files: bool | None, seed: int) -> list[Outcome]:  # noqa: FBT001 - as it is called there
    """Return the outcomes of a film, or of the demo where it is not said what is seen of files; on a worker."""
    return demo_outcomes(seed) if files is None else outcomes(seed, files=files)


def main() -> None:
    """Print the tables."""
    parser = argparse.ArgumentParser()
    parser.add_argument("films", type=int, nargs="?", default=200)
    parser.add_argument("first", type=int, nargs="?", default=FIRST_SEED)
    add_cluster(parser)
    args = parser.parse_args()
    seeds = range(args.first, args.first + args.films)
    with ProcessPoolExecutor(2) as pool:
        for title, files, each in (
            (f"{args.films} films", False, seeds),
            (f"{args.films} films, file times only", True, seeds),
            ("the demo, three times", None, range(3)),
        ):
            many = (
                pool.map(partial(on_cluster, files), each, chunksize=4)
                if args.on is None
                else args.on.each(on_cluster, each, files, what=title)
            )
            table(title, [one for some in many for one in some])


if __name__ == "__main__":
    main()
