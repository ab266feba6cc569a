"""The formula for what one frame costs, stage by stage, and its derivatives. Pure NumPy.

    seconds = prepare + light + pixels^power (pixel + sample N^(1 + sample_power)) switches + denoise pixels
              + (write + saves save) pixels

with pixels in megapixels as rendered and N the samples per pixel actually spent; each switch that is on makes tracing
more expensive or cheaper by a factor; a stage that is kept takes a share of its seconds; and a sample costs more or
less where a threshold sends it: by the more, the more unevenly it does. Parameters are logarithms, in the order of
`priors.py`. How a frame departs from its shot's typical one is not here but in `along.py`.

What can be read of a frame are its `PARTS`: the seconds of each stage, the mean samples spent, and the noise of one
sample, as far as a picture shows it.
"""

from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

from pemlo.core.arrays import Floats
from pemlo.core.cost.noise_shape import QUANTILES
from pemlo.core.cost.priors import (
    FIREFLIES,
    FIRST_DENOISER,
    KEPT_LIGHT,
    KEPT_PREPARE,
    LIGHT,
    NOISE,
    NOISE_POWER,
    NOISE_SCALE,
    NOISE_SPREAD,
    PIXEL,
    PIXEL_POWER,
    PREPARE,
    SAMPLE,
    SAMPLE_POWER,
    SAVE,
    UNEVEN,
    WRITE,
)
from pemlo.core.cost.sampling import mean_samples, mean_samples_of_shape
from pemlo.core.project.settings import NO_DENOISE, CostFactors, FrameSettings
from pemlo.core.project.trials import STAGES, Trial

PARTS = (*STAGES, "samples", "noise")
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

    def __getitem__(self, key: object) -> "Frames":
        return Frames(*(getattr(self, name)[key] for name in self.__dataclass_fields__))

    @staticmethod
    def stack(parts: "list[Frames]", axis: int = 0) -> "Frames":
        """Put frames one after another along `axis`."""
        return Frames(
            *(np.stack([getattr(part, name) for part in parts], axis=axis) for name in Frames.__dataclass_fields__)
        )


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
    return Frames(
        np.array([_pixels_mpx(s, z) for s, z in zip(settings, sizes, strict=True)]),
        np.array([float(s.least_samples) for s in settings]),
        np.array([float(s.samples) for s in settings]),
        np.array([np.nan if s.noise_threshold is None else s.noise_threshold for s in settings]),
        np.array([known[s.denoise] for s in settings], dtype=np.intp),
        np.array([float("prepare" in s.keep) for s in settings]),
        np.array([float("light" in s.keep) for s in settings]),
        np.array([spent_of(s) for s in settings]),
        np.array([np.nan if s.most_seconds is None else s.most_seconds for s in settings]),
        np.array([float(s.saves) for s in settings]),
        np.ones(len(settings)),
        np.broadcast_to(np.full((2, QUANTILES), np.nan) if shape is None else shape, (len(settings), 2, QUANTILES)),
        np.array([[float(name in s.switched) for name in cost_factors.switches] for s in settings]).reshape(
            len(settings), -1
        ),
    )


def _pixels_mpx(settings: FrameSettings, size: tuple[int, int]) -> float:
    whole = rendered_pixels(size, settings.resolution_percent) / 1e6
    part = settings.region_percent if isinstance(settings, Trial) else None
    return whole if part is None else whole * part / 100


def spent_of(settings: FrameSettings) -> float:
    """Return the mean samples a pixel that a trial says it spent; NaN if it does not."""
    said = settings.mean_samples if isinstance(settings, Trial) else None
    return np.nan if said is None else max(said, LEAST_SPENT)


