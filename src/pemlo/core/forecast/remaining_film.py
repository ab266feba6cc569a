"""The remaining work of a film as a film of its own: so that Trade's questions can be asked of it. NumPy.

Its shots have the frames that are left, it begins now, and its machines are as fast as they are. What is rendered is
fixed. A shot that has begun keeps its settings, unless they may change in its middle.
"""

from collections.abc import Mapping
from dataclasses import dataclass, replace
from datetime import timedelta

import numpy as np

from pemlo.core.arrays import Ints
from pemlo.core.cost.along import between, knots, places
from pemlo.core.cost.draws import ShotDraws
from pemlo.core.errors import InputError
from pemlo.core.forecast.jobs import EARLY, Job
from pemlo.core.forecast.updated_posterior import UpdatedPosterior
from pemlo.core.project.project import Project
from pemlo.core.project.record import build
from pemlo.core.project.settings import LEVERS, ShotSettings
from pemlo.core.project.shots import Shot


@dataclass(frozen=True)
class RestFilm:
    """The remaining work.

    Attributes
    ----------
    project : Project
    draws : dict of str to ShotDraws
        Of its shots.
    begun : dict of str to int
        Shots of it of which some frames are in, and how many.
    """

    project: Project
    draws: dict[str, ShotDraws]
    begun: dict[str, int]


def rest_film(
    project: Project,
    updated: UpdatedPosterior,
    jobs: tuple[Job, ...],
    done: Mapping[str, Ints],
    silent: tuple[str, ...],
    now: float,
    *,
    midway: bool,
) -> RestFilm:
    """Return what is left of a film.

    Parameters
    ----------
    project : Project
    updated : UpdatedPosterior
        From the frames that are in.
    jobs : tuple of Job
        The remaining work; see `pemlo.core.forecast.remaining_work.jobs_left`.
    done : mapping of str to (K,) ndarray of int
        Frames of each shot that are in.
    silent : tuple of str
        Machines that count as off.
    now : float
        Seconds since the start.
    midway : bool
        Whether settings may change in the middle of a shot.

    Raises
    ------
    InputError
        If nothing is left, or the deadline has passed.
    """
    start = project.start + timedelta(seconds=now)
    if start >= project.delivery.render_by:
        raise InputError(
            "The deadline has passed.", "Set another in the brief, and the remaining frames can be planned for it."
        )
    left = {job.shot.name: job.frames for job in jobs if job.part == "final" and len(job.frames)}
    if not left:
        raise InputError("Nothing is left to be planned: all frames are in.")
    begun = {name: len(done.get(name, ())) for name in left if len(done.get(name, ()))}
    shots = [_rest_of(shot, left[shot.name], held=not midway and shot.name in begun)
             for shot in project.shots if shot.name in left]  # fmt: skip
    names = {shot.name for shot in shots}
    kept = [
        shot.replace(after=tuple(n for n in shot.after if any(shot.goes_by(n) for shot in shots))) for shot in shots
    ]
    pace, loss = np.median(updated.pace, axis=0), np.median(updated.loss, axis=0)
    machines = [
        machine.replace(
            speed=float(np.clip(machine.speed * pace[k], 1e-3, 1000)),
            loss_percent=float(min(100 * loss[k], 99)),
            count=0 if machine.name in silent else machine.count,
        )
        for k, machine in enumerate(project.machines)
    ]
    early = {job.shot.name for job in jobs if job.part == EARLY}
    running = project.running if early else project.running.replace(first_pass=None)
    made = build(
        Project,
        {
            **dict(project), "start": start, "shots": tuple(kept), "machines": tuple(machines),
            "trials": tuple(trial for trial in project.trials if trial.shot in names), "plans": (), "cards": (),
            "running": running.replace(queue=tuple(name for name in running.queue if name in names)),
        },
        "The remaining work",
    )  # fmt: skip
    found = {
        shot.name: _draws_left(project.shot(shot.name), shot, updated.draws[shot.name], left[shot.name])
        for shot in made.shots
    }
    return RestFilm(made, found, begun)


def _rest_of(shot: Shot, frames: Ints, *, held: bool) -> Shot:
    """Return a shot that has as many frames as are left, from the first of them on."""
    step = shot.step * shot.settings.frame_step
    first = int(frames[0])
    return shot.replace(
        first=first,
        last=first + (len(frames) - 1) * step,
        ranges=(),
        handles=0,
        pins=LEVERS if held else shot.pins,
        due=shot.due,
    )


def _draws_left(shot: Shot, rest: Shot, mine: ShotDraws, frames: Ints) -> ShotDraws:
    """Return the draws of a shot at places of what is left of it."""
    at, share = knots(rest.span_count)
    own, _ = knots(shot.span_count)
    spots = np.interp(at, np.linspace(0, 1, len(frames)), places(frames.astype(float), shot.first, shot.last))
    return replace(mine, cost_profile=between(mine.cost_profile, own, spots), share=share)


def settings_changed(project: Project, rest: Project) -> dict[str, ShotSettings]:
    """Return the shots whose settings a plan of what is left changes, and to what."""
    return {shot.name: shot.settings for shot in rest.shots if shot.settings != project.shot(shot.name).settings}
