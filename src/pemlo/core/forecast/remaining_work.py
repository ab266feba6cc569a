"""The run of what is left, from now on: each machine goes on from its last frame. Seconds for a film."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace

import numpy as np
import numpy.typing as npt

from pemlo.core.arrays import Floats, Ints
from pemlo.core.cost.along import between
from pemlo.core.cost.posterior import Fit
from pemlo.core.farm.simulation import Farm, Present, Run, farm_of, simulate
from pemlo.core.forecast.bottleneck import DAYS_AFTER
from pemlo.core.forecast.completed_frames import UNKNOWN_MACHINE, CompletedFrames, MachineRecord, open_between
from pemlo.core.forecast.finish import shot_ends
from pemlo.core.forecast.jobs import EARLY, Job, jobs_of
from pemlo.core.forecast.queue import queue_of, rules_of
from pemlo.core.forecast.updated_posterior import UpdatedPosterior
from pemlo.core.progress import Monitor
from pemlo.core.project.project import Project
from pemlo.core.units import DAY_S, HOUR_S, MINUTE_S

SILENT_FRAMES = 3.0  # a machine that has not delivered for so many of its longest frames is counted as off
LEAST_SILENCE_S = 120.0


@dataclass(frozen=True)
class RemainingWork:
    """What is left of a film, and when it is done.

    Attributes
    ----------
    now_h : float
        Hours since the start.
    jobs : tuple of Job
        With the frames that are left.
    hours : (D,) ndarray
        When the film is assembled, hours since the start; infinity if never.
    probability : float
        Of being done by the deadline.
    shots : dict of str to (D,) ndarray
        When each shot is done, hours since the start; of one that is in, when its last frame came.
    shot_hours : dict of str to (D,) ndarray
        Machine-hours of reference that are left of each shot.
    silent : tuple of str
        Machines that have not delivered for so long that they are counted as off.
    run : Run
    farm : Farm
    """

    now_h: float
    jobs: tuple[Job, ...]
    hours: Floats
    probability: float
    shots: dict[str, Floats]
    shot_hours: dict[str, Floats]
    silent: tuple[str, ...]
    run: Run
    farm: Farm

    @property
    def frames(self) -> int:
        """How many frames are left."""
        return sum(len(job.frames) for job in self.jobs)


def jobs_left(
    project: Project, done: Mapping[str, npt.NDArray[np.int64]], done_early: Mapping[str, Ints]
) -> tuple[Job, ...]:
    """Return the jobs of a film with the frames that are not in.

    Parameters
    ----------
    project : Project
    done, done_early : mapping of str to (K,) ndarray of int
        Frames of each shot that are in, of its final pass and of its first one.
    """
    found = []
    for job in jobs_of(project):
        there = (done_early if job.part == EARLY else done).get(job.shot.name)
        if there is None:
            found.append(job)
            continue
        if job.part == "again":  # what may have to be rendered again shrinks as frames come in that are good
            left = 1 - len(there) / max(job.shot.rendered_count(job.settings), 1)
            found.append(replace(job, frames=job.frames[: round(len(job.frames) * left)]))
            continue
        found.append(replace(job, frames=job.frames[~np.isin(job.frames, there)]))
    return tuple(found)


def rest_of(
    project: Project,
    fit: Fit,
    updated: UpdatedPosterior,
    jobs: tuple[Job, ...],
    frames: CompletedFrames,
    records: Sequence[MachineRecord],
    now: float,
    launched: float,
    *,
    disk_used_gib: float = 0.0,
    which: Ints | None = None,
    seed: int = 0,
    monitor: Monitor | None = None,
) -> RemainingWork:
    """Return when what is left is done.

    Parameters
    ----------
    project : Project
    fit : Fit
    updated : UpdatedPosterior
        From the frames that are in.
    jobs : tuple of Job
        What is left; see `jobs_left`.
    frames : CompletedFrames
    records : sequence of MachineRecord
    now, launched : float
        Seconds since the start.
    disk_used_gib : float
    which : (D,) ndarray of int, optional
        Which draws are run; all unless given.
    seed : int
    monitor : Monitor, optional

    Raises
    ------
    InputError
        If nothing was timed, or no machine is ever free.
    Cancelled
        From the monitor.
    """
    count = len(updated.pace)
    picked = np.arange(count) if which is None else which
    queue = queue_of(project, fit, updated.draws, picked, jobs=jobs)
    work = replace(queue.work, deviation=updated.scatter)
    farm = farm_of(project, int(max(project.deadline_h / 24, now / DAY_S)) + DAYS_AFTER)
    here = [k for k, machine in enumerate(project.machines) if machine.count]
    longest = _longest(work.full, updated, project)
    free_from, silent = _free_from(project, frames, records, here, longest, now, launched)
    if not any(len(job.frames) for job in jobs):
        silent = []
    present = Present(
        now,
        free_from,
        np.ascontiguousarray(updated.pace[picked][:, here]),
        np.ascontiguousarray(updated.loss[picked][:, here]),
    )
    rules = rules_of(project, seed)
    rules = replace(rules, disk_gib=max(rules.disk_gib - disk_used_gib, 0.0))
    run = simulate(farm, work, rules, present=present, monitor=monitor)
    left = np.array([len(job.frames) for job in jobs])
    ended = np.where(left[None, :] > 0, np.maximum(run.finish, now), _ended(project, jobs, frames, launched)[None, :])
    run = replace(run, finish=ended)
    hours = (run.end + project.delivery.assembly_minutes * MINUTE_S) / HOUR_S
    return RemainingWork(
        now / HOUR_S,
        jobs,
        hours,
        float(np.mean(hours <= project.deadline_h + 1e-9)),
        shot_ends(project, jobs, run),
        _hours_left(project, jobs, work.row, work.kept, work.lengths, work.first, work.place),
        tuple(project.machines[k].name for k in silent),
        run,
        farm,
    )


def _ended(project: Project, jobs: Sequence[Job], frames: CompletedFrames, launched: float) -> Floats:
    """Return when the last frame of each job's shot came, (J,), s since the start."""
    numbers = {shot.name: k for k, shot in enumerate(project.shots)}
    last = np.full(len(project.shots), launched)
    np.maximum.at(last, frames.shot, frames.ended)
    return np.array([last[numbers[job.shot.name]] for job in jobs])


