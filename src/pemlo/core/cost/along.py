"""How cost runs along a shot: a Gaussian process over the frame's place in it. Pure NumPy.

The process is the log of how much more expensive a frame is than the shot's typical one; places run from 0 (first
frame) to 1 (last), so that lengths are shares of the shot.
"""

import numpy as np

from pemlo.core.arrays import Floats

MOST_KNOTS = 24
JITTER = 1e-6


def matern32(first: Floats, second: Floats, sd: float, length: float) -> Floats:
    """Return the Matérn 3/2 covariance between places.

    Parameters
    ----------
    first : (..., K) ndarray
    second : (..., L) ndarray
        Places along the shot, 0 to 1.
    sd : float
        Standard deviation of the log factor.
    length : float
        Length scale, in shares of the shot.

    Returns
    -------
    (..., K, L) ndarray

    References
    ----------
    .. [1] C. Rasmussen and C. Williams, "Gaussian Processes for Machine Learning", MIT Press 2006, eq. 4.17.
    """
    distance = np.sqrt(3.0) * np.abs(first[..., :, None] - second[..., None, :]) / length
    return np.asarray(sd**2 * (1.0 + distance) * np.exp(-distance))


def places(frames: Floats, first: int, last: int) -> Floats:
    """Return where frames stand in a shot: 0 at its first frame, 1 at its last; 0.5 in a shot of one frame."""
    if last == first:
        return np.full_like(frames, 0.5, dtype=float)
    return (frames - first) / (last - first)


def places_within(frames: Floats, first: int, last: int) -> Floats:
    """Return where frames stand in a shot, 0 to 1: handles stand at the end that they hang on."""
    return np.clip(places(frames, first, last), 0.0, 1.0)


def shares_with_handles(shares: Floats, frame_count: int, handles: int) -> Floats:
    """Return the share of frames that places stand for where so many more hang on either end, and cost what it does.

    Examples
    --------
    >>> shares_with_handles(np.full(4, 0.25), 4, 2).tolist()
    [0.375, 0.125, 0.125, 0.375]
    """
    counted = shares * frame_count
    counted[0] += handles
    counted[-1] += handles
    return np.asarray(counted / (frame_count + 2 * handles))


def shares_between(own: Floats, at: Floats) -> Floats:
    """Return the share of frames that places stand for where frames stand at some places, straight between them.

    Examples
    --------
    >>> shares_between(np.array([0.0, 0.5, 1.0]), np.array([0.0, 0.25])).tolist()
    [0.75, 0.25, 0.0]
    """
    spot = np.interp(at, own, np.arange(len(own)))
    low = spot.astype(int)
    part = spot - low
    weights = np.bincount(low, 1 - part, len(own)) + np.bincount(np.minimum(low + 1, len(own) - 1), part, len(own))
    return np.asarray(weights / len(at))


def knots(frame_count: int) -> tuple[Floats, Floats]:
    """Return places that stand for all frames of a shot, and the share of frames that each stands for.

    Frames up to `MOST_KNOTS` stand for themselves; longer shots are read at evenly spread places, which is exact
    enough because the process is smooth over much longer stretches.

    Returns
    -------
    places, shares : (K,) ndarray
        Shares sum to 1.
    """
    count = min(frame_count, MOST_KNOTS)
    if frame_count == 1:
        return np.array([0.5]), np.array([1.0])
    if frame_count <= MOST_KNOTS:
        return np.linspace(0.0, 1.0, count), np.full(count, 1.0 / count)
    return (np.arange(count) + 0.5) / count, np.full(count, 1.0 / count)


def between(values: Floats, own: Floats, at: Floats) -> Floats:
    """Return values that are known at some places at others, straight between them.

    Parameters
    ----------
    values : (N, L) ndarray
    own : (L,) ndarray
        Where they are known, rising.
    at : (B,) ndarray

    Returns
    -------
    (N, B) ndarray
    """
    if len(own) == 1:
        return np.repeat(values, len(at), axis=1)
    spot = np.clip(np.interp(at, own, np.arange(len(own))), 0, len(own) - 1)
    low = np.minimum(spot.astype(int), len(own) - 2)
    part = spot - low
    return np.asarray(values[:, low] * (1 - part) + values[:, low + 1] * part)
