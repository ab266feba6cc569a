"""Rows and sentences of the stage Watch. Qt-free, changes nothing."""

import itertools
import math
from collections.abc import Sequence
from dataclasses import dataclass
from datetime import timedelta
from pathlib import Path
from typing import TYPE_CHECKING

import numpy as np

from pemlo.core.arrays import Floats, Ints
from pemlo.core.arrivals.arrival_snapshot import FILE_TIMES
from pemlo.core.arrivals.live_forecast import LiveForecast, LiveMachineForecast, LiveShotForecast
from pemlo.core.arrivals.next_launch import next_launch
from pemlo.core.arrivals.odd_frames import odd_frames
from pemlo.core.arrivals.states import SAID, FrameState
from pemlo.core.cost.along import knots
from pemlo.core.cost.draws import FilmDraws, seconds_along
from pemlo.core.cost.frame_arrays import frames_of
from pemlo.core.forecast.time_ticks import time_ticks
from pemlo.core.frames import format_frames
from pemlo.core.interval import Interval
from pemlo.core.project.project import Project
from pemlo.core.units import HOUR_S, MIB, counted, format_duration, format_interval, round_figures
from pemlo.gui.common.cells import NOTHING
from pemlo.gui.common.columns import Column
from pemlo.gui.watch.marks import UNKNOWN, MarkRow, RowMarks, scale_of, strengths
from pemlo.words.verdicts import say_hours, say_moment

if TYPE_CHECKING:
    from pemlo.core.arrivals.live_forecast import Known
    from pemlo.core.arrivals.store import FinishRow
    from pemlo.core.arrivals.store_rows import FrameRow

MOST_MACHINES = 6  # of which each has a line
SURE = 0.02  # an interval so narrow beside its middle need not be said


@dataclass(frozen=True)
class CostProfileShown:
    """A shot's course: what was predicted at places, what is known now, and what frames took on the reference machine.

    Attributes
    ----------
    at, low, middle, high : (L,) ndarray
        Frames, and seconds that were predicted there: 5 %, 50 % and 95 % points.
    updated : (L,) ndarray or None
    frames, seconds : (K,) ndarray
    words : str
    first, last : int
        Of the shot, with its handles.
    """

    at: Floats
    low: Floats
    middle: Floats
    high: Floats
    updated: Floats | None
    frames: Ints
    seconds: Floats
    words: str
    first: int
    last: int


@dataclass(frozen=True)
class MovesShown:
    """How the finish moved: hours since the start, of the look and of the finish, the deadline, and midnights."""

    at: Floats
    low: Floats
    middle: Floats
    high: Floats
    due_h: float
    midnights: tuple[tuple[float, str], ...]


def ranges(frames: Sequence[int]) -> str:
    """Return frames as ranges that can be copied."""
    return format_frames(tuple(frames)).replace(",", ", ") if frames else ""


def reference_seconds(live: LiveForecast) -> list[tuple[Ints, Floats]]:
    """Return of each shot the frames that are in, and what each took on the reference machine; NaN where not known."""
    frames, project = live.snapshot.frames, live.snapshot.project
    speeds = np.array([machine.slot_speed() for machine in project.machines] or [1.0])
    pace = np.ones(len(frames)) if live.updated is None else live.updated.pace_of(frames)
    seconds = frames.seconds * pace * np.where(frames.machine >= 0, speeds[frames.machine], 1.0)
    order = np.lexsort((frames.frame, frames.shot))
    edges = np.searchsorted(frames.shot[order], np.arange(len(project.shots) + 1))
    parts = [order[a:b] for a, b in itertools.pairwise(edges)]
    return [(frames.frame[mine], seconds[mine]) for mine in parts]


