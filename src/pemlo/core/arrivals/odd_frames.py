"""Frames that look odd beside their neighbours: no errors, but worth a look. NumPy."""

import itertools
from collections.abc import Sequence

import numpy as np

from pemlo.core.arrays import Floats
from pemlo.core.arrivals.row_medians import row_medians
from pemlo.core.arrivals.states import ShotStates
from pemlo.core.arrivals.store_rows import FrameRow
from pemlo.core.project.shots import Shot

AROUND = 4  # neighbours on either side
FEWEST = 4
WIDTHS = 8.0  # of what neighbours differ by: hundreds of frames are compared
LEAST_BRIGHTER, LEAST_NOISIER = 0.2, 0.5  # log; less is not worth a look


def odd_frames(shot: Shot, states: ShotStates) -> dict[int, str]:
    """Return frames of a shot that look odd, and why, in a few words.

    Brightness and noise are held against the middles of the neighbours before and after it: a frame is odd if it is
    outside of both, so that a cut in the light is no jump of one frame. Pictures that are the same as their neighbour's
    to the last bit are odd where something moves.
    """
    rows = [row for row in states.rows_in if row.brightness > 0]
    found: dict[int, str] = {}
    if len(rows) > FEWEST:
        brightness = _off(np.log([row.brightness for row in rows]), LEAST_BRIGHTER)
        noise = _off(np.log([max(row.noise, 1e-9) for row in rows]), LEAST_NOISIER)
        for row, bright, noisy in zip(rows, brightness, noise, strict=True):
            if bright:
                found[row.frame] = (
                    f"is {'brighter' if bright > 0 else 'darker'} than its neighbours by {_times(bright)}"
                )
            elif noisy:
                found[row.frame] = (
                    f"has {'more' if noisy > 0 else 'less'} noise than its neighbours, by {_times(noisy)}"
                )
    if shot.moves:
        found |= _same(rows)
    return found


def _off(values: Floats, least: float) -> Floats:
    """Return by how much each value is off its neighbours' middle, 0 where that is within what they differ by."""
    padded = np.concatenate([np.full(AROUND, np.nan), values, np.full(AROUND, np.nan)])
    windows = np.lib.stride_tricks.sliding_window_view(padded, 2 * AROUND + 1)
    left, right = (row_medians(side) for side in (windows[:, :AROUND], windows[:, AROUND + 1 :]))
    left, right = np.where(np.isnan(left), right, left), np.where(np.isnan(right), left, right)
    low, high = np.minimum(left, right), np.maximum(left, right)
    # Outside of what lies on both sides: a step in the light has one side on its own level.
    off = np.where(values > high, values - high, np.where(values < low, values - low, 0.0))
    usual = float(np.nanmedian(np.abs(np.diff(values)))) / 0.6745 if len(values) > 1 else 0.0
    return np.asarray(np.where(np.abs(off) > max(WIDTHS * usual, least), off, 0.0))


def _times(off: float) -> str:
    return f"{100 * (np.exp(abs(off)) - 1):.0f} %"


def _same(rows: Sequence[FrameRow]) -> dict[int, str]:
    """Return frames whose pictures are the same as that of the frame before, to the last bit."""
    return {
        row.frame: f"is the same picture as frame {before.frame}"
        for before, row in itertools.pairwise(rows)
        if row.digest and row.digest == before.digest
    }
