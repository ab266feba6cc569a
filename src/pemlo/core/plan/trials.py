"""A trial: one timed test frame. Imports its neighbours only."""

from typing import Literal

from pydantic import Field

from pemlo.core.plan.settings import FrameSettings
from pemlo.core.units import LONGEST_S

Mark = Literal["", "good enough", "not good enough"]
STAGES = ("prepare", "light", "trace", "denoise", "write")


class Trial(FrameSettings):
    """One timed test frame, with or without its stage times and its picture.

    `seconds` is what the whole frame took on `machine`, rendered alone. Stage times are parts of it; those that
    were not taken are None.
    """

    shot: str = Field(min_length=1, max_length=60)
    frame: int = Field(ge=-10_000_000, le=10_000_000)
    seconds: float = Field(gt=0, le=LONGEST_S)
    machine: str = Field(default="", max_length=60)
    seed: int | None = Field(default=None, ge=-(2**63), lt=2**63)
    prepare_seconds: float | None = Field(default=None, ge=0, le=LONGEST_S)
    light_seconds: float | None = Field(default=None, ge=0, le=LONGEST_S)
    trace_seconds: float | None = Field(default=None, ge=0, le=LONGEST_S)
    denoise_seconds: float | None = Field(default=None, ge=0, le=LONGEST_S)
    write_seconds: float | None = Field(default=None, ge=0, le=LONGEST_S)
    picture: str = Field(default="", max_length=4096)
    mark: Mark = ""
    note: str = Field(default="", max_length=10_000)
    extra_columns: tuple[tuple[str, str], ...] = ()

    def stage_seconds(self) -> dict[str, float]:
        """Return the stage times that were taken, by stage."""
        taken = {stage: getattr(self, f"{stage}_seconds") for stage in STAGES}
        return {stage: seconds for stage, seconds in taken.items() if seconds is not None}
