"""What another frame rate does to frames: the same seconds, the same frames, or slow motion. Pure."""

from collections.abc import Iterable
from dataclasses import dataclass
from typing import Literal

from pemlo.core.frames import Range
from pemlo.core.project.delivery import exact_rate, rate_name
from pemlo.core.project.edits import set_delivery
from pemlo.core.project.project import Project
from pemlo.core.project.shots import Shot
from pemlo.core.units import format_duration

Keep = Literal["seconds", "frames", "slow motion"]


@dataclass(frozen=True)
class RateChange:
    """A change of rate.

    Attributes
    ----------
    before, after : float
        Frames a second.
    frames_before, frames_after : int
        Of all shots that change.
    seconds_before, seconds_after : float
        On screen.
    project : Project
        With the change.
    """

    before: float
    after: float
    frames_before: int
    frames_after: int
    seconds_before: float
    seconds_after: float
    project: Project

    @property
    def words(self) -> str:
        """What the change does to frames, seconds and hours."""
        times = self.frames_after / max(self.frames_before, 1)
        more = f"{abs(times - 1):.0%} {'more' if times > 1 else 'fewer'} frames and hours"
        frames = f"{self.frames_before} frames become {self.frames_after}: {more}"
        if self.frames_after == self.frames_before:
            frames = f"{self.frames_before} frames stay, and so do the hours"
        on_screen = f"{format_duration(self.seconds_before)} on screen become {format_duration(self.seconds_after)}"
        if abs(self.seconds_after - self.seconds_before) < 0.5 / self.after:
            on_screen = f"{format_duration(self.seconds_before)} on screen stay"
        return f"{rate_name(self.before)} to {rate_name(self.after)} fps: {frames}; {on_screen}."


def rate_change(project: Project, fps: float, keep: Keep, names: Iterable[str] = ()) -> RateChange:
    """Return what another rate does to a film.

    Parameters
    ----------
    project : Project
    fps : float
        Frames a second, > 0.
    keep : str
        ``seconds``: shots last as long, with more or fewer frames. ``frames``: they have the same frames, and move
        faster or slower. ``slow motion``: they are rendered at the new rate, and shown at the film's.
    names : iterable of str
        Shots that change; all unless given. The film's own rate changes only with all of them.

    Raises
    ------
    InputError
        If the rate is not allowed.
    """
    fps = exact_rate(fps)
    chosen = set(names) or {shot.name for shot in project.shots}
    shown = project.delivery.fps
    shots, counts, seconds = [], [0, 0], [0.0, 0.0]
    for shot in project.shots:
        if shot.name not in chosen:
            shots.append(shot)
            continue
        rate = project.rate_of(shot)
        parts = shot.parts if keep == "frames" else _longer(shot, fps / rate)
        new = shot.replace(
            last=parts[-1][1],
            ranges=parts if len(parts) > 1 else (),
            fps=None if keep == "slow motion" else shot.fps,
        )
        frames = new.frame_count
        counts[0], counts[1] = counts[0] + shot.frame_count, counts[1] + frames
        seconds[0] += shot.frame_count / rate
        seconds[1] += frames / (shown if keep == "slow motion" else fps)
        if keep != "slow motion":
            new = new.replace(fps=None if len(chosen) == len(project.shots) else fps)
        shots.append(new)
    changed = project.replace(shots=tuple(shots))
    if keep != "slow motion" and len(chosen) == len(project.shots):
        changed = set_delivery(changed, fps=fps)
    return RateChange(shown, fps, counts[0], counts[1], seconds[0], seconds[1], changed)


def _longer(shot: Shot, factor: float) -> tuple[Range, ...]:
    """Return the ranges of a shot with so many times as many frames, and gaps so much longer, in whole steps."""
    ranges: list[Range] = []
    for first, last in shot.parts:
        count = max(1, round(((last - first) // shot.step + 1) * factor))
        begin = shot.first + round((first - shot.first) / shot.step * factor) * shot.step
        begin = max(begin, ranges[-1][1] + shot.step) if ranges else begin
        ranges.append((begin, begin + (count - 1) * shot.step))
    return tuple(ranges)
