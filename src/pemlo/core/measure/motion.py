"""What changes from frame to frame: noise where nothing moves, and what leaving frames out costs. Pure."""

from dataclasses import dataclass

import numpy as np

from pemlo.core.arrays import Floats
from pemlo.core.measure.tiles import tile_side, tile_sums
from pemlo.core.pixels.display import F32, Display
from pemlo.core.pixels.source import Source, at_size, read_whole

# A tile is still if its mean moves by less than so many of its own standard errors.
_STILL = 3.0


@dataclass(frozen=True)
class StillNoise:
    """How much still pixels of two neighbouring frames differ, levels; and which share of the frame is still.

    `value` is the standard deviation of one frame; None if nothing is still.
    """

    value: float | None
    still_share: float


def still_noise(frame: F32, following: F32) -> StillNoise:
    """Return the noise of the pixels that are still between two frames.

    Parameters
    ----------
    frame, following : (H, W, 3) float32
        Display codes. Parts where the mean of a tile has moved do not count.
    """
    step = (following - frame).astype(np.float64)
    side = tile_side(step.shape[1])
    ones = np.ones(step.shape[:2])
    count = tile_sums(ones, side)
    means = np.stack([tile_sums(step[..., c], side) for c in range(3)], axis=-1) / count[..., None]
    squares = tile_sums((step**2).mean(axis=-1), side) / count
    spread = np.maximum(squares - (means**2).mean(axis=-1), 0.0)
    # The spread of a tile that moves is large because it moves: their median says what is usual for still ones.
    error = np.sqrt(np.minimum(spread, max(4 * float(np.median(spread)), 1e-6)) / count)
    still = np.abs(means).max(axis=-1) <= _STILL * error + 0.05
    still &= spread <= max(9 * float(np.median(spread[still])) if still.any() else 0.0, 1e-6)
    share = float((count * still).sum() / count.sum())
    if not still.any():
        return StillNoise(None, 0.0)
    return StillNoise(float(np.sqrt((squares * count)[still].sum() / count[still].sum() / 2)), share)


def stepping(frames: list[Source], step: int, display: Display, *, blend: bool, noise: float = 0.0) -> float:
    """Return the error of rendering every `step`-th frame, display codes: root mean square over all frames.

    Parameters
    ----------
    frames : list of Source
        Consecutive frames; at least `step` + 1 of them.
    step : int
        Frames from one that is rendered to the next; 2 or more.
    blend : bool
        Whether frames between are mixed from their neighbours, or the one before is held.
    noise : float
        What a frame varies by itself, codes: taken out.
    """
    size = frames[0].size
    shown = [display.codes(read_whole(at_size(frame, size)).colour).astype(np.float64) for frame in frames]
    usable = (len(shown) - 1) // step * step
    squares = []
    for number in range(usable):
        before, way = number // step * step, number % step / step
        after = min(before + step, len(shown) - 1)
        if number == before:
            squares.append(0.0)
            continue
        # The noise of what stands in, and of what should have been there, is in the difference.
        mixed, own = (
            ((1 - way) * shown[before] + way * shown[after], (1 - way) ** 2 + way**2) if blend else (shown[before], 1.0)
        )
        squares.append(max(_mean_square(mixed - shown[number]) - (1 + own) * noise**2, 0.0))
    return float(np.sqrt(np.mean(squares))) if squares else 0.0


def _mean_square(values: Floats) -> float:
    return float((values**2).mean())
