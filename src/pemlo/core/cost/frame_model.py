"""The formula for what one frame costs, stage by stage, and its derivatives. Pure NumPy.

    seconds = way (prepare + light + pixels^power (pixel + sample N^(1 + sample_power)) switches) + denoise pixels
              + (write + saves save) pixels

with pixels in megapixels as rendered and N the samples per pixel actually spent; each switch that is on makes tracing
more expensive or cheaper by a factor, another way of rendering all but denoising and writing; a stage that is kept
takes a share of its seconds; and a sample costs more or less where a threshold sends it: by the more, the more unevenly
it does. Parameters are logarithms, in the order of `priors.py`. How a frame departs from its shot's typical one is not
here but in `along.py`.

What can be read of a frame are its `PARTS`: the seconds of each stage, the mean samples spent, the noise of one
sample, as far as a picture shows it, and what all stages take at least, where a limit ended them.
"""

import numpy as np
import numpy.typing as npt

from pemlo.core.arrays import Floats
from pemlo.core.cost.frame_arrays import Frames
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
from pemlo.core.project.trials import STAGES

PARTS = (*STAGES, "samples", "noise", "at_least")
# Columns of the parts.
_PREPARE, _LIGHT, _TRACE, _DENOISE, _WRITE, _SAMPLES, _NOISE, _AT_LEAST = range(len(PARTS))


def samples_spent(theta: Floats, frames: Frames) -> tuple[Floats, dict[int, Floats]]:
    """Return samples per pixel spent, and its derivatives by the parameters on which it depends.

    Parameters
    ----------
    theta : (..., D) ndarray
        Parameters; broadcasts against the shape of `frames`.
    frames : Frames
    """
    given = np.where(np.isnan(frames.spent), frames.most, frames.spent)
    whole = np.broadcast_shapes(theta.shape[:-1], given.shape)
    wanted = ~np.isnan(frames.threshold) & np.isnan(frames.spent)
    if not wanted.any():
        return given, {}
    spent = np.array(np.broadcast_to(given, whole))
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
    way = _way_factor(theta, frames)
    return [
        _kept(theta[..., PREPARE], frames.keeps_prepare, theta[..., KEPT_PREPARE]) * way,
        _kept(theta[..., LIGHT], frames.keeps_light, theta[..., KEPT_LIGHT]) * way,
        trace,
        _denoise_seconds(theta, frames),
        writing * frames.pixels_mpx,
    ]


def _kept(log_seconds: Floats, keeps: Floats, share: Floats) -> Floats:
    return np.asarray(np.exp(log_seconds + keeps * share if keeps.any() else log_seconds))


def _pass_seconds(theta: Floats, frames: Frames) -> Floats:
    """Return by what the seconds of one pixel are multiplied to trace all of them: their number, and what is on."""
    power = np.exp(np.log(frames.pixels_mpx) * np.exp(theta[..., PIXEL_POWER])) * _way_factor(theta, frames)
    count = frames.switched.shape[-1]
    if not (count and frames.switched.any()):
        return np.asarray(power)
    end = theta.shape[-1] - frames.ways.shape[-1]
    return np.asarray(power * np.exp((theta[..., end - count : end] * frames.switched).sum(axis=-1)))


def _way_factor(theta: Floats, frames: Frames) -> Floats | float:
    """Return by what a way of rendering multiplies preparing, light and tracing."""
    count = frames.ways.shape[-1]
    if not (count and frames.ways.any()):
        return 1.0
    return np.asarray(np.exp((theta[..., theta.shape[-1] - count :] * frames.ways).sum(axis=-1)))


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
    return int(theta.shape[-1] - FIRST_DENOISER - frames.switched.shape[-1] - frames.ways.shape[-1])


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
    return np.asarray((stages.sum(axis=-1) - stages[..., _TRACE]) * factor + trace), np.asarray(spent)


