"""The jobs of a film with draws of what their frames cost, as the farm runs them. NumPy; fast."""

from collections.abc import Collection, Sequence
from dataclasses import dataclass, replace

import numpy as np

from pemlo.core.arrays import Floats, Ints
from pemlo.core.cost.draws import FilmDraws, seconds_along
from pemlo.core.cost.frame_arrays import frames_of
from pemlo.core.cost.posterior import Fit
from pemlo.core.errors import InputError
from pemlo.core.farm.simulation import RunRules, Work
from pemlo.core.forecast.disk_memory import disk_memory_of, shown_to_fit
from pemlo.core.forecast.jobs import Job, beside_of, jobs_of, needs_of, order_of
from pemlo.core.forecast.parts import Afresh, Parts
from pemlo.core.forecast.spilling import share_left, spilled_shares
from pemlo.core.project.project import Project
from pemlo.core.project.settings import NO_DENOISE, ShotSettings
from pemlo.core.project.shots import Shot
from pemlo.core.units import HOUR_S


@dataclass(frozen=True)
class Queue:
    """The jobs, and the same as the farm runs them.

    Attributes
    ----------
    jobs : tuple of Job
    work : Work
    """

    jobs: tuple[Job, ...]
    work: Work


def rules_of(project: Project, seed: int = 0) -> RunRules:
    """Return the rules of a film's run."""
    running = project.running
    disk = np.inf if running.disk_gib is None else running.disk_gib
    return RunRules(seed, running.dispatch_seconds, running.chunk, not running.starts_again, disk)


def queue_of(
    project: Project,
    fit: Fit,
    draws: FilmDraws,
    which: Ints | None = None,
    kept: Parts | None = None,
    jobs: tuple[Job, ...] | None = None,
) -> Queue:
    """Return the jobs of a film.

    Parameters
    ----------
    project : Project
    fit : Fit
        Which knows its shots.
    draws : FilmDraws
        Of that fit.
    which : (D,) ndarray of int, optional
        Which draws are run; all unless given.
    kept : Parts, optional
        Of other queues of this fit and these draws.
    jobs : tuple of Job, optional
        Of the film, where they are known.

    Raises
    ------
    InputError
        If nothing was timed.
    """
    if not project.shots:
        raise InputError("There is no shot: nothing is to be rendered.", "Add one in the brief.")
    if not fit.known:
        raise InputError("Nothing was timed yet: when it is done is not known.", "Time one frame first.")
    costs, parts = _Costs(project, fit, draws, which), kept or Afresh()
    jobs = jobs_of(project) if jobs is None else jobs
    rows: dict[tuple[object, ...], int] = {}
    denoised = {job.shot.name for job in jobs if job.part == "denoise"}
    row = np.array([rows.setdefault(_key(job, denoised), len(rows)) for job in jobs], np.int64)
    firsts = [jobs[int(number)] for number in np.unique(row, return_index=True)[1]]
    seconds = []
    ran = None if which is None else which.tobytes()
    for job in firsts:
        alone = _key(job, denoised)[-1] == "alone"
        of = (job.shot, job.settings, alone, project.size_of(job.shot), ran)
        name = (job.shot.name, job.part, "costs")
        seconds.append(parts.once(name, of, lambda job=job, alone=alone: costs.of(job, alone=alone)))  # type: ignore[misc]
    hours = {job.shot.name: float(np.median(one[1].mean(axis=1))) * job.shot.rendered_count(job.settings) / HOUR_S
             for job, one in zip(firsts, seconds, strict=True) if job.part == "final"}  # fmt: skip
    longest = max(one[0].shape[1] for one in seconds)
    whole, part = (np.stack([_padded(one[k], longest) for one in seconds], axis=1) for k in (0, 1))
    sizes = tuple(project.size_of(shot) for shot in project.shots)  # trials of the others tell, too
    taken = [
        parts.once(
            (job.shot.name, job.part, "disk and memory"),
            (job.shot, job.settings, project.trials, sizes),
            lambda job=job: disk_memory_of(project, job.shot, job.settings),  # type: ignore[misc]
        )
        for job in firsts
    ]
    gib = []
    for job, mine in zip(jobs, row, strict=True):
        disk = taken[int(mine)].disk_gib
        new = job.part in ("first pass", "final")
        gib.append(0.0 if disk is None or not new else disk.middle / job.shot.rendered_count(job.settings))
    memory = [disk_memory.memory_gib for disk_memory in taken]
    work = Work(
        tuple(job.name for job in jobs),
        order_of(project, jobs, hours),
        np.cumsum([0, *(len(job.frames) for job in jobs)]),
        row,
        np.concatenate([job.frames for job in jobs]),
        np.concatenate([job.place for job in jobs]),
        whole,
        part,
        np.array([one[0].shape[1] for one in seconds], np.int64),
        float(fit.spread.repeat_sd),
        np.array([bool(job.settings.keep) for job in firsts]),
        np.array([job.settings.saves for job in firsts], np.int64),
        np.array(
            [
                0.0 if interval is None else min(interval.middle, shown_to_fit(project, job.shot, job.settings))
                for interval, job in zip(memory, firsts, strict=True)
            ]
        ),
        np.array(gib),
        needs_of(project, jobs),
        beside_of(jobs),
        _shares(project, fit, draws, firsts),
    )
    return Queue(jobs, work)


