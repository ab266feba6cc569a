"""How noise falls with samples: from the noise that trials left to what other samples would leave. Pure NumPy.

In scene-linear light the standard error of a mean falls as one over the root of the samples, whatever is rendered.
After the display's curve it does not, so nothing here is in display codes.
"""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from pemlo.core.arrays import Floats
from pemlo.core.cost.curves import Curve
from pemlo.core.interval import NINETY
from pemlo.core.project.trials import Trial

# Frames of a shot differ in noise by about a tenth (common practice, no source); learned where trials tell more.
FRAMES_DIFFER = 0.1
WORTH = 3.0  # the belief above counts as much as so many trials


@dataclass(frozen=True)
class NoiseLevel:
    """Noise of one sample a pixel over a frame, relative to its mean brightness: log mean, and what frames differ by.

    `count` trials measured it.
    """

    log_mean: float
    log_sd: float
    count: int

    def curve(self, samples: Floats) -> Curve:
        """Return the noise that samples leave, with the 90 % band for a frame of the shot."""
        middle = np.exp(self.log_mean) / np.sqrt(samples)
        spread = np.exp(NINETY * self.log_sd * np.sqrt(1 + 1 / self.count))
        return Curve(samples, middle / spread, middle, middle * spread)


def noise_level(trials: Sequence[Trial]) -> NoiseLevel | None:
    """Return the noise level of a shot from its trials with fixed samples; None if none tells its noise.

    Adaptive trials share samples out by need, so that the same mean leaves less: they tell nothing of the level.

    References
    ----------
    .. [1] M. Pharr, W. Jakob, G. Humphreys, "Physically Based Rendering", 3rd ed., Morgan Kaufmann 2016, ch. 13
       (the error of a Monte Carlo estimate; from memory).
    """
    logs = np.array([np.log(t.noise) + 0.5 * np.log(t.samples) for t in trials if t.noise and not t.adaptive])
    if not len(logs):
        return None
    squares = ((logs - logs.mean()) ** 2).sum()
    sd = np.sqrt((squares + WORTH * FRAMES_DIFFER**2) / (WORTH + max(len(logs) - 1, 0)))
    return NoiseLevel(float(logs.mean()), float(sd), len(logs))
