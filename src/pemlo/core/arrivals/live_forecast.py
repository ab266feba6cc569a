"""All that is said of a film while its frames come: how far it is, when it is done, why, and what is wrong. A second.

What was known before the first frame is worked out once; each look then takes what is new.
"""

from dataclasses import dataclass
from functools import cached_property

import numpy as np

from pemlo.core.arrays import Ints
from pemlo.core.arrivals.alarms import Alarm, alarms_of, of_files
from pemlo.core.arrivals.arrival_snapshot import ArrivalSnapshot
from pemlo.core.arrivals.states import FrameState
from pemlo.core.cost.draws import FilmDraws, draw_film
from pemlo.core.cost.fit import fit
from pemlo.core.cost.fit_input import fit_input
from pemlo.core.cost.posterior import Fit
from pemlo.core.errors import InputError
from pemlo.core.forecast.completed_frames import MachineRecord, machine_records
from pemlo.core.forecast.jobs import EARLY, jobs_of
from pemlo.core.forecast.pool_times import with_pool_times
from pemlo.core.forecast.progress import FrameTimes, Reasons, frame_times, mean_seconds, reasons_of
from pemlo.core.forecast.remaining_work import RemainingWork, jobs_left, rest_of
from pemlo.core.forecast.run_effect import LEAST_DRAWS, run_count, spread_draws
from pemlo.core.forecast.updated_posterior import UpdatedPosterior, learn
from pemlo.core.interval import Interval, ends_of, interval_of
from pemlo.core.progress import Monitor, Unwatched
from pemlo.core.project.project import Project
from pemlo.core.project.trials import Trial
from pemlo.core.units import GIB

RUN_FRAMES = 400_000  # of all draws together, in one look: a fifth of a second
MOST_DRAWS = 400
COPIED = 5.0  # files that come so many times faster than all machines can render them are copies
FRAMES_AS_TRIALS = 3  # of each shot, where nothing was timed before


@dataclass(frozen=True)
class Known:
    """What was known before the first frame: a fit with its draws, and of which project.

    Attributes
    ----------
    project : Project
        With frames as trials, if there were none.
    fit : Fit
    draws : FilmDraws
    """

    project: Project
    fit: Fit
    draws: FilmDraws

    @cached_property
    def expected(self) -> dict[str, Interval]:
        """Seconds of each shot's mean frame, as wide as all shots together keep nine times in ten."""
        low = 0.05 / max(len(self.project.shots), 1)
        return {
            shot.name: mean_seconds(self.project, self.fit, self.draws[shot.name], shot, low)
            for shot in self.project.shots
        }

    @cached_property
    def shortest_gaps(self) -> dict[str, float]:
        """Seconds between two files of each shot, below which they were copied and not rendered."""
        speed = sum(machine.count * machine.frames_at_once * machine.slot_speed() for machine in self.project.machines)
        return {name: interval.low / (COPIED * max(speed, 1.0)) for name, interval in self.expected.items()}


@dataclass(frozen=True)
class LiveShotForecast:
    """One shot.

    Attributes
    ----------
    shot : str
    frames, done_count, broken, lost, again : int
    times : FrameTimes or None
        What its frames took on their machines.
    before, now : Interval or None
        Seconds of its mean frame on the reference machine, as they were predicted and as they are known now.
    hours_left : Interval or None
        Machine-hours of reference.
    done_h : Interval or None
        When its last frame is there, hours since the start.
    gib, gib_at_end : float
        On disk; the second is NaN where no frame says how large they are.
    """

    shot: str
    frames: int
    done_count: int
    broken: int
    lost: int
    again: int
    times: FrameTimes | None
    before: Interval | None
    now: Interval | None
    hours_left: Interval | None
    done_h: Interval | None
    gib: float
    gib_at_end: float


@dataclass(frozen=True)
class LiveMachineForecast:
    """One machine: its record, what its frames took, how fast it is, and how many of its frames are lost.

    Attributes
    ----------
    machine : str
    record : MachineRecord
    times : FrameTimes or None
    frames_an_hour : float
        While it was free; NaN before its first frame.
    pace, loss : Interval
        By what factor it is faster than it was given; chance that a frame is lost.
    silent : bool
    """

    machine: str
    record: MachineRecord
    times: FrameTimes | None
    frames_an_hour: float
    pace: Interval
    loss: Interval
    silent: bool


