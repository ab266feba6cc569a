"""How a frame is rendered: what the levers stand at. Imports the record only."""

from typing import Literal, Self

from pydantic import Field, field_validator, model_validator

from pemlo.core.plan.record import Record

NO_DENOISE = "none"
MOST_SAMPLES = 1_000_000
KEEPABLE = ("prepare", "light")
# What trades time for picture, in the order in which it is told.
LeverName = Literal["samples", "noise_threshold", "denoise", "resolution_percent", "frame_step", "keep"]
LEVERS: tuple[LeverName, ...] = ("samples", "noise_threshold", "denoise", "resolution_percent", "frame_step", "keep")


class FrameSettings(Record):
    """Settings of one rendered frame.

    Without a noise threshold every pixel takes `samples`; with one, sampling is adaptive and each pixel takes
    between `min_samples` and `samples`, as the renderer's own threshold scale decides. Stages in `keep` are not worked
    out: their data are read back from an earlier frame.
    """

    samples: int = Field(ge=1, le=MOST_SAMPLES)
    min_samples: int | None = Field(default=None, ge=1, le=MOST_SAMPLES)
    noise_threshold: float | None = Field(default=None, gt=0, le=1e6)
    denoise: str = Field(default=NO_DENOISE, min_length=1, max_length=60)
    resolution_percent: float = Field(default=100.0, ge=1, le=400)
    keep: tuple[Literal["prepare", "light"], ...] = ()

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
            raise ValueError(f"the least samples ({self.min_samples}) are more than the most ({self.samples})")
        return self

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


class ShotSettings(FrameSettings):
    """Settings of a whole shot: those of a frame, which frames are left out, and what is shown in their place."""

    frame_step: int = Field(default=1, ge=1, le=1000)
    between: Literal["hold", "blend"] = "hold"