def cost_profile_of(live: LiveForecast, name: str) -> CostProfileShown | None:
    """Return the course of a shot; None where nothing is known of it."""
    project, known = live.snapshot.project, live.known
    number = next((k for k, shot in enumerate(project.shots) if shot.name == name), None)
    if number is None or known is None:
        return None
    shot = project.shots[number]
    places, _ = knots(shot.span_count)
    first, last = shot.whole_range
    # Handles are taken to cost what the ends do.
    at = np.concatenate([[first], shot.first + places * (shot.last - shot.first), [last]])
    before = _with_ends(_cost_profile(known, known.draws, project, number))
    low, middle, high = np.quantile(before, [0.05, 0.5, 0.95], axis=0)
    updated = None
    if live.updated is not None and len(live.snapshot.frames):
        updated = np.median(_with_ends(_cost_profile(known, live.updated.draws, project, number)), axis=0)
    frames, seconds = reference_seconds(live)[number]
    words = (
        f"Shot {name}: {counted(len(frames), 'frame')} in, {format_duration(float(np.median(middle)))} were predicted."
    )
    return CostProfileShown(at, low, middle, high, updated, frames, seconds, words, first, last)


def _with_ends(cost_profile: Floats) -> Floats:
    return np.pad(cost_profile, ((0, 0), (1, 1)), mode="edge")


def _cost_profile(known: "Known", draws: FilmDraws, project: Project, number: int) -> Floats:
    shot = project.shots[number]
    fit, mine = known.fit, draws[shot.name]
    wanted = frames_of([shot.settings], [project.size_of(shot)], fit.cost_factors, fit.shots[shot.name].shape())
    return seconds_along(mine, wanted)


def moves_of(project: Project, finishes: "Sequence[FinishRow]") -> MovesShown | None:
    """Return how the finish moved; None while there is too little to show."""
    known = [row for row in finishes if math.isfinite(row.high)]
    if len(known) < 2:
        return None
    due = project.deadline_h
    columns = np.array([[row.at / HOUR_S, row.low, row.middle, row.high] for row in known]).T
    low, high = min(due, float(columns[1].min())), max(due, float(columns[3].max()))
    ticks = tuple(
        (tick.hours, tick.words) for tick in time_ticks(project, low, high, 300) if tick.midnight and tick.words
    )
    return MovesShown(columns[0], columns[1], columns[2], columns[3], due, ticks)


def frame_words(live: LiveForecast, shot: str, frame: int) -> str:
    """Return what is known of a frame, line by line."""
    mine = live.snapshot.of(shot)
    at = int(np.searchsorted(mine.frames, frame))
    state = FrameState(int(mine.state[at]))
    row = mine.rows[at]
    lines = [f"{shot}, frame {frame}: {SAID[state]}"]
    if frame in mine.why:
        lines.append(mine.why[frame])
    if row is None:
        return "\n".join(lines)
    project = live.snapshot.project
    frames = live.snapshot.frames
    number = next(k for k, one in enumerate(project.shots) if one.name == shot)
    here = np.flatnonzero((frames.shot == number) & (frames.frame == frame))
    seconds = float(frames.seconds[here[0]]) if len(here) else row.seconds
    if seconds > 0 and math.isfinite(seconds):
        source = live.snapshot.sources.get((shot, frame), row.source)
        where = {"header": "as its header says", "log": "as the log says", FILE_TIMES: "from the times of files"}
        on = f" on {row.machine}" if row.machine else ""
        lines.append(f"{format_duration(seconds)}{on}, {where.get(source, 'as its header says')}")
    else:
        lines.append("What it took is not known.")
    snapshot = project.start + timedelta(seconds=row.ended - project.start.timestamp())
    size = f"{row.width}×{row.height} px, " if row.width else ""
    lines.append(f"Came {say_moment(snapshot, project)}, {size}{round_figures(row.size / MIB, 2)} MiB")
    if row.memory_gib:
        lines.append(f"{round_figures(row.memory_gib, 2)} GiB of memory")
    if row.differs:
        lines.append(f"Not as planned: {row.differs}")
    if state == FrameState.IN and (odd := odd_frames(project.shots[number], mine).get(frame)):
        lines.append(odd)
    return "\n".join(lines)


