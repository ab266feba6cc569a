"""How many samples adaptive sampling spends. Pure; scipy's normal distribution only."""

import numpy as np
import numpy.typing as npt

from pemlo.core.arrays import Floats

_WIDEST = 8.0
_NEWTON_STEPS = 5
_LEAST_SLOPE = 0.1
_CLOSE = 1e-6  # a step so small leaves an error of its square


def mean_samples(
    log_noise: Floats, log_spread: Floats, threshold: Floats, least: Floats, most: Floats
) -> tuple[Floats, Floats, Floats]:
    """Return the mean samples per pixel that a noise threshold spends, where noise is log-normal over the frame.

    A pixel of single-sample noise s (in the renderer's threshold scale) takes ``clamp((s / threshold)^2, least, most)``
    samples. With s log-normal, the mean over the frame is that of a clamped log-normal, in closed form.

    Parameters
    ----------
    log_noise : ndarray
        Log of the median of s, same scale as `threshold`.
    log_spread : ndarray
        Log of the standard deviation of log s.
    threshold, least, most : ndarray
        The settings; all > 0, least <= most. All arguments broadcast.

    Returns
    -------
    mean, by_noise, by_spread : ndarray
        Samples per pixel, between least and most, and its derivatives by the first two arguments.

    References
    ----------
    .. [1] Moments of the truncated log-normal: N. Johnson, S. Kotz, N. Balakrishnan, "Continuous Univariate
       Distributions", vol. 1, 2nd ed., Wiley 1994, ch. 14 (from memory).
    """
    from scipy.special import ndtr  # noqa: PLC0415 - heavy to load, and the window comes up first

    spread = np.minimum(2.0 * np.exp(log_spread), _WIDEST)
    log_least, log_most = np.log(least), np.log(most)
    centre = 2.0 * (log_noise - np.log(threshold))
    # Far outside the clamp the answer no longer changes: the limit keeps the exponentials finite.
    centre = np.clip(centre, log_least - 12 * spread - spread**2, log_most + 12 * spread + spread**2)
    low, high = (log_least - centre) / spread, (log_most - centre) / spread
    scale = np.exp(centre + spread**2 / 2)
    inside = scale * (ndtr(high - spread) - ndtr(low - spread))
    mean = least * ndtr(low) + most * ndtr(-high) + inside
    slope = scale * (_density(high - spread) - _density(low - spread))
    by_spread = np.where(spread < _WIDEST, (spread * inside - slope) * spread, 0.0)
    return np.clip(mean, least, most), 2.0 * inside, by_spread


def _solve(
    found: Floats, wanted: Floats, missed: Floats, limits: tuple[Floats, Floats], open_: npt.NDArray[np.bool_]
) -> None:
    """Put into `found` the largest x with ``x = wanted - missed exp(-x)`` where that is open, about within limits.

    Newton's rule from above on a convex function: it never jumps over the root. Few go on for long, so those that are
    there already are left out of the next step.
    """
    here = np.flatnonzero(open_)
    aim, lost, low, high = (
        np.broadcast_to(values, open_.shape).reshape(-1)[here] for values in (wanted, missed, *limits)
    )
    high = high + 1.0
    flat, at = found.reshape(-1), np.clip(aim, low, high)
    for _ in range(_NEWTON_STEPS):
        part = lost * np.exp(-at)
        then = np.clip(at - (at - aim + part) / np.maximum(1.0 - part, _LEAST_SLOPE), low, high)
        flat[here] = then
        goes_on = np.abs(then - at) >= _CLOSE
        here, at, aim, lost = here[goes_on], then[goes_on], aim[goes_on], lost[goes_on]
        low, high = low[goes_on], high[goes_on]
        if not len(here):
            break


def mean_samples_of_shape(
    log_noise: Floats, fireflies: Floats, shape: Floats, threshold: Floats, least: Floats, most: Floats
) -> tuple[Floats, Floats, Floats]:
    """Return the mean samples per pixel that a noise threshold spends, where it is known how noise is spread.

    A renderer judges by the noise that it has seen so far, and few samples miss what shines rarely: after n samples
    noise seems less by a factor ``exp(-c / n)``. A pixel stops at the first n from `least` on that seems enough,
    ``n = (s exp(-c / n) / threshold)^2``. The form was found by measurement, see docs/method/model.md.

    Parameters
    ----------
    log_noise : (...) ndarray
        Log of the median of single-sample noise s, same scale as `threshold`.
    fireflies : (...) ndarray
        Log of c, samples.
    shape : (..., 2, Q) ndarray
        Of each share of the frame: log of its measured noise over the median share's; and one over the samples that
        measured it, minus the median share's. The fewer samples measured a share, the more of its noise they missed.
    threshold, least, most : (...) ndarray
        The settings; all > 0, least <= most.

    Returns
    -------
    mean, by_noise, by_fireflies : (...) ndarray
        Samples per pixel, and derivatives by `log_noise` and `fireflies`.
    """
    missed = 2.0 * np.exp(fireflies)[..., None]
    unseen = missed * shape[..., 1, :]
    wanted = 2.0 * (np.asarray(log_noise - np.log(threshold))[..., None] + shape[..., 0, :]) + unseen
    low, high = np.log(least)[..., None], np.log(most)[..., None]
    stops_at_once = low >= wanted - missed * np.exp(-low)
    never_stops = high < wanted - missed * np.exp(-high)
    log_taken = np.where(stops_at_once, low, np.broadcast_to(high, wanted.shape))
    _solve(log_taken, wanted, missed, (low, high), ~(stops_at_once | never_stops))
    free = ~(stops_at_once | never_stops) & (log_taken > low) & (log_taken < high)
    taken = np.exp(np.clip(log_taken, low, high))
    steep = np.where(free, 1.0 / np.maximum(1.0 - missed / taken, _LEAST_SLOPE), 0.0)
    return taken.mean(axis=-1), (2.0 * taken * steep).mean(axis=-1), ((unseen * taken - missed) * steep).mean(axis=-1)


def _density(value: Floats) -> Floats:
    return np.asarray(np.exp(-0.5 * value**2) / np.sqrt(2 * np.pi))
