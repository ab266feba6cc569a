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

    def __str__(self) -> str:
        share = f"saves {self.saves:.0%} of" if self.saves >= 0.005 else f"costs {-self.saves:.0%} more than"
        words = (
            f"Denoised at {self.samples:.0f} samples equals {self.equal_samples:.0f} samples without: {share} the "
            "frame time."
        )
        if self.samples >= self.equal_samples:
            words = (
                f"Denoised at {self.samples:.0f} samples is no better than {self.equal_samples:.0f} samples without: "
                "leave it off."
            )
        if self.softening is None:
            return words + " What it softens is not known: render this frame once more with another seed."
        if self.softening <= 0.05:
            return words + " No softening is seen."
        return f"{words} It softens the picture by {self.softening:.1f} codes."