def samples_spent(theta: Floats, frames: Frames) -> tuple[Floats, dict[int, Floats]]:
    """Return samples per pixel spent, and its derivatives by the parameters on which it depends.

    Parameters
    ----------
    theta : (..., D) ndarray
        Parameters; broadcasts against the shape of `frames`.
    frames : Frames
    """
    told = np.where(np.isnan(frames.spent), frames.most, frames.spent)
    whole = np.broadcast_shapes(theta.shape[:-1], told.shape)
    wanted = ~np.isnan(frames.threshold) & np.isnan(frames.spent)
    if not wanted.any():
        return told, {}
    spent = np.array(np.broadcast_to(told, whole))
    slopes = {at: np.zeros(whole) for at in (NOISE, NOISE_SPREAD, NOISE_POWER, FIREFLIES)}
    # Most readings say what they spent, and the search for a root is expensive: only what is asked is worked out.
    measured = ~np.isnan(frames.shape[..., 0, 0])
    for shaped, rows in ((True, wanted & measured), (False, wanted & ~measured)):
        if not rows.any():
            continue
        mask = np.broadcast_to(rows, whole)
        pixels, threshold, least, most = (
            _picked(values, mask) for values in (np.log(frames.pixels_mpx), frames.threshold, frames.least, frames.most)
        )
        level = _picked(theta[..., NOISE], mask) + _picked(theta[..., NOISE_POWER], mask) * pixels
        if shaped:
            shape = np.broadcast_to(frames.shape, (*whole, *frames.shape.shape[-2:]))[mask]
            found, by_level, slopes[FIREFLIES][mask] = mean_samples_of_shape(
                level, _picked(theta[..., FIREFLIES], mask), shape, threshold, least, most
            )
        else:
            found, by_level, slopes[NOISE_SPREAD][mask] = mean_samples(
                level, _picked(theta[..., NOISE_SPREAD], mask), threshold, least, most
            )
        spent[mask], slopes[NOISE][mask], slopes[NOISE_POWER][mask] = found, by_level, by_level * pixels
    return spent, slopes


def _picked(values: Floats, mask: npt.NDArray[np.bool_]) -> Floats:
    return np.asarray(np.broadcast_to(values, mask.shape)[mask])


def stage_seconds(theta: Floats, frames: Frames) -> Floats:
    """Return the seconds of each stage of a shot's typical frame.

    Parameters
    ----------
    theta : (..., D) ndarray
        Parameters; broadcasts against the shape of `frames`.
    frames : Frames

    Returns
    -------
    (..., 5) ndarray
        Seconds on the reference machine: prepare, light, trace, denoise, write.
    """
    return _stages(theta, frames, samples_spent(theta, frames)[0])


def _stages(theta: Floats, frames: Frames, spent: Floats) -> Floats:
    return np.stack(np.broadcast_arrays(*_each_stage(theta, frames, spent)), axis=-1)


def _each_stage(theta: Floats, frames: Frames, spent: Floats) -> list[Floats]:
    """Return the seconds of each stage, of shapes that broadcast: what no frame differs in is worked out once."""
    trace = _pass_seconds(theta, frames) * (
        np.exp(theta[..., PIXEL]) + _sample_seconds(theta, frames, spent)[0] * spent
    )
    writing = np.exp(theta[..., WRITE])
    if frames.saves.any():
        writing = writing + frames.saves * np.exp(theta[..., SAVE])
    return [
        _kept(theta[..., PREPARE], frames.keeps_prepare, theta[..., KEPT_PREPARE]),
        _kept(theta[..., LIGHT], frames.keeps_light, theta[..., KEPT_LIGHT]),
        trace,
        _denoise_seconds(theta, frames),
        writing * frames.pixels_mpx,
    ]


def _kept(log_seconds: Floats, keeps: Floats, share: Floats) -> Floats:
    return np.asarray(np.exp(log_seconds + keeps * share if keeps.any() else log_seconds))


