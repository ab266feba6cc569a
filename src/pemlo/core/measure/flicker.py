"""Measures flicker: what changes between neighbouring frames that should not. Pure.

Grain of single pixels is hardly seen in motion; what denoising leaves is coarse, and boils. So flicker is the standard
deviation over time of the means of blocks of 8 × 8 px: about a seventh of a degree at a desk, near the stripes that the
eye sees best.
"""

from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

from pemlo.core.arrays import Floats

BLOCK = 8  # px
_OUTLYING = 4.0  # standard deviations: a block that changes more shows movement, not flicker
_QUIETEST, _QUIETEST_DEVIATION = 0.25, 0.3186  # a quarter of |x| is below so much of the deviation, if x is normal


@dataclass(frozen=True)
class Flicker:
    """Flicker of one frame beside its neighbours, 8-bit levels, and which share of the frame is still.

    `value` is None if more than half of the frame moves: movement then looks like flicker.
    """

    value: float | None
    still_share: float


def block_means(codes: npt.NDArray[np.floating]) -> Floats:
    """Return the means of the whole blocks of (H, W, 3) levels, (H // 8, W // 8, 3); one of a smaller picture."""
    height, width = (max(length // BLOCK, 1) for length in codes.shape[:2])
    tall, wide = min(BLOCK, codes.shape[0]), min(BLOCK, codes.shape[1])
    cut = np.asarray(codes[: height * tall, : width * wide], np.float64)
    return np.asarray(cut.reshape(height, tall, width, wide, 3).mean(axis=(1, 3)))


def between_seeds(one: npt.NDArray[np.floating], twin: npt.NDArray[np.floating]) -> float:
    """Return the flicker of a frame that was rendered twice with other seeds, levels.

    Nothing moves between the two, so that all of their difference is flicker.

    Parameters
    ----------
    one, twin : (H, W, 3) ndarray
        Levels.
    """
    step = block_means(one) - block_means(twin)
    return float(np.sqrt((step**2).mean() / 2))


def of_three(
    before: npt.NDArray[np.floating], frame: npt.NDArray[np.floating], after: npt.NDArray[np.floating]
) -> Flicker:
    """Return the flicker of a frame between its neighbours.

    What changes evenly over the three frames is no flicker: the second difference leaves it out. Blocks that change
    far more than the quietest show something that moves, and do not count.

    Parameters
    ----------
    before, frame, after : (H, W, 3) ndarray
        Levels.

    References
    ----------
    .. [1] T. Gasser, L. Sroka, C. Jennen-Steinmetz, "Residual variance and residual pattern in nonlinear regression",
       Biometrika 73, 1986: the variance of noise from three neighbours, here half of d² / 3.
    """
    second = block_means(before) - 2 * block_means(frame) + block_means(after)
    usual = float(np.quantile(np.abs(second), _QUIETEST)) / _QUIETEST_DEVIATION
    still = (np.abs(second) <= _OUTLYING * usual + 1e-9).all(axis=-1)
    share = float(still.mean())
    if share <= 1 / 2:
        return Flicker(None, share)
    return Flicker(float(np.sqrt((second[still] ** 2).mean() / 6)), share)
