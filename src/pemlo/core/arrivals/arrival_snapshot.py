"""What came, put in order: the state of every frame, and the frames that are in as numbers for the forecast. NumPy."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from functools import cached_property

import numpy as np

from pemlo.core.arrays import Floats
from pemlo.core.arrivals.file_gaps import are_machines, gap_seconds
from pemlo.core.arrivals.folder_scanner import ScanResult, settings_of
from pemlo.core.arrivals.states import LOST_AFTER, FrameState, ShotStates, again_since, passed_by, shot_states
from pemlo.core.arrivals.store_rows import FrameRow
from pemlo.core.forecast.completed_frames import UNKNOWN_MACHINE, CompletedFrames, nothing_in, open_between
from pemlo.core.forecast.jobs import early_settings
from pemlo.core.project.project import Project
from pemlo.core.project.settings import FrameSettings
from pemlo.core.project.shots import Shot

FILE_TIMES = "file times"
FASTEST_S = 0.1  # no renderer begins, renders and writes a frame in less


@dataclass(frozen=True)
class Copied:
    """Frames of a shot whose files have the times of a copy: how many, and the seconds between two of them."""

    count: int
    gap_s: float


@dataclass(frozen=True)
class ArrivalSnapshot:
    """What came of a film.

    Attributes
    ----------
    project : Project
    look : ScanResult
    now : float
        Seconds since the start.
    states : tuple of ShotStates
        Of each shot, of its pass that is rendered now.
    frames : CompletedFrames
        Those that are in; seconds from file times where nothing better is known.
    sources : dict of (str, int) to str
        Of each frame that is in: where its time is from; empty where it is not known.
    launched : float
        When rendering began, seconds since the start.
    copied : mapping of str to Copied
        Shots whose files were dated faster than they can be rendered.
    """

    project: Project
    look: ScanResult
    now: float
    states: tuple[ShotStates, ...]
    frames: CompletedFrames
    sources: Mapping[tuple[str, int], str]
    launched: float
    copied: Mapping[str, Copied] = field(default_factory=dict)

    @cached_property
    def wanted(self) -> int:
        """How many frames the passes that are rendered now have."""
        return sum(len(one.frames) for one in self.states)

    @cached_property
    def done_count(self) -> int:
        """How many frames are in."""
        return sum(one.count(FrameState.IN) for one in self.states)

    def of(self, shot: str) -> ShotStates:
        """Return the states of a shot.

        Raises
        ------
        KeyError
            If the film has none of that name.
        """
        for one in self.states:
            if one.shot == shot:
                return one
        raise KeyError(shot)


def arrival_snapshot(
    project: Project, look: ScanResult, now: float, shortest_gaps: Mapping[str, float] | None = None
) -> ArrivalSnapshot:
    """Put in order what a look found.

    Parameters
    ----------
    project : Project
    look : ScanResult
    now : float
        Seconds since the start.
    shortest_gaps : mapping of str to float, optional
        Of each shot, seconds between two files below which they are copies: then their times teach nothing. Of shots
        without it, a tenth of a second for all slots together (common practice, no source).
    """
    again = again_since(project)
    rows = {shot.name: _of_this_pass(project, shot, look.rows.get(shot.name, ())) for shot in project.shots}
    states = [shot_states(shot, rows[shot.name], look.writing, again) for shot in project.shots]
    frames, sources, copied = _frames_in(project, states, shortest_gaps or {})
    launched = _launched(project, frames, now)
    longest = _longest(frames)
    for number, (shot, before) in enumerate(zip(project.shots, states, strict=True)):
        lost = _lost(project, before, frames.those(frames.shot == number), longest, now)
        if lost:
            states[number] = shot_states(shot, rows[shot.name], look.writing, again, lost)
    return ArrivalSnapshot(project, look, now, tuple(states), frames, sources, launched, copied)


def _of_this_pass(project: Project, shot: Shot, rows: Sequence[FrameRow]) -> tuple[FrameRow, ...]:
    early = early_settings(project, shot) is not None
    return tuple(row for row in rows if row.early == early)


def machine_number(project: Project, name: str) -> int:
    """Return which machine of the brief a name means: its own, or that of one in a group, such as ``blade-3``."""
    plain = name.strip().casefold()
    if not plain:
        return UNKNOWN_MACHINE
    for number, machine in enumerate(project.machines):
        if machine.name.casefold() == plain:
            return number
    for number, machine in enumerate(project.machines):
        rest = plain.removeprefix(machine.name.casefold())
        if rest != plain and machine.count > 1 and rest.strip(" -_.#").isdigit():
            return number
    return UNKNOWN_MACHINE


def _frames_in(
    project: Project, states: Sequence[ShotStates], shortest_gaps: Mapping[str, float]
) -> tuple[CompletedFrames, dict[tuple[str, int], str], dict[str, Copied]]:
    copied: dict[str, Copied] = {}
    kinds: dict[str, int] = {}
    rendered_with: list[FrameSettings] = []
    machines: dict[str, int] = {}
    sources: dict[tuple[str, int], str] = {}
    start = project.start.timestamp()
    slots = sum(machine.count * machine.frames_at_once for machine in project.machines)
    columns: list[list[tuple[float, ...]]] = []
    for number, (shot, mine) in enumerate(zip(project.shots, states, strict=True)):
        rows = mine.rows_in
        if not rows:
            continue
        for row in rows:
            if row.machine not in machines:
                machines[row.machine] = machine_number(project, row.machine)
            if row.settings not in kinds:
                kinds[row.settings] = len(kinds)
                rendered_with.append(settings_of(row.settings) if row.settings else _plain(shot))
            sources[shot.name, row.frame] = row.source
        values: list[tuple[float, ...]] = [
            (number, row.frame, row.seconds if row.seconds > 0 else np.nan, machines[row.machine], row.ended - start,
             kinds[row.settings])
            for row in rows
        ]  # fmt: skip
        timed, copies = _timed_by_gaps(
            shot, values, sources, shortest_gaps.get(shot.name, FASTEST_S / max(slots, 1)), slots
        )
        columns.append(timed)
        if copies is not None:
            copied[shot.name] = copies
    if not columns:
        return nothing_in(), sources, copied
    table = np.array([line for lines in columns for line in lines], float)
    whole = [np.asarray(table[:, k], np.int64) for k in (0, 1, 3, 5)]
    frames = CompletedFrames(whole[0], whole[1], table[:, 2], whole[2], table[:, 4], whole[3], tuple(rendered_with))
    return frames, sources, copied


def _plain(shot: Shot) -> FrameSettings:
    return FrameSettings.model_validate(shot.settings.frame_fields())


def _timed_by_gaps(
    shot: Shot, values: list[tuple[float, ...]], sources: dict[tuple[str, int], str], shortest: float, slots: int
) -> tuple[list[tuple[float, ...]], Copied | None]:
    """Return frames of a shot with seconds from the times of their files, where nothing else says them; and copies."""
    table = np.array(values, float)
    unknown = np.isnan(table[:, 2])
    if not unknown.any():
        return values, None
    machine = np.asarray(table[:, 3], np.int64)
    named = machine if (machine != UNKNOWN_MACHINE).all() else None
    step = shot.step * shot.settings.frame_step
    seconds, chain = gap_seconds(np.asarray(table[:, 1], np.int64), table[:, 4], step, named)
    short = unknown & (seconds < shortest)
    copies = None
    if short.any():
        copies = Copied(int(short.sum()) + 1, float(np.median(seconds[short])))
        seconds[short] = np.nan
    if named is None and not are_machines(chain, table[:, 4], slots):
        seconds[:] = np.nan  # what all machines did together says more: see `forecast.pool_times`
    table[unknown, 2] = seconds[unknown]
    for frame in table[unknown & np.isfinite(seconds), 1]:
        sources[shot.name, int(frame)] = FILE_TIMES
    return [tuple(line) for line in table.tolist()], copies


def _launched(project: Project, frames: CompletedFrames, now: float) -> float:
    """Return when rendering began: as it is said, or when the first frame that came was begun."""
    said = project.watching.launched
    if said is not None:
        return (said - project.start).total_seconds()
    if not len(frames):
        return min(now, 0.0)
    begun = frames.ended - np.where(np.isfinite(frames.seconds), frames.seconds, 0.0)
    return float(begun.min())


def _longest(frames: CompletedFrames) -> float:
    """Return what the longest frames took, s; infinity where that is not known."""
    known = frames.seconds[frames.timed]
    return float(np.quantile(known, 0.98)) if len(known) else np.inf


def _lost(project: Project, mine: ShotStates, frames: CompletedFrames, longest: float, now: float) -> frozenset[int]:
    """Return frames that were passed by so long ago that any machine would have brought them."""
    names = [str(number) for number in frames.machine.tolist()]
    since = passed_by(frames.frame, frames.ended, names, mine.frames[mine.state == FrameState.WAITING])
    if not since:
        return frozenset()
    waits = LOST_AFTER * longest
    found = set()
    for frame, moment in since.items():
        if now - moment <= waits:
            continue
        hours: Floats = np.array([
            open_between(project, k, moment, now) for k in range(len(project.machines)) if project.machines[k].count
        ])  # fmt: skip
        # A machine that was never free meanwhile may still have it; one that delivered since has not.
        if (hours > waits).all() or _all_delivered(project, frames, moment + longest):
            found.add(frame)
    return frozenset(found)


def _all_delivered(project: Project, frames: CompletedFrames, since: float) -> bool:
    """Whether every machine that is known to render has brought another frame since."""
    known = set(frames.machine.tolist()) - {UNKNOWN_MACHINE}
    late = set(frames.machine[frames.ended > since].tolist()) - {UNKNOWN_MACHINE}
    return bool(known) and known == late and len(known) == sum(1 for machine in project.machines if machine.count)
