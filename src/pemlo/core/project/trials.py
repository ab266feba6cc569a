"""A trial: one timed test frame. Imports its neighbours only."""

from typing import Literal

from pydantic import Field

from pemlo.core.project.settings import MOST_SAMPLES, FrameSettings
from pemlo.core.units import LONGEST_S

Mark = Literal["", "good enough", "not good enough"]
GOOD: Mark = "good enough"
BAD: Mark = "not good enough"
STAGES = ("prepare", "light", "trace", "denoise", "write")
FIRST_RUN = "first run after start"  # why a trial may be left out of the fit: it also loads and compiles

MOST_SIDE = 1_000_000  # px
MOST_PERCENT = 1e6  # of a shot's size, which may be far smaller than what was timed
_NEAR_CAP = 0.7  # of the seconds that are allowed: renderers stop between two passes


def why_left_out(*, first_run: bool) -> str:
    """Return why a rendered trial is left out of the fit by rule; empty if it is not."""
    return FIRST_RUN if first_run else ""


def region_share(region: str, width: float, height: float) -> float | None:
    """Return the percentage of a frame's pixels in a region, None if it is the whole frame.

    Parameters
    ----------
    region : str
        Left, top, right and bottom in px of the whole frame, with commas between; or ``whole``.
    width, height : float
        Of the whole frame, px.

    Examples
    --------
    >>> region_share("0,0,960,540", 1920, 1080), region_share("whole", 1920, 1080)
    (25.0, None)
    """
    if region == "whole":
        return None
    left, top, right, bottom = (float(edge) for edge in region.split(","))
    return float(f"{100 * (right - left) * (bottom - top) / (width * height):.4g}")


class TimedFrame(FrameSettings):
    """What was timed and measured of one frame, as far as it says what frames cost.

    `width` and `height` are the pixels of the whole frame that it was timed at, px; they stay when the film gets
    another size, and `resolution_percent` follows from them (`timed_sizes.py`). `seconds` is what the frame took on
    `machine`, rendered alone or as one of several `frames_at_once`: the whole of it, or only a region that holds
    `region_percent` of its pixels. Stage times are parts of it; those that were not taken are None. `mean_samples` were
    spent on each pixel. `noise_shape` says how noise is spread over the picture, see `pemlo.core.cost.noise_shape`;
    empty if no picture was measured. What says why it is `left_out` counts for nothing. Of trials that are the same in
    all figures one counts, unless they are another `repeat`. Where `assumed`, nobody timed it: the seconds are a guess,
    made to see what a way would be worth. `other_load` is the share of its machine's processors that other programs
    took meanwhile: such a time says less.
    """

    shot: str = Field(min_length=1, max_length=60)
    frame: int = Field(ge=-10_000_000, le=10_000_000)
    width: int | None = Field(default=None, ge=1, le=MOST_SIDE)
    height: int | None = Field(default=None, ge=1, le=MOST_SIDE)
    resolution_percent: float = Field(default=100.0, gt=0, le=MOST_PERCENT)
    seconds: float = Field(gt=0, le=LONGEST_S)
    region_percent: float | None = Field(default=None, gt=0, le=100)
    machine: str = Field(default="", max_length=60)
    frames_at_once: int = Field(default=1, ge=1, le=1024)
    prepare_seconds: float | None = Field(default=None, ge=0, le=LONGEST_S)
    light_seconds: float | None = Field(default=None, ge=0, le=LONGEST_S)
    trace_seconds: float | None = Field(default=None, ge=0, le=LONGEST_S)
    denoise_seconds: float | None = Field(default=None, ge=0, le=LONGEST_S)
    write_seconds: float | None = Field(default=None, ge=0, le=LONGEST_S)
    mean_samples: float | None = Field(default=None, gt=0, le=MOST_SAMPLES)
    noise_shape: tuple[float, ...] = Field(default=(), max_length=256)
    assumed: bool = False
    left_out: str = Field(default="", max_length=200)
    repeat: int = Field(default=0, ge=0, le=100_000)
    other_load: float | None = Field(default=None, ge=0, le=1)

    @property
    def stopped_by_cap(self) -> bool:
        """Whether tracing ended because its seconds were over: such a time says little of how many samples it took."""
        if self.most_seconds is None:
            return False
        traced = self.seconds if self.trace_seconds is None else self.trace_seconds
        return traced >= _NEAR_CAP * self.most_seconds

    @property
    def only_says_longer(self) -> bool:
        """Whether it says no more of a frame without the limit than that it takes longer."""
        return self.stopped_by_cap and not self.mean_samples and not self.assumed

    def stage_seconds(self) -> dict[str, float]:
        """Return the stage times that were taken, by stage."""
        taken = {stage: getattr(self, f"{stage}_seconds") for stage in STAGES}
        return {stage: seconds for stage, seconds in taken.items() if seconds is not None}


class Trial(TimedFrame):
    """One timed test frame, with or without its picture, and what people said of it.

    `noise` is what the samples left: the standard error of the pixels over the frame's mean brightness, both
    scene-linear and before denoising. `memory_gib` is the most that the renderer held, `processor_seconds` what all its
    threads took, `disk_mib` what the written frame takes. A trial that is left out is kept and shown.

    A `mark` says what somebody saw; it holds for the shot, or for all shots of the same look. It is about noise and
    denoising at the size that is delivered, unless `mark_size` says that the trial's own size passes, too. With it
    stands the `error` that was measured then, in codes of an 8-bit display, and against which picture.
    """

    seed: int | None = Field(default=None, ge=-(2**63), lt=2**63)
    processor_seconds: float | None = Field(default=None, ge=0, le=1e12)
    noise: float | None = Field(default=None, ge=0, le=1e6)
    picture: str = Field(default="", max_length=4096)
    memory_gib: float | None = Field(default=None, gt=0, le=1e6)
    disk_mib: float | None = Field(default=None, gt=0, le=1e9)
    mark: Mark = ""
    mark_for: Literal["shot", "look"] = "shot"
    mark_size: bool = False
    error: float | None = Field(default=None, ge=0, le=255)
    error_against: str = Field(default="", max_length=4096)
    note: str = Field(default="", max_length=10_000)
    extra_columns: tuple[tuple[str, str], ...] = ()
