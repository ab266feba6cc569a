"""Whether a denoiser is worth it: which samples alone would leave the same error, and what each takes. Pure."""

from dataclasses import dataclass


@dataclass(frozen=True)
class DenoiseWorth:
    """A denoised picture beside the samples that leave the same error without denoising.

    Attributes
    ----------
    samples : float
        Of the denoised picture, samples a pixel.
    equal_samples : float
        That leave the same error without it.
    seconds, equal_seconds : float
        Of one frame each.
    softening : float, optional
        Display codes; None if it is not known.
    """

    samples: float
    equal_samples: float
    seconds: float
    equal_seconds: float
    softening: float | None

    @property
    def saves(self) -> float:
        """Return which share of the frame's time denoising saves; below 0 where it costs."""
        return 1 - self.seconds / self.equal_seconds
