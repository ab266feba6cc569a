"""Pictures with known noise, from those that scikit-image ships."""

import numpy as np
from skimage import data, transform

from pemlo.core.pixels.curve import CODES, to_display, to_linear


def photograph(name="astronaut", size=None):
    """Return a photograph as scene-linear light, (H, W, 3)."""
    codes = np.asarray(getattr(data, name)())
    if codes.ndim == 2:
        codes = np.repeat(codes[..., None], 3, axis=2)
    shown = codes.astype(float) / 255
    if size:
        shown = transform.resize(shown, (size[1], size[0]), anti_aliasing=True)
    return to_linear(shown).astype(np.float32)


def codes_of(linear):
    return CODES * to_display(linear.astype(float))


def gaussian(linear, level, seed):
    """Return a noisy copy and the variance of its noise: about `level` codes on the display, more in the light."""
    sd = (level / 255 * 2.2 * np.maximum(linear, 0.01) ** 0.55).astype(np.float32)
    noise = np.random.default_rng(seed).standard_normal(linear.shape).astype(np.float32)
    return linear + sd * noise, sd**2


def poisson(linear, level, seed):
    """Return a copy as counted photons would make it, and the variance of its noise."""
    photons = 16000 / level**2  # in a pixel of white: about `level` codes in the middle of the scale
    mean = np.maximum(linear, 1e-4).astype(float)
    counted = np.random.default_rng(seed).poisson(mean * photons) / photons
    return counted.astype(np.float32), (mean / photons).astype(np.float32)


def true_grain(linear, make, level, times=12):
    """Return the root mean square over the picture of what a pixel's codes vary by, from many noisy copies."""
    total, squares = 0.0, 0.0
    for seed in range(1000, 1000 + times):
        codes = codes_of(make(linear, level, seed)[0])
        total, squares = total + codes, squares + codes**2
    variance = (squares - total**2 / times) / (times - 1)
    return float(np.sqrt(variance.mean()))