@dataclass(frozen=True)
class LiveForecast:
    """What is said of a film.

    Attributes
    ----------
    snapshot : ArrivalSnapshot
    known : Known or None
        None where nothing is known of what frames cost.
    updated : UpdatedPosterior or None
    rest : RemainingWork or None
    finish_h : Interval or None
        When it is done, hours since the start, assembly counted; infinity if never.
    probability : float or None
    shots : tuple of LiveShotForecast
    machines : tuple of LiveMachineForecast
    reasons : Reasons or None
    alarms : tuple of Alarm
    why_not : str
        Why there is no forecast; empty if there is one.
    """

    snapshot: ArrivalSnapshot
    known: Known | None
    updated: UpdatedPosterior | None
    rest: RemainingWork | None
    finish_h: Interval | None
    probability: float | None
    shots: tuple[LiveShotForecast, ...]
    machines: tuple[LiveMachineForecast, ...]
    reasons: Reasons | None
    alarms: tuple[Alarm, ...]
    why_not: str

    @property
    def done(self) -> bool:
        """Whether every frame is in."""
        return self.snapshot.wanted > 0 and self.snapshot.done_count == self.snapshot.wanted


def know(
    project: Project, snapshot: ArrivalSnapshot | None = None, seed: int = 0, monitor: Monitor | None = None
) -> Known | None:
    """Return what is known before the first frame; where nothing was timed, from a few of those that are in.

    Returns
    -------
    Known or None
        None if neither a trial nor a frame says what frames cost.
    """
    made = fit(fit_input(project, seed), monitor)
    if made.known:
        return Known(project, made, draw_film(made, project, seed))
    trials = frames_as_trials(snapshot) if snapshot is not None else ()
    if not trials:
        return None
    project = project.replace(trials=(*project.trials, *trials))
    made = fit(fit_input(project, seed), monitor)
    return Known(project, made, draw_film(made, project, seed)) if made.known else None


def frames_as_trials(snapshot: ArrivalSnapshot) -> tuple[Trial, ...]:
    """Return a few frames of each shot as trials: spread over those that are in."""
    project, frames = snapshot.project, snapshot.frames
    trials = []
    for number, shot in enumerate(project.shots):
        mine = np.flatnonzero((frames.shot == number) & frames.timed)
        mine = mine[np.argsort(frames.frame[mine])]
        for at in mine[np.unique(np.linspace(0, len(mine) - 1, min(FRAMES_AS_TRIALS, len(mine))).astype(int))].tolist():
            machine = int(frames.machine[at])
            settings = frames.rendered_with[int(frames.settings[at])]
            trials.append(
                Trial(
                    shot=shot.name, frame=int(frames.frame[at]), seconds=float(frames.seconds[at]),
                    machine=project.machines[machine].name if machine >= 0 else "", **settings.frame_fields(),
                )
            )  # fmt: skip
    return tuple(trials)


def live_forecast(
    snapshot: ArrivalSnapshot,
    known: Known | None,
    best_chance: float | None = None,
    seed: int = 0,
    monitor: Monitor | None = None,
) -> LiveForecast:
    """Return what is said of a film.

    Parameters
    ----------
    snapshot : ArrivalSnapshot
    known : Known, optional
        Of this project's trials.
    best_chance : float, optional
        The best chance that there was since the launch.
    seed : int
    monitor : Monitor, optional

    Raises
    ------
    Cancelled
        From the monitor.
    """
    watch = monitor or Unwatched()
    project = snapshot.project
    records = machine_records(project, snapshot.frames, snapshot.launched)
    if known is None or not project.shots:
        why = "No frame says what it took, and none was timed." if project.shots else "There is no shot."
        alarms = of_files(snapshot)
        return LiveForecast(
            snapshot, None, None, None, None, None, _shots(snapshot, None, None, None), (), None, alarms, why
        )
    watch.step(0.2, "Learning from the frames that are in")
    frames = snapshot.frames if snapshot.copied else with_pool_times(project, known.fit, known.draws, snapshot.frames)
    updated = learn(project, known.fit, known.draws, frames, records, seed)
    watch.step(0.6, "Running the remaining frames")
    rest, why = _rest(snapshot, known, updated, records, seed, monitor)
    finish = None if rest is None else ends_of(rest.hours)
    probability = None if rest is None else rest.probability
    watch.step(0.9, "Looking for what is wrong")
    alarms = alarms_of(snapshot, known.fit, updated, rest, known.expected, best_chance)
    return LiveForecast(
        snapshot,
        known,
        updated,
        rest,
        finish,
        probability,
        _shots(snapshot, known, updated, rest),
        _machines(snapshot, updated, records, rest),
        reasons_of(project, known.fit, known.draws, updated, snapshot.frames, records),
        alarms,
        why,
    )


