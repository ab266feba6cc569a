"""The mean over a shot's frames of tracing that ends when its seconds are over. Compiled; lets go of Python's lock."""

import numpy as np

from pemlo.core.arrays import Floats
from pemlo.core.compiler import numba


@numba.njit(cache=True, nogil=True, error_model="numpy")  # as NumPy divides by zero
def capped_trace(
    each: Floats, pixel: Floats, sample: Floats, wanted: Floats, cap: Floats, cost_profile: Floats, share: Floats
) -> tuple[Floats, Floats]:
    """Return mean seconds of tracing, and the samples that would leave the same noise, squared, in every frame.

    Parameters
    ----------
    each : (N, K) ndarray
        By what the seconds of one pixel are multiplied to trace all.
    pixel, sample : (N, K) ndarray
        Seconds of a pixel, and of a sample.
    wanted : (N, K) ndarray
        Samples a pixel without the cap.
    cap : (K,) ndarray
        Seconds.
    cost_profile : (N, L) ndarray
        How much more expensive than the typical frame those at L places of the shot are.
    share : (L,) ndarray
        Of the shot's frames that each place stands for.

    Returns
    -------
    seconds, spent : (N, K) ndarray
    """
    seconds, spent = np.zeros_like(each), np.zeros_like(each)
    for n in range(each.shape[0]):
        for k in range(each.shape[1]):
            noise = 0.0
            for place in range(len(share)):
                here = each[n, k] * cost_profile[n, place]
                samples = (cap[k] / here - pixel[n, k]) / sample[n, k]
                # Whatever is asked, each pixel takes a sample.
                samples = min(max(samples, min(1.0, wanted[n, k])), wanted[n, k])
                seconds[n, k] += share[place] * here * (pixel[n, k] + sample[n, k] * samples)
                noise += share[place] / samples
            spent[n, k] = 1.0 / noise
    return seconds, spent
