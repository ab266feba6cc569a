"""How a frame is rendered: what the levers stand at. Imports the record only."""

from dataclasses import dataclass
from typing import Annotated, Literal, Self, get_args

from pydantic import AfterValidator, Field, StringConstraints, field_validator, model_validator

from pemlo.core.project.names import Name, one_line
from pemlo.core.project.record import Record
from pemlo.core.units import LONGEST_S

NO_DENOISE = "none"
MOST_SAMPLES = 1_000_000
MOST_THRESHOLD = 1e6
KEEPABLE: tuple[Literal["prepare", "light"], ...] = ("prepare", "light")
# What trades time for picture, in the order in which it is listed.
LeverName = Literal[
    "samples", "noise_threshold", "min_samples", "most_seconds", "split", "denoise", "resolution_percent", "frame_step",
    "keep", "switches", "saves",
]  # fmt: skip
LEVERS: tuple[LeverName, ...] = get_args(LeverName)
# Those that change what a picture is, and not how noisy: a plan leaves them alone until somebody allows them.
CharacterLever = Literal["resolution_percent", "frame_step", "switches"]
CHARACTER: tuple[CharacterLever, ...] = get_args(CharacterLever)
# And where something moves, a denoiser that looks at each frame alone: what it leaves differs from frame to frame.
AllowedLever = Literal["resolution_percent", "frame_step", "switches", "denoise"]
ALLOWABLE: tuple[AllowedLever, ...] = get_args(AllowedLever)
MOST_SWITCHES = 8
USUAL_SAMPLES = 128  # where nobody said with how many
MOST_WITH_THRESHOLD = 10_000  # and with a noise threshold: so many that the threshold ends them
ONE_RAY_EACH = (1, 1, 1)
SPLIT, WAY = "split ", "way "  # how names of what costs a factor of its own begin, where they are not a switch's
MOTION_BLUR = "motion blur"  # the switch that denoisers which look at other frames cannot be had with
LOOKS_AROUND = "neighbours"  # names of denoisers that look at other frames begin so

Switch = Annotated[
    str,
    StringConstraints(strip_whitespace=True, min_length=1, max_length=40, pattern=r"^[^,;+]*$"),
    AfterValidator(one_line),
]
WayName = Annotated[
    str,
    StringConstraints(strip_whitespace=True, max_length=40, pattern=r"^[^,;+]*$"),
    AfterValidator(one_line),
]
Rays = Annotated[int, Field(ge=1, le=64)]


@dataclass(frozen=True)
class WayCost:
    """A way of rendering, and between which others of its name it lies: their names, with their weights.

    Of a way that was timed, or has no timed neighbour, `between` is empty: its factor is its own.
    """

    name: str
    between: tuple[tuple[str, float], ...] = ()


@dataclass(frozen=True)
class CostFactors:
    """What costs a time of its own: denoisers, switches with splits, and ways of rendering; each by its name."""

    denoisers: tuple[str, ...] = ()
    switches: tuple[str, ...] = ()
    ways: tuple[WayCost, ...] = ()