def _longest(full: Floats, updated: UpdatedPosterior, project: Project) -> Floats:
    """Return what a frame may take on each machine at most, about, s."""
    longest = float(np.quantile(full.max(axis=(1, 2)), 0.9)) if full.size else 0.0
    pace = np.median(updated.pace, axis=0)
    speeds = np.array([machine.slot_speed() for machine in project.machines])
    return np.asarray(longest * np.exp(2 * updated.scatter) / np.maximum(speeds * pace, 1e-9))


def _free_from(
    project: Project,
    frames: CompletedFrames,
    records: Sequence[MachineRecord],
    here: Sequence[int],
    longest: Floats,
    now: float,
    launched: float,
) -> tuple[Floats, list[int]]:
    """Return when each slot ended its last frame, and which machines are silent: these are never free.

    Where it is not known whose frames are whose, slots are taken to be spread evenly over a frame.
    """
    named = bool((frames.machine != UNKNOWN_MACHINE).any())
    running_since: list[Floats] = []
    silent = []
    for number in here:
        machine = project.machines[number]
        slots = machine.count * machine.frames_at_once
        if not named:
            each = float(longest[number]) / 2 if len(frames) else 0.0
            begun = max(launched, now - each)
            running_since.append(now - (now - begun) * (np.arange(slots) + 0.5) / slots)
            continue
        ended = np.sort(frames.ended[frames.machine == number])[-slots:]
        last = np.concatenate([np.full(slots - len(ended), min(launched, now)), ended])
        quiet = open_between(project, number, max(records[number].last, launched), now)
        wait = SILENT_FRAMES * float(longest[number]) + project.running.dispatch_seconds
        if quiet > max(wait, LEAST_SILENCE_S) and _others_began(
            project, frames, number, last.max() + float(longest[number])
        ):
            silent.append(number)
            last = np.full(slots, np.inf)
        running_since.append(np.minimum(last, now) if number not in silent else last)
    if len(silent) == len(here):  # all are silent: the folder is, not the machines
        return _free_now(project, here, now), []
    return np.concatenate(running_since), silent


def _others_began(project: Project, frames: CompletedFrames, number: int, moment: float) -> bool:
    """Whether other machines began more frames later than what each may have had under way; true if it is alone.

    Else there may have been nothing left for this one to take.
    """
    others = frames.machine != number
    if not others.any():
        return True
    begun = frames.ended[others] - np.nan_to_num(frames.seconds[others])
    slots = sum(machine.count * machine.frames_at_once for k, machine in enumerate(project.machines) if k != number)
    return int((begun > moment).sum()) > slots


def _free_now(project: Project, here: Sequence[int], now: float) -> Floats:
    return np.full(sum(project.machines[k].count * project.machines[k].frames_at_once for k in here), now)


def _hours_left(
    project: Project, jobs: Sequence[Job], row: Ints, kept: Floats, lengths: Ints, first: Ints, place: Floats
) -> dict[str, Floats]:
    """Return machine-hours of reference that are left of each shot, (D,) each."""
    found = {shot.name: np.zeros(len(kept)) for shot in project.shots}
    for number, job in enumerate(jobs):
        long = int(lengths[row[number]])
        each = between(
            kept[:, row[number], :long], np.linspace(0.0, 1.0, long), place[first[number] : first[number + 1]]
        )
        found[job.shot.name] += each.sum(axis=1) / HOUR_S
    return found