def shot_cells(shot: LiveShotForecast, live: LiveForecast) -> tuple[str, ...]:
    """Return what is said of a shot: in, a frame, predicted, left, done."""
    took = NOTHING if shot.times is None else format_duration(shot.times.mean)
    left = NOTHING if shot.hours_left is None or shot.done_count == shot.frames else _left(shot.hours_left)
    done = NOTHING if shot.done_h is None else moment(live, shot.done_h.middle)
    return shot.shot, f"{shot.done_count}/{shot.frames}", took, left, "in" if shot.done_count == shot.frames else done


@dataclass(frozen=True)
class LiveRow:
    """A shot as it stands while frames come in, and what its cells say."""

    shot: LiveShotForecast
    cells: tuple[str, ...]


def live_rows(live: LiveForecast) -> tuple[LiveRow, ...]:
    """Return the shots in order of the film."""
    return tuple(LiveRow(shot, shot_cells(shot, live)) for shot in live.shots)


def _together_in(rows: Sequence[LiveRow]) -> str:
    return f"{sum(row.shot.done_count for row in rows)}/{sum(row.shot.frames for row in rows)}"


LIVE_COLUMNS: tuple[Column[LiveRow], ...] = (
    Column("shot", "The shots of the film", lambda row: row.cells[0], figures=False, single=True,
           about=lambda row: shot_words(row.shot)),
    Column("in", "Frames that are in, of those that are rendered", lambda row: row.cells[1], total=_together_in,
           order=lambda row: row.shot.done_count / max(row.shot.frames, 1)),
    Column("a frame", "What its frames took on their machines, mean", lambda row: row.cells[2],
           order=lambda row: None if row.shot.times is None else row.shot.times.mean),
    Column("left, h", "Machine-hours of reference that are left, and the interval that holds 9 in 10",
           lambda row: row.cells[3], unit_s=HOUR_S,
           order=lambda row: None if row.shot.hours_left is None else row.shot.hours_left.middle),
    Column("done", "When its last frame is done, the middle of the range", lambda row: row.cells[4],
           order=lambda row: None if row.shot.done_h is None else row.shot.done_h.middle),
)  # fmt: skip


def moment(live: LiveForecast, hours: float) -> str:
    """Return a moment so many hours after the start."""
    project = live.snapshot.project
    return say_hours(hours, project)


def machine_words(machine: LiveMachineForecast) -> str:
    """Return what a machine does, in a line."""
    if not machine.record.delivered:
        return f"{machine.machine}: {'silent' if machine.silent else 'nothing yet'}"
    rate = "" if math.isnan(machine.frames_an_hour) else f", {round_figures(machine.frames_an_hour)} frames an hour"
    pace = format_interval(machine.pace.times(100))
    silent = ", silent" if machine.silent else ""
    return f"{machine.machine}: {counted(machine.record.delivered, 'frame')}{rate}, {pace} % of its given speed{silent}"


def telling_machines(machines: Sequence[LiveMachineForecast]) -> tuple[LiveMachineForecast, ...]:
    """Return the machines of which is said what they do: of many those that are silent, or farthest from their speed.

    They stand in the order of the brief.
    """
    if len(machines) <= MOST_MACHINES:
        return tuple(machines)

    def off(machine: LiveMachineForecast) -> float:
        if not machine.record.delivered:
            return math.inf if machine.silent else 0.0
        return math.inf if machine.silent else abs(math.log(max(machine.pace.middle, 1e-9)))

    told = sorted(range(len(machines)), key=lambda number: -off(machines[number]))[:MOST_MACHINES]
    return tuple(machines[number] for number in sorted(told))


def machine_lines(machines: Sequence[LiveMachineForecast]) -> list[str]:
    """Return what machines do, a line each; of many those that tell most, and how many more there are."""
    told = telling_machines(machines)
    lines = [machine_words(machine) for machine in told]
    more = len(machines) - len(told)
    silent = sum(machine.silent for machine in machines) - sum(machine.silent for machine in told)
    rest = f"{silent} of them silent" if silent else "nearer to their given speeds"
    return [*lines, f"and {more} more, {rest}"] if more else lines