def _pass_seconds(theta: Floats, frames: Frames) -> Floats:
    """Return by what the seconds of one pixel are multiplied to trace all of them: their number, and what is on."""
    power = np.exp(np.log(frames.pixels_mpx) * np.exp(theta[..., PIXEL_POWER]))
    count = frames.switched.shape[-1]
    if not (count and frames.switched.any()):
        return np.asarray(power)
    return np.asarray(power * np.exp((theta[..., theta.shape[-1] - count :] * frames.switched).sum(axis=-1)))


def _sample_seconds(theta: Floats, frames: Frames, spent: Floats) -> tuple[Floats, Floats, Floats]:
    """Return the mean seconds of a sample, how unevenly samples are shared out (0 to 1), and its slope by their number.

    Where all pixels take the least, or all the most, they are shared out as evenly as without a threshold.
    """
    adaptive = ~np.isnan(frames.threshold)
    if not adaptive.any():
        none = np.zeros_like(spent)
        return np.asarray(np.exp(theta[..., SAMPLE] + theta[..., SAMPLE_POWER] * np.log(spent))), none, none
    above, below = 1.0 - frames.least / spent, 1.0 - spent / frames.most
    uneven = np.where(adaptive, above * below, 0.0)
    slope = np.where(adaptive, frames.least / spent**2 * below - above / frames.most, 0.0)
    costlier = theta[..., SAMPLE] + theta[..., UNEVEN] * uneven + theta[..., SAMPLE_POWER] * np.log(spent)
    return np.asarray(np.exp(costlier)), uneven, slope


def _denoise_seconds(theta: Floats, frames: Frames) -> Floats:
    seconds = np.zeros(frames.denoiser.shape)
    for number in range(_denoisers(theta, frames)):
        used = frames.denoiser == number
        if used.any():
            seconds = seconds + np.exp(theta[..., FIRST_DENOISER + number]) * (used * frames.pixels_mpx)
    return seconds


def _denoisers(theta: Floats, frames: Frames) -> int:
    return int(theta.shape[-1] - FIRST_DENOISER - frames.switched.shape[-1])


def capped(theta: Floats, frames: Frames, factor: Floats, wanted: Floats) -> tuple[Floats, Floats]:
    """Return seconds and samples of frames whose tracing ends when its seconds are over.

    Whatever is asked, each pixel takes a sample.

    Parameters
    ----------
    theta : (..., D) ndarray
        Parameters; broadcasts against the shape of `frames`.
    frames : Frames
        With a cap.
    factor : ndarray
        How much more expensive the frame is than the shot's typical one; broadcasts against both.
    wanted : ndarray
        Samples a pixel without the cap, see `samples_spent`; broadcasts against all.

    Returns
    -------
    seconds : ndarray
        Of the whole frame, on the reference machine.
    spent : ndarray
        Samples a pixel.
    """
    each, pixel = _pass_seconds(theta, frames) * factor, np.exp(theta[..., PIXEL])
    sample = _sample_seconds(theta, frames, wanted)[0]
    spent = np.clip((frames.cap / each - pixel) / sample, np.minimum(1.0, wanted), wanted)
    stages = _stages(theta, frames, wanted)
    trace = each * (pixel + sample * spent)
    return np.asarray((stages.sum(axis=-1) - stages[..., 2]) * factor + trace), np.asarray(spent)


def frame_seconds(theta: Floats, frames: Frames) -> Floats:
    """Return the seconds of a shot's typical frame on the reference machine; shapes as in `stage_seconds`."""
    return seconds_with(theta, frames, samples_spent(theta, frames)[0])


def seconds_with(theta: Floats, frames: Frames, spent: Floats) -> Floats:
    """Return the same where it is known what samples are spent, (...)."""
    return np.asarray(sum(_each_stage(theta, frames, spent)))


def log_values(theta: Floats, frames: Frames, holds: Floats) -> Floats:
    """Return the value of `log_readings` alone."""
    spent, _ = samples_spent(theta, frames)
    total = sum(stage * holds[..., number] for number, stage in enumerate(_each_stage(theta, frames, spent)))
    if holds[..., len(STAGES) :].any():
        total = total + holds[..., 5] * spent + holds[..., 6] * _noise(theta, frames)
    return np.asarray(np.log(np.maximum(total, 1e-300)))