def _shares(project: Project, fit: Fit, draws: FilmDraws, rows: Sequence[Job]) -> Floats | None:
    """Return the share of each machine's speed that is left with frames of each row; 0 where it does not render them.

    None where no frame spills and none is bound to machines.
    """
    spilled = spilled_shares(project, fit, draws)
    if not spilled and not any(bound_to(project, job) for job in rows):
        return None
    machines = [machine for machine in project.machines if machine.count]
    return np.array(
        [
            [
                share_left(spilled, project, job.shot, job.settings, machine)
                if not (only := bound_to(project, job)) or machine.name in only
                else 0.0
                for job in rows
            ]
            for machine in machines
        ]
    )


def bound_to(project: Project, job: Job) -> tuple[str, ...]:
    """Return the machines that alone render a job; none where all do."""
    if job.part == "denoise" and project.running.denoise_on:
        return project.running.denoise_on
    return job.shot.only_on


def _key(job: Job, denoised: Collection[str]) -> tuple[object, ...]:
    """Return what jobs of one row of costs have in common: frames of a shot that are worked out alike.

    Of shots that are denoised in a job of their own, the frames are worked out without it first.
    """
    if job.part == "denoise":
        return job.shot.name, "denoise"
    apart = job.part == "final" and job.shot.name in denoised
    return job.shot.name, job.settings, "alone" if apart else "whole"


@dataclass(frozen=True)
class _Costs:
    """Draws of what frames of a film cost."""

    project: Project
    fit: Fit
    draws: FilmDraws
    which: Ints | None

    def of(self, job: Job, *, alone: bool) -> tuple[Floats, Floats]:
        """Return seconds of a job's frames at places along its shot, (D, L), whole and with what is kept.

        Where denoising waits for neighbours, a frame is first worked out `alone`, without it.
        """
        if alone or job.part == "denoise":
            undone = job.settings.replace(denoise=NO_DENOISE)
        if job.part == "denoise":
            added = np.maximum(self._seconds(job.shot, job.settings) - self._seconds(job.shot, undone), 0.0)
            return added, added
        settings = undone if alone else job.settings
        kept = self._seconds(job.shot, settings)
        return (self._seconds(job.shot, settings, keeping=False) if settings.keep else kept), kept

    def _seconds(self, shot: Shot, settings: ShotSettings, *, keeping: bool = True) -> Floats:
        wanted = frames_of(
            [settings], [self.project.size_of(shot)], self.fit.cost_factors, self.fit.shots[shot.name].shape()
        )
        if not keeping:
            nothing = np.zeros_like(wanted.keeps_prepare)
            wanted = replace(wanted, keeps_prepare=nothing, keeps_light=nothing)
        return seconds_along(self.draws[shot.name], wanted, self.which)


def _padded(values: Floats, length: int) -> Floats:
    more = length - values.shape[1]
    return np.pad(values, ((0, 0), (0, more)), mode="edge") if more else values
