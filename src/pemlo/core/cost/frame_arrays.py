"""How frames are rendered, as arrays: what the cost model takes. Pure NumPy."""

from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

from pemlo.core.arrays import Floats
from pemlo.core.cost.noise_shape import QUANTILES
from pemlo.core.project.settings import NO_DENOISE, CostFactors, FrameSettings, way_name
from pemlo.core.project.trials import TimedFrame

LEAST_SPENT = 0.5  # samples a pixel: it takes one, and where a part is empty a little less in the mean


@dataclass(frozen=True)
class Frames:
    """How frames are rendered, as arrays of one shape (...).

    Attributes
    ----------
    pixels_mpx : ndarray of float
        Pixels as rendered, Mpx.
    least, most : ndarray of float
        Samples per pixel.
    threshold : ndarray of float
        Noise threshold; NaN where sampling is fixed at `most`.
    denoiser : ndarray of int
        Index of the way of denoising; -1 for none.
    keeps_prepare, keeps_light : ndarray of float
        1 where the stage's data are read back from an earlier frame, else 0.
    spent : ndarray of float
        Mean samples per pixel that were spent, where a trial says so; else NaN, and the model tells.
    cap : ndarray of float
        Most seconds of tracing; NaN for no such cap. It is heeded by `capped`, not by the stages.
    saves : ndarray of float
        How often the unfinished frame is written.
    seen : ndarray of float
        Samples per pixel by which a picture's noise was read, where it was.
    shape : (..., 2, Q) ndarray of float
        How noise is spread over the frame, see `noise_shape.ShotShapes`; NaN where that is not known.
    switched : (..., S) ndarray of float
        1 for each switch that is on.
    ways : (..., W) ndarray of float
        1 for the way of rendering; for a number between timed ones, its own and their weights.
    """

    pixels_mpx: Floats
    least: Floats
    most: Floats
    threshold: Floats
    denoiser: npt.NDArray[np.intp]
    keeps_prepare: Floats
    keeps_light: Floats
    spent: Floats
    cap: Floats
    saves: Floats
    seen: Floats
    shape: Floats
    switched: Floats
    ways: Floats

    def __getitem__(self, key: object) -> "Frames":
        return Frames(**{name: getattr(self, name)[key] for name in self.__dataclass_fields__})

    @staticmethod
    def stack(parts: "list[Frames]", axis: int = 0) -> "Frames":
        """Put frames one after another along `axis`."""
        names = Frames.__dataclass_fields__
        return Frames(**{name: np.stack([getattr(part, name) for part in parts], axis=axis) for name in names})


def rendered_pixels(size: tuple[int, int], resolution_percent: float) -> int:
    """Return the pixels of a frame rendered at a percentage of its size on each side.

    Examples
    --------
    >>> rendered_pixels((1920, 1080), 50) * 4 == rendered_pixels((1920, 1080), 100)
    True
    """
    share = resolution_percent / 100
    return max(1, round(size[0] * share)) * max(1, round(size[1] * share))


def frames_of(
    settings: list[FrameSettings],
    sizes: list[tuple[int, int]],
    cost_factors: CostFactors,
    shape: Floats | None = None,
) -> Frames:
    """Turn settings and full sizes (width, height in px) into arrays of shape (len(settings),).

    All are of one shot, whose `shape` of noise, (2, Q) or one for each of the settings, may be known.
    """
    known = {name: number for number, name in enumerate(cost_factors.denoisers)} | {NO_DENOISE: -1}
    count = len(settings)
    pairs = list(zip(settings, sizes, strict=True))
    return Frames(
        pixels_mpx=np.array([_pixels_mpx(one, size) for one, size in pairs]),
        least=np.array([float(one.least_samples) for one in settings]),
        most=np.array([float(one.samples) for one in settings]),
        threshold=np.array([np.nan if one.noise_threshold is None else one.noise_threshold for one in settings]),
        denoiser=np.array([known[one.denoise] for one in settings], dtype=np.intp),
        keeps_prepare=np.array([float("prepare" in one.keep) for one in settings]),
        keeps_light=np.array([float("light" in one.keep) for one in settings]),
        spent=np.array([spent_of(one) for one in settings]),
        cap=np.array([np.nan if one.most_seconds is None else one.most_seconds for one in settings]),
        saves=np.array([float(one.saves) for one in settings]),
        seen=np.ones(count),
        shape=np.broadcast_to(np.full((2, QUANTILES), np.nan) if shape is None else shape, (count, 2, QUANTILES)),
        switched=np.array(
            [[float(name in one.switched) for name in cost_factors.switches] for one in settings]
        ).reshape(count, -1),
        ways=_ways(settings, cost_factors),
    )


def _ways(settings: list[FrameSettings], cost_factors: CostFactors) -> Floats:
    found = np.zeros((len(settings), len(cost_factors.ways)))
    if not cost_factors.ways:
        return found
    place = {way.name: number for number, way in enumerate(cost_factors.ways)}
    for row, one in zip(found, settings, strict=True):
        if one.way:
            number = place[way_name(one.way, one.way_value)]
            row[number] = 1.0
            for other, weight in cost_factors.ways[number].between:
                row[place[other]] = weight
    return found


def _pixels_mpx(settings: FrameSettings, size: tuple[int, int]) -> float:
    if isinstance(settings, TimedFrame) and settings.width is not None and settings.height is not None:
        whole = settings.width * settings.height / 1e6
    else:
        whole = rendered_pixels(size, settings.resolution_percent) / 1e6
    part = settings.region_percent if isinstance(settings, TimedFrame) else None
    return whole if part is None else whole * part / 100


def spent_of(settings: FrameSettings) -> float:
    """Return the mean samples a pixel that a trial says it spent; NaN if it does not."""
    said = settings.mean_samples if isinstance(settings, TimedFrame) else None
    return np.nan if said is None else max(said, LEAST_SPENT)
