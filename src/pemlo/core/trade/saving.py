"""What one timed way of rendering saves against another, of a frame and of a whole shot. Pure."""

from dataclasses import dataclass

from pemlo.core.units import HOUR_S, counted, format_duration


@dataclass(frozen=True)
class Saving:
    """What is saved: share of a frame's time, below 0 where it takes more; hours over a number of frames."""

    share: float
    hours: float
    frames: int

    def __str__(self) -> str:
        word = "less" if self.share >= 0 else "more"
        took = format_duration(abs(self.hours) * HOUR_S)
        return f"{100 * abs(self.share):.0f} % {word} a frame: {took} {word} over {counted(self.frames, 'frame')}"


def saving(before_seconds: float, after_seconds: float, frames: int) -> Saving:
    """Return what is saved by rendering frames another way.

    Parameters
    ----------
    before_seconds, after_seconds : float
        Of one frame each, > 0.
    frames : int
    """
    less = before_seconds - after_seconds
    return Saving(less / before_seconds, less * frames / HOUR_S, frames)
