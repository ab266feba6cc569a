"""What the renderer is really set to, shot by shot: typed, or from a table. Imports its neighbours only."""

from typing import Literal, Self

from pydantic import Field, field_validator, model_validator

from pemlo.core.project.names import NameOrNone, PathText, ShotName
from pemlo.core.project.record import Record
from pemlo.core.project.settings import KEEPABLE, MOST_SAMPLES, MOST_SWITCHES, MOST_THRESHOLD, Rays, Switch
from pemlo.core.project.shots import MOST_FRAMES
from pemlo.core.units import LONGEST_S

Colour = Literal["", "scene-linear", "display"]
Bits = Literal[0, 8, 16, 32]


class LaunchRow(Record):
    """How frames of a shot are really rendered, or a piece of its range. What is None or empty is not known.

    `colour` is what files hold, `resume` whether an unfinished frame is gone on with, `region` a part of the picture
    that alone is rendered, `bounces` how often light bounces at most. `most_seconds` is 0 where there is no limit.
    `skips` says that frames which are there are left as they are.
    """

    shot: ShotName
    first: int | None = Field(default=None, ge=-10_000_000, le=10_000_000)
    last: int | None = Field(default=None, ge=-10_000_000, le=10_000_000)
    step: int | None = Field(default=None, ge=1, le=1000)
    camera: str = Field(default="", max_length=200)
    width: int | None = Field(default=None, ge=1, le=65_536)
    height: int | None = Field(default=None, ge=1, le=65_536)
    percent: float | None = Field(default=None, gt=0, le=400)
    samples: int | None = Field(default=None, ge=1, le=MOST_SAMPLES)
    threshold: float | None = Field(default=None, ge=0, le=MOST_THRESHOLD)
    denoise: NameOrNone = ""
    layers: tuple[str, ...] | None = Field(default=None, max_length=200)
    pattern: PathText = ""
    folder: PathText = ""
    pixel_aspect: float | None = Field(default=None, gt=0, le=100)
    colour: Colour = ""
    resume: bool | None = None
    region: str = Field(default="", max_length=200)
    bounces: int | None = Field(default=None, ge=0, le=100_000)
    min_samples: int | None = Field(default=None, ge=1, le=MOST_SAMPLES)
    most_seconds: float | None = Field(default=None, ge=0, le=LONGEST_S)
    split: tuple[Rays, Rays, Rays] | None = None
    switches: tuple[Switch, ...] | None = Field(default=None, max_length=MOST_SWITCHES)
    keep: tuple[Literal["prepare", "light"], ...] | None = None
    way: str | None = Field(default=None, max_length=60)
    skips: bool | None = None
    note: str = Field(default="", max_length=10_000)
    extra_columns: tuple[tuple[str, str], ...] = ()

    @field_validator("switches", mode="after")
    @classmethod
    def _each_once(cls, value: tuple[str, ...] | None) -> tuple[str, ...] | None:
        """Take each switch once, in the order that the plan has them."""
        return None if value is None else tuple(sorted(set(value)))

    @field_validator("keep", mode="after")
    @classmethod
    def _in_order(cls, value: tuple[str, ...] | None) -> tuple[str, ...] | None:
        """Take each stage once, in the order of the stages."""
        return None if value is None else tuple(stage for stage in KEEPABLE if stage in value)

    @model_validator(mode="after")
    def _countable(self) -> Self:
        if self.first is not None and self.last is not None and self.last - self.first >= MOST_FRAMES:
            raise ValueError(f"frames {self.first} to {self.last} are more than a million")
        return self


class PictureNeeds(Record):
    """What files of frames must hold for those who work on with them.

    `bits` a value, 0 where that is not said; `movie` whether a movie is made of them, whose codec wants even sides.
    """

    bits: Bits = 0
    alpha: bool = False
    layers: tuple[str, ...] = Field(default=(), max_length=100)
    colour: Colour = ""
    movie: bool = True


class OwnCheck(Record):
    """A line of somebody's own to tick off."""

    words: str = Field(min_length=1, max_length=400)
    done: bool = False
