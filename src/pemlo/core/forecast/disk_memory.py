"""What a shot takes on disk and in memory, with settings that were never rendered. Pure.

A written frame grows with its pixels, and so does what a renderer holds, beside a part that it always holds: both are
read off trials that say it, of the shot itself, and of the others where it has none.
"""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from pemlo.core.arrays import Floats
from pemlo.core.cost.frame_arrays import rendered_pixels
from pemlo.core.interval import NINETY, Interval
from pemlo.core.project.lookup import trials_with
from pemlo.core.project.project import Project
from pemlo.core.project.settings import ShotSettings
from pemlo.core.project.shots import Shot
from pemlo.core.project.trials import Trial

MIB_PER_GIB = 1024
_LIKELY_POWER = 0.25  # by which memory follows the pixels where nothing says how
_AS_LARGE = 0.95  # of the pixels planned: a frame of so many shows that they fit
# How far frames of a shot lie apart, and shots of a film, log; common practice, no source.
_FRAMES_SD, _SHOTS_SD = 0.1, 0.5


@dataclass(frozen=True)
class DiskMemory:
    """What a shot takes.

    Attributes
    ----------
    disk_gib : Interval, optional
        All its rendered frames; None if no trial says what one takes.
    memory_gib : Interval, optional
        Of one frame while it renders.
    """

    disk_gib: Interval | None
    memory_gib: Interval | None


def disk_memory_of(project: Project, shot: Shot, settings: ShotSettings) -> DiskMemory:
    """Return what a shot takes with some settings."""
    pixels = rendered_pixels(project.size_of(shot), settings.resolution_percent) / 1e6
    frame = _read_off(_said(project, shot.name, "disk_mib"), pixels, fixed=False)
    memory = _read_off(_said(project, shot.name, "memory_gib"), pixels, fixed=True)
    count = shot.rendered_count(settings)
    if frame is None:
        return DiskMemory(None, memory)
    return DiskMemory(frame.times(count / MIB_PER_GIB), memory)


def sum_of(parts: Sequence[Interval]) -> Interval:
    """Return what several shots take together; what is not known of them goes together too."""
    return Interval(*(float(sum(points)) for points in zip(*parts, strict=True))) if parts else Interval(0.0, 0.0, 0.0)


def shown_to_fit(project: Project, shot: Shot, settings: ShotSettings) -> float:
    """Return memory in GiB that is enough for a frame, as one that was timed in so much shows; infinite if none was."""
    pixels = rendered_pixels(project.size_of(shot), settings.resolution_percent) / 1e6
    has = {machine.name: machine.memory_gib for machine in project.machines if machine.memory_gib is not None}
    enough = [
        has[trial.machine] / trial.frames_at_once
        for trial in project.trials_of(shot.name)
        if trial.machine in has and not trial.left_out and not trial.assumed
        and trial.region_percent is None and _pixels(trial) >= _AS_LARGE * pixels
    ]  # fmt: skip
    return min(enough, default=float("inf"))


def may_not_fit(project: Project, shot: Shot, settings: ShotSettings, memory: Interval) -> tuple[str, ...]:
    """Return the machines on which a frame likely fits, and in one of twenty cases does not."""
    enough = shown_to_fit(project, shot, settings)
    return tuple(
        machine.name
        for machine in project.machines
        if machine.memory_gib is not None
        and memory.middle <= machine.memory_gib / machine.frames_at_once < min(memory.high, enough)
    )


def too_small(project: Project, shot: Shot, settings: ShotSettings, memory: Interval) -> tuple[str, ...]:
    """Return the machines that have less memory than a frame takes, a frame for each that they render at once."""
    needs = min(memory.middle, shown_to_fit(project, shot, settings))
    return tuple(
        machine.name
        for machine in project.machines
        if machine.memory_gib is not None and machine.memory_gib / machine.frames_at_once < needs
    )


@dataclass(frozen=True)
class _Said:
    """Megapixels of trials, what they take, and whether they are of the shot itself."""

    pixels: Floats
    taken: Floats
    own: bool


def _said(project: Project, shot: str, field: str) -> _Said | None:
    own = tuple(trial for trial in project.trials_of(shot) if getattr(trial, field) is not None)
    used = own or trials_with(project.trials, field)
    if not used:
        return None
    pixels, taken = [_pixels(trial) for trial in used], [getattr(trial, field) for trial in used]
    return _Said(np.array(pixels), np.array(taken), bool(own))


def _read_off(said: _Said | None, pixels: float, *, fixed: bool) -> Interval | None:
    """Return what so many megapixels take: straight in pixels, from 0 on unless a part is always there."""
    if said is None:
        return None
    sd = _FRAMES_SD if said.own else _SHOTS_SD
    if not fixed:
        each = np.log(said.taken / said.pixels)
        middle, spread = float(np.mean(each)), float(np.std(each))
        spread = NINETY * float(np.hypot(sd, spread))
        return Interval(*(pixels * float(np.exp(middle + k * spread)) for k in (-1, 0, 1)))
    if np.ptp(said.pixels) > 0:
        slope, base = np.polyfit(said.pixels, said.taken, 1)
        slope = max(float(slope), 0.0)
        base = max(float(np.mean(said.taken) - slope * np.mean(said.pixels)), 0.0)
        middle = base + slope * pixels
        low, high = middle * np.exp(-NINETY * sd), middle * np.exp(NINETY * sd)
        return Interval(float(low), middle, float(high))
    # Of one size it is not known how much is always there: from all of it to nothing. Mostly it is nearly all, as what
    # fills the memory is the scene (common practice, no source).
    taken, ratio = float(np.mean(said.taken)), float(pixels / said.pixels[0])
    ends = sorted((taken, taken * ratio))
    return Interval(
        ends[0] * float(np.exp(-NINETY * sd)), taken * ratio**_LIKELY_POWER, ends[1] * float(np.exp(NINETY * sd))
    )


def _pixels(trial: Trial) -> float:
    return (trial.width or 1) * (trial.height or 1) / 1e6
