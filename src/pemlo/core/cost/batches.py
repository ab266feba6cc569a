"""Many small fits at once: shots with about as many readings stand together in padded arrays.

NumPy then solves them side by side, an order of magnitude faster than one `scipy.optimize.least_squares` a shot and
with the same answer (tests/core/cost/test_fit.py holds the two against each other). Pure NumPy.
"""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

from pemlo.core.arrays import Floats
from pemlo.core.cost.frame_arrays import Frames
from pemlo.core.cost.frame_model import log_readings, log_values
from pemlo.core.cost.observations import Observations, is_bound, is_time


@dataclass(frozen=True)
class Batch:
    """B shots of up to K readings; `valid` is False where a reading only pads.

    Attributes
    ----------
    shots : (B,) ndarray of int
        Which shots, by their place among those that are fitted.
    value, place, reading_variance : (B, K) ndarray
    shared : (B, K, K) ndarray
        Covariance that readings of the same part of a frame have in common.
    mask : (B, K, 8) ndarray
    frames : Frames of shape (B, K)
    valid : (B, K) ndarray of bool
    """

    shots: npt.NDArray[np.intp]
    value: Floats
    place: Floats
    reading_variance: Floats
    shared: Floats
    mask: Floats
    frames: Frames
    valid: npt.NDArray[np.bool_]

    @property
    def together(self) -> npt.NDArray[np.bool_]:
        """Which pairs of readings share how cost runs along the shot, (B, K, K)."""
        timed = self.valid & is_time(self.mask)
        return np.asarray(timed[:, :, None] & timed[:, None, :])

    @property
    def bounds(self) -> npt.NDArray[np.bool_]:
        """Which readings only say that a frame takes longer, (B, K)."""
        return np.asarray(self.valid & is_bound(self.mask))


@dataclass(frozen=True)
class Linear:
    """B shots linearised at their parameters.

    Attributes
    ----------
    residual : (B, K) ndarray
        What was observed less what the model says; 0 in padding.
    jacobian : (B, K, D) ndarray
        Derivatives of the model; 0 in padding.
    """

    residual: Floats
    jacobian: Floats


def make_batches(readings: Sequence[Observations]) -> list[Batch]:
    """Group shots by about how many readings they have: up to a power of two, or one and a half of it."""
    groups: dict[int, list[int]] = {}
    for number, observations in enumerate(readings):
        size = 1 << max(0, (len(observations) - 1).bit_length())
        groups.setdefault(3 * size // 4 if len(observations) <= 3 * size // 4 else size, []).append(number)
    return [_pad([readings[number] for number in members], members, size) for size, members in sorted(groups.items())]


def _pad(readings: list[Observations], members: list[int], size: int) -> Batch:
    def fill(name: str) -> Floats:
        return np.stack([_to_size(getattr(observations, name), size) for observations in readings])

    frames = Frames.stack(
        [observations.frames[np.minimum(np.arange(size), len(observations) - 1)] for observations in readings]
    )
    return Batch(
        np.array(members, dtype=np.intp),
        fill("value"),
        fill("place"),
        fill("reading_variance"),
        np.stack([_square_to_size(observations.shared, size) for observations in readings]),
        fill("mask"),
        frames,
        np.arange(size) < np.array([len(observations) for observations in readings])[:, None],
    )


def _to_size(values: Floats, size: int) -> Floats:
    """Repeat the last entry up to `size`."""
    return values[np.minimum(np.arange(size), len(values) - 1)]


def _square_to_size(values: Floats, size: int) -> Floats:
    return np.pad(values, (0, size - len(values)))


def linearise(theta: Floats, batch: Batch) -> Linear:
    """Linearise the model of a batch at parameters of shape (B, D)."""
    value, jacobian = log_readings(theta[:, None, :], batch.frames, batch.mask)
    residual = np.where(batch.valid, batch.value - value, 0.0)
    met = batch.bounds & (residual <= 0)
    counted = batch.valid & ~met
    return Linear(np.where(met, 0.0, residual), np.where(counted[..., None], jacobian, 0.0))


def residuals(theta: Floats, batch: Batch) -> Floats:
    """Return only the residuals at parameters of shape (B, D)."""
    value = log_values(theta[:, None, :], batch.frames, batch.mask)
    return missed(np.where(batch.valid, batch.value - value, 0.0), batch.bounds)


def missed(residual: Floats, bounds: npt.NDArray[np.bool_]) -> Floats:
    """Return residuals as they count: a bound that is kept is missed by nothing."""
    return np.where(bounds & (residual < 0), 0.0, residual) if bounds.any() else residual


def residuals_of_draws(theta: Floats, batch: Batch) -> Floats:
    """Return the residuals at N draws of each shot's parameters, (B, N, D); (B, N, K). Of bounds as they are."""
    value = log_values(theta[:, :, None], batch.frames[:, None], batch.mask[:, None])
    return np.where(batch.valid[:, None], batch.value[:, None] - value, 0.0)


def batch_rows(batch: Batch, rows: npt.NDArray[np.intp]) -> Batch:
    """Return some of the shots of a batch."""
    return Batch(*(getattr(batch, name)[rows] for name in Batch.__dataclass_fields__))
