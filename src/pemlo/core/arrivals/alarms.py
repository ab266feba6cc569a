"""What is wrong with frames that came, machines, and the finish: as a short list, with what to do. Pure."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Literal

import numpy as np

from pemlo.core.arrivals.arrival_snapshot import ArrivalSnapshot
from pemlo.core.arrivals.odd_frames import odd_frames
from pemlo.core.arrivals.states import FrameState, ShotStates
from pemlo.core.chances import chance_percent
from pemlo.core.cost.posterior import Fit
from pemlo.core.forecast.completed_frames import UNKNOWN_MACHINE
from pemlo.core.forecast.progress import mean_seconds
from pemlo.core.forecast.remaining_work import RemainingWork
from pemlo.core.forecast.updated_posterior import UpdatedPosterior, residuals
from pemlo.core.frames import format_frames, format_ranges
from pemlo.core.interval import Interval, interval_of
from pemlo.core.project.project import Project
from pemlo.core.units import counted, format_duration, format_interval, format_span, round_figures

Kind = Literal["frames", "machine", "shot", "finish", "look", "folder"]
FRAME_WIDTHS, FRAME_FACTOR = 6.0, 1.5  # a frame is off if it is by so many deviations and by such a factor
MACHINE_OFF = 3.0  # deviations of a typed speed
SPEED_SD = 0.17  # of a typed speed, log; see `learned`
SHOT_SHARE = 0.2  # of a shot's frames that must be in before its mean is judged
DOUBT = 0.05  # the chance must be under the wanted one by so much, and have been over it


@dataclass(frozen=True)
class Alarm:
    """Something that somebody should know.

    Attributes
    ----------
    kind : str
        ``frames`` are lost or broken; a ``machine``, a ``shot`` or the ``finish`` is other than was expected; ``look``
        is no error; ``folder`` what cannot be read.
    words : str
        What is wrong, and where.
    todo : str
        What to do.
    shot : str
    frames : tuple of int
    machine : str
    """

    kind: Kind
    words: str
    todo: str = ""
    shot: str = ""
    frames: tuple[int, ...] = ()
    machine: str = ""

    @property
    def key(self) -> tuple[str, ...]:
        """What makes it the same alarm as before, however its numbers moved."""
        return (self.kind, self.shot, self.machine, self.words if self.kind == "folder" else self.todo)


def alarms_of(
    snapshot: ArrivalSnapshot,
    fit: Fit,
    updated: UpdatedPosterior,
    rest: RemainingWork | None,
    expected: Mapping[str, Interval],
    best_chance: float | None,
) -> tuple[Alarm, ...]:
    """Return what should be known, the worst first.

    Parameters
    ----------
    snapshot : ArrivalSnapshot
    fit : Fit
    updated : UpdatedPosterior
    rest : RemainingWork, optional
    expected : mapping of str to Interval
        Seconds of the mean frame of each shot before the first frame came; as wide as all shots keep nine times in ten.
    best_chance : float, optional
        The best chance that there was since the launch.
    """
    project = snapshot.project
    found = [*_finish(project, rest, best_chance), *_machines(project, updated, rest, snapshot), *of_files(snapshot)]
    found += _shots(project, fit, updated, snapshot, expected)
    return (*found, *_slow_frames(project, fit, updated, snapshot), *_odd(snapshot))


def of_files(snapshot: ArrivalSnapshot) -> tuple[Alarm, ...]:
    """Return what is wrong with the files that came, their folders and their clocks."""
    return (
        *_clocks(snapshot),
        *_folders(snapshot),
        *_copied(snapshot),
        *_broken(snapshot),
        *_not_as_planned(snapshot),
        *_beyond(snapshot),
    )


def _ranges(frames: Sequence[int]) -> str:
    return format_frames(tuple(frames)).replace(",", ", ")


def _folders(snapshot: ArrivalSnapshot) -> list[Alarm]:
    return [Alarm("folder", words) for words in snapshot.look.troubles]


def _copied(snapshot: ArrivalSnapshot) -> list[Alarm]:
    return [
        Alarm(
            "shot",
            f"{counted(copied.count, 'frame')} of {shot} are dated {_gap(copied.gap_s)} apart, "
            "faster than all machines can render: these are the times of a copy, so they are not used.",
            "Copy files with their times, or have a header or a log say what frames took.",
            shot,
        )
        for shot, copied in snapshot.copied.items()
    ]


def _gap(seconds: float) -> str:
    return format_duration(seconds) if seconds >= 1 else "less than a second"


def _beyond(snapshot: ArrivalSnapshot) -> list[Alarm]:
    """Frames that no shot has: a range may be typed too short, or taken from a folder that still grew."""
    alarms = []
    for shot in snapshot.project.shots:
        parts = shot.parts_to_render(shot.settings)
        arrived_frames = {row.frame for row in snapshot.look.rows.get(shot.name, ())}
        beyond = sorted(frame for frame in arrived_frames if not any(first <= frame <= last for first, last in parts))
        if beyond and not shot.still:
            words = (
                f"{counted(len(beyond), 'frame')} of {shot.name} came beyond its range {format_ranges(parts)}: "
                f"{_ranges(beyond)}."
            )
            whole = f"{min(parts[0][0], beyond[0])}-{max(parts[-1][1], beyond[-1])}"
            todo = f"Give {shot.name} the frames {whole} in the brief, if they belong to it."
            alarms.append(Alarm("shot", words, todo, shot.name))
    return alarms


def _clocks(snapshot: ArrivalSnapshot) -> list[Alarm]:
    return [
        Alarm(
            "machine",
            f"The clock of {machine or 'a machine'} is {format_span(abs(off))} {'ahead' if off > 0 else 'behind'}.",
            "Its files count as they come, not as they are dated. Set its clock.",
            machine=machine,
        )
        for machine, off in snapshot.look.clocks.items()
    ]


def _broken(snapshot: ArrivalSnapshot) -> list[Alarm]:
    alarms = []
    for mine in snapshot.states:
        for state, verb in ((FrameState.BROKEN, "broken"), (FrameState.LOST, "lost")):
            frames = mine.of(state)
            reasons: dict[str, list[int]] = {}
            for frame in frames:
                reasons.setdefault(_reason(mine, frame), []).append(frame)
            for why, those in reasons.items():
                words = f"{counted(len(those), 'frame')} of {mine.shot} {'is' if len(those) == 1 else 'are'} {verb}"
                todo = f"Render {_ranges(those)} again."
                alarms.append(Alarm("frames", f"{words}: {_ranges(those)} {why}.", todo, mine.shot, tuple(those)))
    return alarms


def _reason(mine: ShotStates, frame: int) -> str:
    why = mine.why.get(frame, "")
    # Sizes and counts of pixels differ from frame to frame; the kind of trouble is one.
    return (
        "hold what is no number"
        if why.endswith("no number")
        else "cannot be read"
        if "cannot be read" in why or "damaged" in why
        else why
    )


def _not_as_planned(snapshot: ArrivalSnapshot) -> list[Alarm]:
    alarms = []
    for mine in snapshot.states:
        differs: dict[str, list[int]] = {}
        for row in mine.rows_in:
            if row.differs:
                differs.setdefault(row.differs, []).append(row.frame)
        for what, frames in differs.items():
            words = (
                f"{counted(len(frames), 'frame')} of {mine.shot} {'is' if len(frames) == 1 else 'are'} not as planned"
            )
            todo = "Set the renderer to the plan, or adopt what it does."
            alarms.append(Alarm("frames", f"{words}: {what}.", todo, mine.shot, tuple(frames)))
    return alarms


def _finish(project: Project, rest: RemainingWork | None, best_chance: float | None) -> list[Alarm]:
    wanted = project.delivery.confidence
    if rest is None or best_chance is None or best_chance < wanted or rest.probability >= wanted - DOUBT:
        return []
    best, now = chance_percent(best_chance), chance_percent(rest.probability)
    words = f"The deadline is in doubt: the chance fell from {best} to {now}."
    return [Alarm("finish", words, "Plan the rest.")]


def _machines(
    project: Project, updated: UpdatedPosterior, rest: RemainingWork | None, snapshot: ArrivalSnapshot
) -> list[Alarm]:
    alarms = []
    for name in rest.silent if rest else ():
        number = next(k for k, machine in enumerate(project.machines) if machine.name == name)
        mine = snapshot.frames.ended[snapshot.frames.machine == number]
        since = f"since {format_span(snapshot.now - float(mine.max()))}" if len(mine) else "at all"
        words = f"{name} has brought nothing {since}."
        alarms.append(
            Alarm("machine", words, "It counts as off until it brings a frame. See whether it runs.", machine=name)
        )
    for number, machine in enumerate(project.machines):
        if not (snapshot.frames.machine == number).any():
            continue
        pace = interval_of(updated.pace[:, number])
        low, middle, high = pace
        far = np.exp(MACHINE_OFF * SPEED_SD)
        if number in updated.changed:
            when = format_span(snapshot.now - updated.changed[number])
            if middle < 1:
                words = f"{machine.name} has been slower for {when}: by a factor of {round_figures(1 / middle, 2)}."
                alarms.append(Alarm("machine", words, "See what else it does.", machine=machine.name))
        elif high < 1 / far or low > far:
            words = f"{machine.name} is {'slower' if middle < 1 else 'faster'} than the brief says: "
            known = format_interval(pace.times(machine.speed))
            words += f"speed {known}, not {machine.speed:g}."
            alarms.append(Alarm("machine", words, "Set its speed in the brief.", machine=machine.name))
    return alarms


def _shots(
    project: Project, fit: Fit, updated: UpdatedPosterior, snapshot: ArrivalSnapshot, expected: Mapping[str, Interval]
) -> list[Alarm]:
    alarms = []
    for number, (shot, mine) in enumerate(zip(project.shots, snapshot.states, strict=True)):
        arrived_frames = int((snapshot.frames.timed & (snapshot.frames.shot == number)).sum())
        before = expected.get(shot.name)
        if before is None or arrived_frames < SHOT_SHARE * len(mine.frames):
            continue
        now = mean_seconds(project, fit, updated.draws[shot.name], shot)
        if now.high < before.low or now.low > before.high:
            side = "more" if now.low > before.high else "less"
            words = (
                f"Shot {shot.name} takes {side} than predicted: {format_duration(now.middle)} a frame on the reference "
                f"machine, and {format_duration(before.low)} to {format_duration(before.high)} were expected."
            )
            alarms.append(Alarm("shot", words, "The forecast counts with what it takes.", shot.name))
    return alarms


def _slow_frames(project: Project, fit: Fit, updated: UpdatedPosterior, snapshot: ArrivalSnapshot) -> list[Alarm]:
    frames = snapshot.frames
    off = residuals(project, fit, updated, frames)
    pace = updated.pace_of(frames)
    known = np.flatnonzero(np.isfinite(off) & (frames.machine != UNKNOWN_MACHINE))
    found: dict[int, list[int]] = {}
    for at in known.tolist():
        over = off[at] + np.log(pace[at])
        if abs(over) > max(FRAME_WIDTHS * updated.scatter, np.log(FRAME_FACTOR)):
            found.setdefault(int(frames.shot[at]), []).append(at)
    alarms = []
    for shot, those in found.items():
        name = project.shots[shot].name
        numbers = tuple(sorted(int(frames.frame[at]) for at in those))
        worst = max(those, key=lambda at: abs(off[at] + np.log(pace[at])))
        times = float(np.exp(off[worst] + np.log(pace[worst])))
        words = f"{_ranges(numbers)} of {name} took {round_figures(times, 2)} times what is expected there."
        alarms.append(Alarm("look", words, "See what is different in it, or what its machine did.", name, numbers))
    return alarms


def _odd(snapshot: ArrivalSnapshot) -> list[Alarm]:
    alarms = []
    for shot, mine in zip(snapshot.project.shots, snapshot.states, strict=True):
        for frame, why in odd_frames(shot, mine).items():
            alarms.append(Alarm("look", f"Frame {frame} of {shot.name} {why}.", "Look at it.", shot.name, (frame,)))
    return alarms