def reason_words(live: LiveForecast) -> str:
    """Return why the frames that are in took other hours than was predicted."""
    why = live.reasons
    if why is None or not why.actual:
        return "Why the finish moves is said once frames are in."
    over = why.actual - why.predicted
    if max(abs(over), abs(why.frames), abs(why.machines)) < 0.02 * why.predicted:
        words = f"Finished frames took {round_figures(why.actual)} machine-hours, as predicted."
    else:
        words = (
            f"Finished frames took {round_figures(why.actual)} machine-hours, {_signed(over)} against the prediction: "
            f"{_signed(why.frames)} in the frames, {_signed(why.machines)} by the speed of machines."
        )
    beside = [
        f"{round_figures(hours, 2)} h {what}"
        for hours, what in ((why.losses, "lost"), (why.away, "away"))
        if hours > 0.05
    ]
    return words + (f" Machines also had {' and '.join(beside)}." if beside else "")


def _size(gib: float) -> str:
    return f"{round_figures(gib, 2)} GiB" if gib >= 1 else f"{round_figures(1024 * gib, 2)} MiB"


def disk_words(live: LiveForecast) -> str:
    """Return what is on disk now and at the end."""
    done_count = sum(shot.gib for shot in live.shots)
    known = [shot.gib_at_end for shot in live.shots if not math.isnan(shot.gib_at_end)]
    frames = sum(shot.frames for shot in live.shots if not math.isnan(shot.gib_at_end))
    if not known or not frames:
        return ""
    end = sum(known) / frames * live.snapshot.wanted
    return f"{_size(done_count)} on disk, about {_size(end)} at the end."


def farm_words(prepares: str) -> str:
    """Return what the small farm does before a shot's first frame; empty while frames come."""
    return f"The small farm: {prepares[:1].lower()}{prepares[1:]}; its clock stands meanwhile." if prepares else ""


def elapsed_words(live: LiveForecast) -> str:
    """Return how long it has rendered, and how long it still will."""
    snapshot = live.snapshot
    gone = format_duration(max(snapshot.now - snapshot.launched, 0.0))
    if live.finish_h is None or live.done:
        return f"{gone} since the launch."
    now = snapshot.now / HOUR_S
    left = Interval(*(max(hours - now, 0.0) for hours in live.finish_h))
    if not math.isfinite(left.high):
        return f"{gone} since the launch; it is not done in every case."
    if left.high - left.low < SURE * left.middle:
        return f"{gone} since the launch, {format_duration(HOUR_S * left.middle)} still to go."
    return f"{gone} since the launch, {format_interval(left)} h still to go."


def _left(interval: Interval) -> str:
    """Return machine-hours in few figures: a table has little room."""
    if interval.middle >= 1:
        return format_interval(interval)
    return f"{interval.middle:.2f} ± {round_figures((interval.high - interval.low) / 2, 1)}"


def _signed(value: float) -> str:
    return f"{'+' if value > 0 else '−'}{round_figures(abs(value), 2)}"


def pictures_of(live: LiveForecast, shot: str, frame: int, base: Path) -> list[tuple[Path, str]]:
    """Return the picture of a frame and one to hold it against, each with its words.

    The other is a trial of this frame or of the nearest one, with the planned settings or the cleanest; without trials
    that have pictures it is the nearest frame that is in.
    """
    mine = live.snapshot.of(shot)
    at = int(np.searchsorted(mine.frames, frame))
    row = mine.rows[at]
    if row is None:
        return []
    shown = [(Path(row.path), f"frame {frame}")]
    trials = [trial for trial in live.snapshot.project.trials_of(shot) if trial.picture and trial.frame == frame]
    if trials:
        best = max(trials, key=lambda trial: trial.samples * trial.resolution_percent**2)
        return [*shown, (base / best.picture, f"trial of {frame}, {best.samples} samples")]
    others = [other for other in mine.rows_in if other.frame != frame]
    if others:
        near = min(others, key=lambda other: abs(other.frame - frame))
        shown.append((Path(near.path), f"frame {near.frame}"))
    return shown


def files_of(live: LiveForecast, shot: str, frames: Sequence[int]) -> list[tuple[Path, str]]:
    """Return the files of frames that are in, in order, each with its words."""
    mine = live.snapshot.of(shot)
    wanted = set(frames)
    return [(Path(row.path), f"frame {row.frame}") for row in mine.rows_in if row.frame in wanted]


