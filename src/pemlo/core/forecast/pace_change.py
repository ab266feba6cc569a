"""Machines that became slower or faster while they rendered, from how much longer their frames took. NumPy."""

from collections.abc import Container

import numpy as np

from pemlo.core.arrays import Floats
from pemlo.core.forecast.completed_frames import CompletedFrames
from pemlo.core.project.project import Project

FEWEST = 4  # frames on either side
SURE = 8.0  # standard errors of a difference: where thousands of frames are looked at, five come by chance
LEAST = float(np.log(1.3))  # smaller changes are left to the course along the shot
WIDEST = 0.3  # residuals are cut there, log, so that one gross frame is no change


def clearest_change(
    project: Project, frames: CompletedFrames, residual: Floats, scatter: float, container: Container[int] = ()
) -> tuple[int, float] | None:
    """Return which machine changed its pace most clearly, and when, seconds since the start; None if none did.

    The moment is that which splits a machine's frames best in two. One change makes others seem to be, as frames of a
    stretch are held against each other: so only the clearest is believed, and the others are looked for again with it.

    Parameters
    ----------
    project : Project
    frames : CompletedFrames
    residual : (K,) ndarray
        By how much each frame took longer than expected, log; NaN where that is not known.
    scatter : float
        Of a frame, log.
    container : container of int
        Machines that are known to have changed.
    """
    found: tuple[int, float] | None = None
    clearest = 0.0
    for number in range(len(project.machines)):
        if number in container:
            continue
        mine = np.flatnonzero((frames.machine == number) & np.isfinite(residual))
        mine = mine[np.argsort(frames.ended[mine], kind="stable")]
        if len(mine) < 2 * FEWEST:
            continue
        at, score = _split(residual[mine], scatter)
        if score > clearest:
            clearest, found = score, (number, float(frames.ended[mine[at]] - frames.seconds[mine[at]]))
    return found


def _split(values: Floats, scatter: float) -> tuple[int, float]:
    """Return where a series becomes another, and how clearly; 0 if it does not."""
    middle = float(np.median(values))
    cut = np.clip(values - middle, -4 * WIDEST, 4 * WIDEST)
    count = len(cut)
    before = np.cumsum(cut)[:-1]
    lengths = np.arange(1, count)
    apart = (before[-1] + cut[-1] - before) / (count - lengths) - before / lengths
    error = scatter * np.sqrt(1 / lengths + 1 / (count - lengths))
    score = np.abs(apart) / error
    score[: FEWEST - 1] = score[count - FEWEST :] = 0.0
    at = int(np.argmax(score)) + 1
    first, second = float(np.median(values[:at])), float(np.median(values[at:]))
    sure = score[at - 1] > SURE and abs(second - first) > LEAST
    return at, float(score[at - 1]) if sure else 0.0