def _rest(
    snapshot: ArrivalSnapshot,
    known: Known,
    updated: UpdatedPosterior,
    records: tuple[MachineRecord, ...],
    seed: int,
    monitor: Monitor | None,
) -> tuple[RemainingWork | None, str]:
    project = snapshot.project
    jobs = jobs_left(project, *done_frames(snapshot))
    count = max(LEAST_DRAWS, min(run_count(jobs, RUN_FRAMES, MOST_DRAWS), MOST_DRAWS))
    needed = np.sum(
        [shot_draws.cost_profile.mean(axis=1) for shot_draws in updated.draws.values()], axis=0
    ) / updated.pace.mean(axis=1)
    which: Ints = spread_draws(np.asarray(needed, float), count)
    used = sum(row.size for mine in snapshot.states for row in mine.rows if row is not None) / GIB
    try:
        remaining_work = rest_of(
            project, known.fit, updated, jobs, snapshot.frames, records, snapshot.now, snapshot.launched,
            disk_used_gib=used, which=which, seed=seed, monitor=monitor,
        )  # fmt: skip
    except InputError as error:
        return None, error.message
    return remaining_work, ""


def done_frames(snapshot: ArrivalSnapshot) -> tuple[dict[str, Ints], dict[str, Ints]]:
    """Return the frames of each shot that are in: of its final pass, and of its first one."""
    final: dict[str, Ints] = {}
    early: dict[str, Ints] = {}
    passes = {(job.shot.name, job.part) for job in jobs_of(snapshot.project)}
    for mine in snapshot.states:
        done_count = mine.frames[mine.state == FrameState.IN]
        (early if (mine.shot, EARLY) in passes else final)[mine.shot] = done_count
    return final, early


def _shots(
    snapshot: ArrivalSnapshot, known: Known | None, updated: UpdatedPosterior | None, rest: RemainingWork | None
) -> tuple[LiveShotForecast, ...]:
    forecasts = []
    frames = snapshot.frames
    for number, (shot, mine) in enumerate(zip(snapshot.project.shots, snapshot.states, strict=True)):
        sizes = [row.size for row in mine.rows_in]
        gib = sum(sizes) / GIB
        forecasts.append(
            LiveShotForecast(
                shot.name,
                len(mine.frames),
                mine.count(FrameState.IN),
                mine.count(FrameState.BROKEN),
                mine.count(FrameState.LOST),
                mine.count(FrameState.AGAIN),
                frame_times(frames.seconds[frames.shot == number]),
                None if known is None else mean_seconds(known.project, known.fit, known.draws[shot.name], shot),
                None
                if known is None or updated is None
                else mean_seconds(known.project, known.fit, updated.draws[shot.name], shot),
                None if rest is None else interval_of(rest.shot_hours[shot.name]),
                None if rest is None else ends_of(rest.shots[shot.name]),
                gib,
                gib / len(sizes) * len(mine.frames) if sizes else np.nan,
            )
        )
    return tuple(forecasts)


def _machines(
    snapshot: ArrivalSnapshot, updated: UpdatedPosterior, records: tuple[MachineRecord, ...], rest: RemainingWork | None
) -> tuple[LiveMachineForecast, ...]:
    forecasts = []
    for number, (machine, record) in enumerate(zip(snapshot.project.machines, records, strict=True)):
        forecasts.append(
            LiveMachineForecast(
                machine.name,
                record,
                frame_times(snapshot.frames.seconds[snapshot.frames.machine == number]),
                record.delivered / record.open_hours * max(machine.count * machine.frames_at_once, 1)
                if record.open_hours > 0
                else np.nan,
                interval_of(updated.pace[:, number]),
                interval_of(updated.loss[:, number]),
                rest is not None and machine.name in rest.silent,
            )
        )
    return tuple(forecasts)
