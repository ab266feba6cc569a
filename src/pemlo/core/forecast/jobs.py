"""What of a film is rendered, in parts that are handed out one after another: passes, denoising, frames again. Pure."""

import math
from collections import defaultdict
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import datetime
from typing import Literal

import numpy as np

from pemlo.core.arrays import Floats, Ints
from pemlo.core.cost.along import places_within
from pemlo.core.project.project import Project
from pemlo.core.project.settings import ShotSettings
from pemlo.core.project.shots import Shot

Part = Literal["first pass", "final", "denoise", "again"]
EARLY: Part = "first pass"


@dataclass(frozen=True)
class Job:
    """Frames of one shot that are rendered one way.

    Attributes
    ----------
    shot : Shot
    settings : ShotSettings
    part : str
        ``first pass``; ``final``, the shot itself; ``denoise``, what waits for neighbour frames of it; ``again``, the
        frames that are rendered again.
    frames : (N,) ndarray of int
    due_h : float
        Hours from the start to its own date; infinity if it has none.
    """

    shot: Shot
    settings: ShotSettings
    part: Part
    frames: Ints
    due_h: float

    @property
    def name(self) -> str:
        """What it is called: its shot, and which part if that is not all of it."""
        return self.shot.name if self.part == "final" else f"{self.shot.name} {self.part}"

    @property
    def place(self) -> Floats:
        """Where its frames stand in the shot, (N,)."""
        return places_within(self.frames.astype(float), self.shot.first, self.shot.last)


def early_settings(project: Project, shot: Shot) -> ShotSettings | None:
    """Return the settings of a shot's first pass; None if it has none, or none any more."""
    first = project.running.first_pass
    if first is None or shot.approval != "waiting":
        return None
    return next(preset for preset in project.sets if preset.name == first.settings).on(shot.settings)


def jobs_of(project: Project) -> tuple[Job, ...]:
    """Return the jobs of a film, shot by shot, and those that are rendered again after all others."""
    jobs: list[Job] = []
    first = project.running.first_pass
    for shot in project.shots:
        settings = shot.settings
        due = _hours(project, shot.due)
        few = early_settings(project, shot)
        if first is not None and few is not None:
            jobs.append(Job(shot, few, EARLY, _frames(shot, few), _hours(project, first.due)))
        frames = _frames(shot, settings)
        jobs.append(Job(shot, settings, "final", frames, due))
        if settings.looks_around and len(frames) > 1:
            jobs.append(Job(shot, settings, "denoise", frames, due))
    for shot in project.shots:
        frames = _frames(shot, shot.settings)
        count = round(len(frames) * project.delivery.retake_share)
        if count:  # spread evenly over the shot
            at = ((np.arange(count) + 0.5) * len(frames) / count).astype(int) % len(frames)
            jobs.append(Job(shot, shot.settings, "again", frames[at], _hours(project, shot.due)))
    return tuple(jobs)


def _frames(shot: Shot, settings: ShotSettings) -> Ints:
    return np.asarray(shot.rendered_frames(settings), np.int64)


def _hours(project: Project, moment: datetime | None) -> float:
    return math.inf if moment is None else project.hours_of(moment)


def order_of(project: Project, jobs: Sequence[Job], hours: Mapping[str, float]) -> Ints:
    """Return in which order jobs are handed out, (J,).

    First passes come before all else, and frames that are rendered again after it; but those of a shot that is due by
    itself, or that others wait for, straight after the shot. Within that a higher priority comes first, then what the
    film's order says, and of a shot in layers the still ones.

    Parameters
    ----------
    project : Project
    jobs : sequence of Job
    hours : mapping of str to float
        Machine-hours that each shot is expected to take.
    """
    at = {shot.name: number for number, shot in enumerate(project.shots)}
    film: dict[str, int] = {}
    for shot in project.shots:
        film.setdefault(shot.film_name, at[shot.name])
    waited_for = {name for shot in project.shots if shot.after for name in project.comes_after(shot)}
    by_hand = {name: place for place, name in enumerate(project.running.queue)}
    order = project.running.order

    def place(job: Job) -> float:
        name = job.shot.name
        if order == "due":
            return job.due_h
        if order in ("longest", "shortest"):
            return -hours[name] if order == "longest" else hours[name]
        return float(by_hand.get(name, len(by_hand) + at[name]) if order == "by hand" else film[job.shot.film_name])

    def key(job: Job) -> tuple[float, ...]:
        early = job.shot.due is not None or job.shot.name in waited_for
        when = 0 if job.part == EARLY else 2 if job.part == "again" and not early else 1
        within = ("first pass", "final", "denoise", "again").index(job.part)
        return (when, -job.shot.priority, place(job), not job.shot.still, at[job.shot.name], within)

    return np.array(sorted(range(len(jobs)), key=lambda number: key(jobs[number])), np.int64)


def shots_in_order(project: Project, hours: Mapping[str, float]) -> tuple[str, ...]:
    """Return the shots in the order in which they are handed out; `hours` as in `order_of`."""
    jobs = jobs_of(project)
    return tuple(dict.fromkeys(jobs[number].shot.name for number in order_of(project, jobs, hours)))


def needs_of(project: Project, jobs: Sequence[Job]) -> tuple[tuple[int, ...], ...]:
    """Return for each job which others must be done before it begins."""
    of_shot: dict[str, list[int]] = defaultdict(list)
    for number, job in enumerate(jobs):
        of_shot[job.shot.name].append(number)
    found = []
    for job in jobs:
        before = project.comes_after(job.shot) if job.shot.after else set()
        needs = sorted(k for name in before for k in of_shot[name] if jobs[k].part != EARLY)
        if job.part == "again":  # it is looked at first
            needs += [k for k in of_shot[job.shot.name] if jobs[k].part in ("final", "denoise")]
        found.append(tuple(needs))
    return tuple(found)


def beside_of(jobs: Sequence[Job]) -> Ints:
    """Return for each job whose frames its own wait for, (J,): denoising for what it denoises; -1 for none."""
    return np.array([number - 1 if job.part == "denoise" else -1 for number, job in enumerate(jobs)], np.int64)
