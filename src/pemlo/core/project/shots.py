"""A shot: its frames, how they were asked for and are planned, and what moves in it. Imports its neighbours only."""

from datetime import datetime
from typing import Literal, Self

from pydantic import Field, field_validator, model_validator

from pemlo.core.project.delivery import checked_moment
from pemlo.core.project.names import NameOrNone, PathText, ShotName, ShotNameOrNone
from pemlo.core.project.record import Record
from pemlo.core.project.settings import LEVERS, LeverName, ShotSettings

Movement = Literal["camera", "lights", "objects", "materials", "simulation"]
MOVEMENTS: tuple[Movement, ...] = ("camera", "lights", "objects", "materials", "simulation")
MOST_FRAMES = 1_000_000


class SettingsMark(Record):
    """What somebody said of a shot with settings, by eye: also what no single frame can show, such as a frame step."""

    settings: ShotSettings
    mark: Literal["good enough", "not good enough"]
    note: str = Field(default="", max_length=10_000)


class Shot(Record):
    """One shot of the film, or one layer of it.

    `step` is part of what the shot is (every frame, or every second one of an animation on twos); the settings'
    `frame_step` is a lever that leaves frames out on top of it. `handles` are frames more at either end, which are
    rendered and are not in the film. Size and rate are the delivery's unless given. Shots
    of the same `look` may share what passes. `ceiling` is the largest error that passes, where it is set by hand, in
    display codes; `weight` says how much the shot's error counts, and `pins` name the levers that a plan leaves alone.
    `marks` say what passed by eye as a whole.

    A layer says in `part_of` which shot it is combined into: layers of one shot share its time on screen. Where a layer
    is `still`, nothing in it moves and the camera stands: one frame serves for all.

    A shot may be `due` before the film is. Of shots with a higher `priority` frames are handed out first; those of a
    shot that comes `after` others, by their names or their look, only when all of these are done. Once its first pass
    is `approved`, only the final one is left. Where its frames do not arrive with those of the film, it has a `place`.
    Where its scene has more than one camera, `cameras` names them, the one that is meant first.
    """

    name: ShotName
    first: int = Field(ge=-10_000_000, le=10_000_000)
    last: int = Field(ge=-10_000_000, le=10_000_000)
    step: int = Field(default=1, ge=1, le=1000)
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
    marks: tuple[SettingsMark, ...] = Field(default=(), max_length=200)
    part_of: ShotNameOrNone = ""
    still: bool = False
    due: datetime | None = None
    priority: int = Field(default=0, ge=-100, le=100)
    after: tuple[NameOrNone, ...] = Field(default=(), max_length=100)
    place: PathText = ""
    cameras: tuple[NameOrNone, ...] = Field(default=(), max_length=100)
    approval: Literal["waiting", "approved"] = "waiting"
    extra_columns: tuple[tuple[str, str], ...] = ()

    @model_validator(mode="after")
    def _forwards(self) -> Self:
        if self.last < self.first:
            raise ValueError(f"the last frame ({self.last}) is before the first ({self.first})")
        if self.last - self.first >= MOST_FRAMES:
            raise ValueError("a shot has a million frames at most")
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
    def frame_count(self) -> int:
        """Frames of the shot in the film, before any is left out."""
        return (self.last - self.first) // self.step + 1

    @property
    def whole_range(self) -> tuple[int, int]:
        """First and last frame that there may be of the shot: with its handles, which one that stands still has not."""
        handles = 0 if self.still else self.handles
        return self.first - handles, self.last + handles

    def range_to_render(self, settings: ShotSettings) -> tuple[int, int]:
        """First and last frame to render with these settings, handles counted; the one frame where nothing moves.

        Where not every frame is planned, the first is as far before as the steps need it, so that those of the film
        are met.
        """
        if self.still:
            return self.first, self.first
        step = self.step * settings.frame_step
        return self.first - -(-self.handles // step) * step, self.last + self.handles

    def rendered_count(self, settings: ShotSettings) -> int:
        """Frames that are rendered with these settings, handles counted; one where nothing moves."""
        first, last = self.range_to_render(settings)
        return (last - first) // (self.step * settings.frame_step) + 1

    def rendered_frames(self, settings: ShotSettings) -> range:
        """The frames that are rendered with these settings, handles among them."""
        first, last = self.range_to_render(settings)
        return range(first, last + 1, self.step * settings.frame_step)