def where_words(live: LiveForecast, place: str, *, paused: bool) -> str:
    """Return what is watched."""
    unchecked = live.snapshot.look.unchecked
    return f"{'paused' if paused else 'watched'}: {place}" + (f", {unchecked} to be checked" if unchecked else "")


def mark_rows(live: LiveForecast) -> tuple[MarkRow, ...]:
    """Return the rows of marks."""
    parts = reference_seconds(live)
    scale = scale_of(np.concatenate([seconds for _, seconds in parts]) if parts else np.zeros(0))
    rows = []
    for mine, (frames, seconds) in zip(live.snapshot.states, parts, strict=True):
        strength = np.full(len(mine.frames), UNKNOWN)
        strength[np.searchsorted(mine.frames, frames)] = strengths(seconds, scale)
        done_count = len(frames)
        words = "all in" if done_count == len(mine.frames) else f"{done_count} of {len(mine.frames)}"
        rows.append(MarkRow(mine.shot, mine.frames, RowMarks(mine.state, strength), words))
    return tuple(rows)


def newest_of(live: LiveForecast, shot: str) -> "FrameRow | None":
    """Return the frame that came last: of a shot, or of the film if none of it is in."""
    done_count = [mine.rows_in for mine in sorted(live.snapshot.states, key=lambda one: one.shot != shot)]
    rows = done_count[0] if done_count and done_count[0] else [row for rows in done_count for row in rows]
    return max(rows, key=lambda row: row.ended, default=None)


def next_words(live: LiveForecast, shot: str) -> str:
    """Return what each machine is to render next of a shot, a line each.

    Raises
    ------
    InputError
        If no machine is ever free.
    """
    return "\n".join(f"{range_.machine}: {ranges(range_.frames)}" for range_ in next_launch(live, shot))


def missing_words(live: LiveForecast, shot: str) -> str:
    """Return which frames of a shot are missing, and why."""
    mine = live.snapshot.of(shot)
    states = (FrameState.LOST, FrameState.BROKEN, FrameState.AGAIN, FrameState.WRITING, FrameState.WAITING)
    parts = [(state, mine.of(state)) for state in states]
    return "; ".join(f"{SAID[state]} {ranges(frames)}" for state, frames in parts if frames)


def shot_words(shot: LiveShotForecast) -> str:
    """Return more of a shot, line by line."""
    done = f"{shot.shot}: {shot.done_count} of {shot.frames} in"
    lines = [f"{done}, {shot.broken} broken, {shot.lost} lost, {shot.again} again"]
    if shot.times is not None:
        times = shot.times
        lines.append(
            f"a frame {format_duration(times.mean)} ± {format_duration(times.deviation)}, "
            f"from {format_duration(times.least)} to {format_duration(times.most)}"
        )
    if shot.before is not None and shot.now is not None:
        now, before = format_interval(shot.now), format_interval(shot.before)
        lines.append(f"mean frame on the reference machine {now} s, {before} s predicted")
    if not math.isnan(shot.gib_at_end):
        lines.append(f"{_size(shot.gib)} on disk, {_size(shot.gib_at_end)} at the end")
    return "\n".join(lines)


def machine_tip(machine: LiveMachineForecast) -> str:
    """Return more of a machine, line by line."""
    record, lines = machine.record, [machine.machine]
    if machine.times is not None:
        lines.append(f"a frame {format_duration(machine.times.mean)} ± {format_duration(machine.times.deviation)}")
    lines.append(
        f"{round_figures(record.busy_hours)} h busy of {round_figures(record.open_hours)} h free, "
        f"{counted(record.losses, 'loss') if record.losses == 1 else f'{record.losses} losses'} in "
        f"{round_figures(record.lost_hours, 2)} h, {round_figures(record.away_hours, 2)} h away"
    )
    loss = format_interval(machine.loss.times(100))
    lines.append(f"{loss} % of its frames are lost")
    return "\n".join(lines)