def _noise(theta: Floats, frames: Frames) -> Floats:
    """Return the noise of one sample as a picture shows it, median over the frame."""
    return np.asarray(np.exp(theta[..., NOISE] - theta[..., NOISE_SCALE] - np.exp(theta[..., FIREFLIES]) / frames.seen))


def log_readings(theta: Floats, frames: Frames, holds: Floats) -> tuple[Floats, Floats]:
    """Return the log of what some parts of a frame come to together, and its derivatives.

    Parameters
    ----------
    theta : (..., D) ndarray
    frames : Frames
        Of shape (...).
    holds : (..., 7) ndarray
        1 for each of `PARTS` that counts, 0 for the others.

    Returns
    -------
    value : (...) ndarray
        Log seconds; or log samples, or log noise where that is the part.
    jacobian : (..., D) ndarray
        Derivatives by the parameters.
    """
    spent, slopes = samples_spent(theta, frames)
    other = np.stack(np.broadcast_arrays(spent, _noise(theta, frames)), axis=-1)
    each = np.concatenate([_stages(theta, frames, spent), other], axis=-1) * holds
    total = np.maximum(each.sum(axis=-1), 1e-300)
    jacobian = np.zeros((*total.shape, theta.shape[-1]))
    jacobian[..., PREPARE], jacobian[..., LIGHT] = each[..., 0], each[..., 1]
    saving = frames.saves * np.exp(theta[..., SAVE])
    jacobian[..., SAVE] = each[..., 4] * saving / (saving + np.exp(theta[..., WRITE]))
    jacobian[..., WRITE] = each[..., 4] - jacobian[..., SAVE]
    jacobian[..., KEPT_PREPARE] = each[..., 0] * frames.keeps_prepare
    jacobian[..., KEPT_LIGHT] = each[..., 1] * frames.keeps_light
    by_sample = _fill_trace(jacobian, theta, frames, each[..., 2], spent)
    for at, slope in slopes.items():
        jacobian[..., at] = (by_sample + holds[..., 5]) * slope
    jacobian[..., NOISE] += each[..., 6]
    jacobian[..., NOISE_SCALE] = -each[..., 6]
    jacobian[..., FIREFLIES] -= each[..., 6] * np.exp(theta[..., FIREFLIES]) / frames.seen
    count = _denoisers(theta, frames)
    for number in range(count):
        jacobian[..., FIRST_DENOISER + number] = np.where(frames.denoiser == number, each[..., 3], 0.0)
    jacobian[..., FIRST_DENOISER + count :] = each[..., 2, None] * frames.switched
    return np.log(total), jacobian / total[..., None]


def _fill_trace(jacobian: Floats, theta: Floats, frames: Frames, trace: Floats, spent: Floats) -> Floats:
    """Fill in the derivatives of the seconds of tracing, and return that by the samples spent."""
    sample, uneven, slope = _sample_seconds(theta, frames, spent)
    per_pixel = np.exp(theta[..., PIXEL]) + sample * spent
    share = trace / per_pixel
    power = np.exp(theta[..., PIXEL_POWER])
    jacobian[..., PIXEL] = share * np.exp(theta[..., PIXEL])
    jacobian[..., SAMPLE] = share * sample * spent
    jacobian[..., UNEVEN] = jacobian[..., SAMPLE] * uneven
    jacobian[..., SAMPLE_POWER] = jacobian[..., SAMPLE] * np.log(spent)
    jacobian[..., PIXEL_POWER] = trace * power * np.log(frames.pixels_mpx)
    return np.asarray(share * sample * (1.0 + theta[..., SAMPLE_POWER] + spent * theta[..., UNEVEN] * slope))