def capped_mean(
    theta: Floats, frames: Frames, cost_profile: Floats, share: Floats, wanted: Floats
) -> tuple[Floats, Floats]:
    """Return what `capped` comes to over the frames of a shot: mean seconds, and the samples of the mean noise squared.

    Compiled inside, as there is a number for each draw, place and way: options with a cap are many.

    Parameters
    ----------
    theta : (N, 1, D) ndarray
        Parameters.
    frames : Frames
        Of shape (K,), with a cap.
    cost_profile : (N, L) ndarray
        How much more expensive than the typical frame those at L places of the shot are.
    share : (L,) ndarray
        Of the shot's frames that each place stands for; the sum is 1.
    wanted : (N, K) ndarray
        Samples a pixel without the cap.

    Returns
    -------
    seconds, spent : (N, K) ndarray
    """
    from pemlo.core.cost.capped_mean import capped_trace  # noqa: PLC0415 - heavy to load

    stages = _each_stage(theta, frames, wanted)
    rest = np.zeros(wanted.shape)
    for number, stage in enumerate(stages):
        if number != _TRACE:
            rest += stage
    given = _pass_seconds(theta, frames), np.exp(theta[..., PIXEL]), _sample_seconds(theta, frames, wanted)[0], wanted
    each, pixel, sample, most = (np.ascontiguousarray(np.broadcast_to(one, wanted.shape)) for one in given)
    trace, spent = capped_trace(each, pixel, sample, most, frames.cap, np.ascontiguousarray(cost_profile), share)
    return np.asarray(rest * (cost_profile @ share)[:, None] + trace), spent


def frame_seconds(theta: Floats, frames: Frames) -> Floats:
    """Return the seconds of a shot's typical frame on the reference machine; shapes as in `stage_seconds`."""
    return seconds_with(theta, frames, samples_spent(theta, frames)[0])


def seconds_with(theta: Floats, frames: Frames, spent: Floats) -> Floats:
    """Return the same where it is known what samples are spent, (...)."""
    return np.asarray(sum(_each_stage(theta, frames, spent)))


def log_values(theta: Floats, frames: Frames, mask: Floats) -> Floats:
    """Return the value of `log_readings` alone."""
    spent, _ = samples_spent(theta, frames)
    total = sum(
        stage * (mask[..., number] + mask[..., _AT_LEAST])
        for number, stage in enumerate(_each_stage(theta, frames, spent))
    )
    if mask[..., [_SAMPLES, _NOISE]].any():
        total = total + mask[..., _SAMPLES] * spent + mask[..., _NOISE] * _noise(theta, frames)
    return np.asarray(np.log(np.maximum(total, 1e-300)))


def _noise(theta: Floats, frames: Frames) -> Floats:
    """Return the noise of one sample as a picture shows it, median over the frame."""
    return np.asarray(np.exp(theta[..., NOISE] - theta[..., NOISE_SCALE] - np.exp(theta[..., FIREFLIES]) / frames.seen))


def log_readings(theta: Floats, frames: Frames, mask: Floats) -> tuple[Floats, Floats]:
    """Return the log of what some parts of a frame come to together, and its derivatives.

    Parameters
    ----------
    theta : (..., D) ndarray
    frames : Frames
        Of shape (...).
    mask : (..., 8) ndarray
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
    counted = mask[..., :_AT_LEAST].copy()
    counted[..., : len(STAGES)] += mask[..., _AT_LEAST:]
    each = np.concatenate([_stages(theta, frames, spent), other], axis=-1) * counted
    total = np.maximum(each.sum(axis=-1), 1e-300)
    jacobian = np.zeros((*total.shape, theta.shape[-1]))
    jacobian[..., PREPARE], jacobian[..., LIGHT] = each[..., _PREPARE], each[..., _LIGHT]
    saving = frames.saves * np.exp(theta[..., SAVE])
    jacobian[..., SAVE] = each[..., _WRITE] * saving / (saving + np.exp(theta[..., WRITE]))
    jacobian[..., WRITE] = each[..., _WRITE] - jacobian[..., SAVE]
    jacobian[..., KEPT_PREPARE] = each[..., _PREPARE] * frames.keeps_prepare
    jacobian[..., KEPT_LIGHT] = each[..., _LIGHT] * frames.keeps_light
    by_sample = _fill_trace(jacobian, theta, frames, each[..., _TRACE], spent)
    for at, slope in slopes.items():
        jacobian[..., at] = (by_sample + mask[..., _SAMPLES]) * slope
    jacobian[..., NOISE] += each[..., _NOISE]
    jacobian[..., NOISE_SCALE] = -each[..., _NOISE]
    jacobian[..., FIREFLIES] -= each[..., _NOISE] * np.exp(theta[..., FIREFLIES]) / frames.seen
    count = _denoisers(theta, frames)
    for number in range(count):
        jacobian[..., FIRST_DENOISER + number] = np.where(frames.denoiser == number, each[..., _DENOISE], 0.0)
    ways = FIRST_DENOISER + count + frames.switched.shape[-1]
    jacobian[..., FIRST_DENOISER + count : ways] = each[..., _TRACE, None] * frames.switched
    jacobian[..., ways:] = (each[..., _PREPARE] + each[..., _LIGHT] + each[..., _TRACE])[..., None] * frames.ways
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
