"""Render times from the times of files alone: chain by chain, where one machine writes frames in order. NumPy.

A chain is frames of one shot whose numbers rise as they come, one step after another: what one machine writes that
renders a range. The gap between two of them is what the second took. The first of a chain has no gap, and one over a
night or a pause says nothing.
"""

import numpy as np

from pemlo.core.arrays import Floats, Ints
from pemlo.core.arrivals.row_medians import row_medians

LONGEST_JUMP = 2.5  # a gap so many times as long as those around it is a pause
AROUND = 5
LEAST_IN_A_RANGE = 6  # frames that a machine renders one after another where each has a range
MOST_APART = 1.5
LEAST_LINKS = 3  # a chain of fewer gaps may be chance


def chains(frames: Ints, ended: Floats, step: int = 1) -> Ints:
    """Return which chain each frame of a shot is in, (K,).

    Parameters
    ----------
    frames : (K,) ndarray of int
    ended : (K,) ndarray
        When each was written.
    step : int
        From one frame of the shot to the next.
    """
    found = np.full(len(frames), -1, np.int64)
    ends: dict[int, int] = {}  # the next frame that a chain waits for, and which chain
    count = 0
    for at in np.lexsort((frames, ended)):
        frame = int(frames[at])
        chain = ends.pop(frame, None)
        if chain is None:
            chain, count = count, count + 1
        found[at] = chain
        ends[frame + step] = chain
    return found


def gap_seconds(frames: Ints, ended: Floats, step: int = 1, machine: Ints | None = None) -> tuple[Floats, Ints]:
    """Return what frames of a shot took, from when they were written, and which chain each is in.

    Parameters
    ----------
    frames : (K,) ndarray of int
    ended : (K,) ndarray
    step : int
    machine : (K,) ndarray of int, optional
        Where it is known which machine wrote what: then its frames, as they came, are a chain.

    Returns
    -------
    seconds : (K,) ndarray
        NaN where there is no gap, or it is a pause.
    chain : (K,) ndarray of int
    """
    chain = chains(frames, ended, step) if machine is None else machine
    seconds = np.full(len(frames), np.nan)
    for number in np.unique(chain):
        mine = np.flatnonzero(chain == number)
        mine = mine[np.lexsort((frames[mine], ended[mine]))]
        gaps = np.diff(ended[mine])
        if len(gaps) < LEAST_LINKS:
            continue
        gaps = np.where(gaps > 0, gaps, np.nan)
        seconds[mine[1:]] = np.where(gaps <= LONGEST_JUMP * _usual(gaps), gaps, np.nan)
    return seconds, chain


def _usual(gaps: Floats) -> Floats:
    """Return the middle of the gaps around each, itself counted."""
    padded = np.concatenate([np.full(AROUND, np.nan), gaps, np.full(AROUND, np.nan)])
    windows = np.lib.stride_tricks.sliding_window_view(padded, 2 * AROUND + 1)
    return row_medians(windows)


def are_machines(chain: Ints, ended: Floats, slots: int) -> bool:
    """Whether chains are what machines wrote, each a range of its own: about as many go on at once as there are slots.

    Frames that go one by one to whoever is free rise in number too, but as one chain, or as many short ones: the gap
    between two of them is no frame's time.

    Parameters
    ----------
    chain : (K,) ndarray of int
    ended : (K,) ndarray
    slots : int
        Frames that all machines render at once.
    """
    if slots <= 1:
        return True
    lengths, spans = [], []
    for number in np.unique(chain):
        mine = ended[chain == number]
        lengths.append(len(mine))
        spans.append(float(np.ptp(mine)))
    whole = float(np.ptp(ended))
    if whole <= 0 or float(np.median(np.repeat(lengths, lengths))) < LEAST_IN_A_RANGE:
        return False
    at_once = sum(spans) / whole
    return MOST_APART * slots >= at_once >= slots / MOST_APART