class FrameSettings(Record):
    """Settings of one rendered frame.

    Without a noise threshold every pixel takes `samples`; with one, sampling is adaptive and each pixel takes
    between `min_samples` and `samples`, as the renderer's own threshold scale decides. Tracing ends after
    `most_seconds` of the reference machine, whatever else was asked: then samples differ from frame to frame. `split`
    is how many rays a sample sends at the first surface: to lights, off a gloss, through glass. Stages in `keep` are
    not worked out: their data are read back from an earlier frame. `switches` are choices of yes or no that are on, by
    the user's own names; `saves` says how often an unfinished frame is written, so that a broken one
    goes on from there. `way` is another engine, method or quality, by a name of the user's own, and `way_value` how
    far it goes where that is a number: particles, depth, fineness. Its time may lie tens of times higher or lower.
    """

    samples: int = Field(ge=1, le=MOST_SAMPLES)
    min_samples: int | None = Field(default=None, ge=1, le=MOST_SAMPLES)
    noise_threshold: float | None = Field(default=None, gt=0, le=MOST_THRESHOLD)
    denoise: Name = NO_DENOISE
    resolution_percent: float = Field(default=100.0, ge=1, le=400)
    keep: tuple[Literal["prepare", "light"], ...] = ()
    most_seconds: float | None = Field(default=None, gt=0, le=LONGEST_S)
    split: tuple[Rays, Rays, Rays] = ONE_RAY_EACH
    switches: tuple[Switch, ...] = Field(default=(), max_length=MOST_SWITCHES)
    saves: int = Field(default=0, ge=0, le=100)
    way: WayName = ""
    way_value: float | None = Field(default=None, ge=-1e12, le=1e12)

    @field_validator("switches", mode="before")
    @classmethod
    def _each_once(cls, value: object) -> object:
        """Take each switch once, in the order of their names; names of splits are not free."""
        if not isinstance(value, list | tuple) or not all(isinstance(name, str) for name in value):
            return value
        taken = [name for name in value if name.startswith((SPLIT, WAY))]
        if taken:
            what = "a sampling split" if taken[0].startswith(SPLIT) else "a way of rendering"
            raise ValueError(f"“{taken[0]}” is the name of {what}; give the switch another")
        return tuple(sorted(set(value)))

    @field_validator("keep", mode="before")
    @classmethod
    def _in_order(cls, value: object) -> object:
        """Take each stage once, in the order of the stages."""
        if not isinstance(value, list | tuple):
            return value
        unknown = [stage for stage in value if stage not in KEEPABLE]
        return tuple(stage for stage in KEEPABLE if stage in value) + tuple(unknown)

    @model_validator(mode="after")
    def _least_is_not_most(self) -> Self:
        if self.min_samples is not None and self.min_samples > self.samples:
            raise ValueError(f"the min samples ({self.min_samples}) are more than the most ({self.samples})")
        if self.way_value is not None and not self.way:
            raise ValueError(f"the value {self.way_value:g} belongs to no way; give the way a name")
        return self

    @property
    def switched(self) -> tuple[str, ...]:
        """What multiplies the time by a factor of its own: the switches that are on, a split, and a way."""
        names = self.switches if self.split == ONE_RAY_EACH else (*self.switches, split_name(self.split))
        return (*names, way_name(self.way, self.way_value)) if self.way else names

    @property
    def looks_around(self) -> bool:
        """Whether denoising looks at other frames."""
        return self.denoise.startswith(LOOKS_AROUND)

    @property
    def adaptive(self) -> bool:
        return self.noise_threshold is not None

    @property
    def least_samples(self) -> int:
        """Least samples a pixel takes: all of them without a threshold, 1 where nothing was said."""
        return (self.min_samples or 1) if self.adaptive else self.samples

    def frame_fields(self) -> dict[str, object]:
        """Return the fields that say how one frame is rendered, without what belongs to the shot."""
        return {name: getattr(self, name) for name in FrameSettings.model_fields}


def split_name(split: tuple[int, int, int]) -> str:
    """Return what a sampling split is called.

    Examples
    --------
    >>> split_name((4, 1, 2))
    'split 4,1,2'
    """
    return f"{SPLIT}{','.join(map(str, split))}"


def way_name(way: str, value: float | None) -> str:
    """Return what a way of rendering is called among what costs a factor of its own.

    Examples
    --------
    >>> way_name("depth", 20), way_name("quick engine", None)
    ('way depth 20', 'way quick engine')
    """
    return f"{WAY}{way}" if value is None else f"{WAY}{way} {value:g}"


class ShotSettings(FrameSettings):
    """Settings of a whole shot: those of a frame, which frames are left out, and what is shown in their place."""

    frame_step: int = Field(default=1, ge=1, le=1000)
    between: Literal["hold", "blend"] = "hold"
