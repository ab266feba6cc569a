"""A shot: its frames, how they were asked for and are planned, and what moves in it. Imports its neighbours only."""

from collections.abc import Sequence
from datetime import datetime
from typing import Literal, Self

from pydantic import Field, field_validator, model_validator

from pemlo.core.frames import Range
from pemlo.core.project.delivery import checked_moment
from pemlo.core.project.names import NameOrNone, PathText, ShotName, ShotNameOrNone
from pemlo.core.project.record import Record
from pemlo.core.project.settings import ALLOWABLE, LEVERS, AllowedLever, LeverName, ShotSettings

Movement = Literal["camera", "lights", "objects", "materials", "simulation"]
MOVEMENTS: tuple[Movement, ...] = ("camera", "lights", "objects", "materials", "simulation")
MOST_FRAMES = 1_000_000
MOST_RANGES = 1000
MOST_NOTE = 10_000  # letters


class SettingsMark(Record):
    """What somebody said of a shot with settings, by eye: also what no single frame can show, such as a frame step."""

    settings: ShotSettings
    mark: Literal["good enough", "not good enough"]
    note: str = Field(default="", max_length=10_000)


class Shot(Record):
    """One shot of the film, or one layer of it.

    `step` is part of what the shot is (every frame, or every second one of an animation on twos); the settings'
    `frame_step` is a lever that leaves frames out on top of it. Where only parts of the shot are wanted, `ranges` has
    the first and last frame of each, rising; steps are counted from the first frame of each. `handles` are frames more
    at either end of a range, which are rendered and are not in the film. Size and rate are the delivery's unless given.
    Shots of the same `look` may share what passes. `ceiling` is the largest error that passes, where it is set by hand,
    in display codes; `weight` says how much the shot's error counts. `pins` name the levers that a plan leaves alone,
    `allows` those that change what the picture is and that a plan may move all the same. `marks` say what passed by eye
    as a whole.

    A layer says in `part_of` which shot it is combined into: layers of one shot share its time on screen. Where a layer
    is `still`, nothing in it moves and the camera stands: one frame serves for all.

    A shot may be `due` before the film is. Of shots with a higher `priority` frames are handed out first; those of a
    shot that comes `after` others, by their names or their look, only when all of these are done. Once its first pass
    is `approved`, only the final one is left. Where it fits only some machines, `only_on` names them. Where its frames
    do not arrive with those of the film, it has a `place`. Where its scene has more than one camera, `cameras` names
    them, the one that is meant first. `note` is for people.
    """

    name: ShotName
    first: int = Field(ge=-10_000_000, le=10_000_000)
    last: int = Field(ge=-10_000_000, le=10_000_000)
    step: int = Field(default=1, ge=1, le=1000)
    ranges: tuple[Range, ...] = Field(default=(), max_length=MOST_RANGES)
    handles: int = Field(default=0, ge=0, le=10_000)
    fps: float | None = Field(default=None, gt=0, le=1000)
    width: int | None = Field(default=None, ge=1, le=65536)
    height: int | None = Field(default=None, ge=1, le=65536)
    asked: ShotSettings
    plan: ShotSettings | None = None
    moves: tuple[Movement, ...] = ()
    look: NameOrNone = ""
    ceiling: float | None = Field(default=None, gt=0, le=255)
    weight: float = Field(default=1.0, gt=0, le=1000)
    pins: tuple[LeverName, ...] = ()
    allows: tuple[AllowedLever, ...] = ()
    marks: tuple[SettingsMark, ...] = Field(default=(), max_length=200)
    part_of: ShotNameOrNone = ""
    still: bool = False
    due: datetime | None = None
    priority: int = Field(default=0, ge=-100, le=100)
    after: tuple[NameOrNone, ...] = Field(default=(), max_length=100)
    only_on: tuple[NameOrNone, ...] = Field(default=(), max_length=100)
    place: PathText = ""
    cameras: tuple[NameOrNone, ...] = Field(default=(), max_length=100)
    approval: Literal["waiting", "approved"] = "waiting"
    note: str = Field(default="", max_length=MOST_NOTE)
    extra_columns: tuple[tuple[str, str], ...] = ()

    @model_validator(mode="after")
    def _forwards(self) -> Self:
        if self.last < self.first:
            raise ValueError(f"the last frame ({self.last}) is before the first ({self.first})")
        if self.last - self.first >= MOST_FRAMES:
            raise ValueError("a shot has a million frames at most")
        if self.ranges:
            _check_ranges(self.ranges, self.first, self.last)
        if self.still and self.moves:
            raise ValueError(f"it is still, and yet these move: {', '.join(self.moves)}; one of the two is wrong")
        if (self.width is None) != (self.height is None):
            raise ValueError("give both width and height, or neither")
        return self

    @field_validator("due")
    @classmethod
    def _with_zone(cls, moment: datetime | None) -> datetime | None:
        return None if moment is None else checked_moment(moment)

    @field_validator("pins", mode="before")
    @classmethod
    def _in_order(cls, value: object) -> object:
        """Take each lever once, in the order of the levers."""
        if not isinstance(value, list | tuple):
            return value
        return tuple(name for name in LEVERS if name in value) + tuple(name for name in value if name not in LEVERS)

    @field_validator("allows", mode="before")
    @classmethod
    def _each_once(cls, value: object) -> object:
        """Take each lever once, in the order of the levers."""
        if not isinstance(value, list | tuple):
            return value
        others = tuple(name for name in value if name not in ALLOWABLE)
        return tuple(name for name in ALLOWABLE if name in value) + others

    @property
    def settings(self) -> ShotSettings:
        """The settings that the forecast is for: the plan's, and as asked until there is one."""
        return self.plan or self.asked

    @property
    def film_name(self) -> str:
        """The shot of the film that this is, or is a layer of."""
        return self.part_of or self.name

    def goes_by(self, name: str) -> bool:
        """Whether a name means this shot: its own, that of the shot it is a layer of, or its look."""
        return name in (self.name, self.film_name) or (bool(self.look) and name == self.look)

    @property
    def parts(self) -> tuple[Range, ...]:
        """First and last frame of each of its ranges, one if it has no gaps."""
        return self.ranges or ((self.first, self.last),)

    @property
    def frames(self) -> Sequence[int]:
        """Frames of the shot in the film, before any is left out, rising."""
        return _stepped(self.parts, self.step)

    @property
    def frame_count(self) -> int:
        """How many frames of the shot are in the film, before any is left out."""
        return sum((last - first) // self.step + 1 for first, last in self.parts)

    @property
    def span_count(self) -> int:
        """How many frames there would be from the first to the last, if it had no gaps."""
        return (self.last - self.first) // self.step + 1

    @property
    def middle(self) -> int:
        """A frame in the middle of the shot."""
        frame = (self.first + self.last) // 2
        return frame if not self.ranges else min(self.frames, key=lambda one: abs(one - frame))

    @property
    def whole_range(self) -> tuple[int, int]:
        """First and last frame that there may be of the shot: with its handles, which one that stands still has not."""
        handles = 0 if self.still else self.handles
        return self.first - handles, self.last + handles

    def range_to_render(self, settings: ShotSettings) -> tuple[int, int]:
        """First and last frame to render with these settings, handles counted; the one frame where nothing moves."""
        parts = self.parts_to_render(settings)
        return parts[0][0], parts[-1][1]

    def parts_to_render(self, settings: ShotSettings) -> tuple[Range, ...]:
        """First and last frame of each range to render with these settings, handles counted, those that meet as one.

        Where not every frame is planned, the first is as far before as the steps need it, so that those of the film
        are met.
        """
        if self.still:
            return ((self.first, self.first),)
        step = self.step * settings.frame_step
        before = -(-self.handles // step) * step
        ranges: list[Range] = []
        for first, last in self.parts:
            low, high = first - before, last + self.handles
            if self.handles and ranges and low <= ranges[-1][1] + 1 and (low - ranges[-1][0]) % step == 0:
                ranges[-1] = ranges[-1][0], high
            else:
                ranges.append((low, high))
        return tuple(ranges)

    def rendered_count(self, settings: ShotSettings) -> int:
        """Frames that are rendered with these settings, handles counted; one where nothing moves."""
        parts, step = self.parts_to_render(settings), self.step * settings.frame_step
        if self.handles and len(parts) > 1:  # handles of one range may be frames of the next
            return len(_stepped(parts, step))
        return sum((last - first) // step + 1 for first, last in parts)

    def rendered_frames(self, settings: ShotSettings) -> Sequence[int]:
        """The frames that are rendered with these settings, handles among them, rising."""
        return _stepped(self.parts_to_render(settings), self.step * settings.frame_step)


def _check_ranges(ranges: tuple[Range, ...], first: int, last: int) -> None:
    before = None
    for low, high in ranges:
        if high < low:
            raise ValueError(f"the range {low}-{high} runs backwards")
        if before is not None and low <= before:
            raise ValueError(f"its ranges overlap or do not rise at frame {low}")
        before = high
    if (ranges[0][0], ranges[-1][1]) != (first, last):
        raise ValueError(f"its ranges are from {ranges[0][0]} to {ranges[-1][1]}, its frames from {first} to {last}")


def _stepped(parts: tuple[Range, ...], step: int) -> Sequence[int]:
    if len(parts) == 1:
        return range(parts[0][0], parts[0][1] + 1, step)
    return tuple(sorted({frame for first, last in parts for frame in range(first, last + 1, step)}))
