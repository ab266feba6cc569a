"""The display curve of IEC 61966-2-1 (sRGB), both ways. Pure NumPy."""

import numpy as np
import numpy.typing as npt

_TOE, _TOE_CODE = 0.0031308, 0.04045
CODES = 255.0  # codes of an 8-bit display


def to_display(linear: npt.NDArray[np.floating]) -> npt.NDArray[np.floating]:
    """Return display values, 0 to 1, of scene-linear ones; what is outside 0 to 1 is clipped.

    References
    ----------
    .. [1] IEC 61966-2-1 (sRGB).

    Examples
    --------
    >>> np.round(to_display(np.array([0.0031308, 0.2140411, 2.0])), 4).tolist()
    [0.0404, 0.5, 1.0]
    """
    x = np.clip(linear, 0.0, 1.0)
    return np.asarray(np.where(x <= _TOE, 12.92 * x, 1.055 * np.maximum(x, _TOE) ** (1 / 2.4) - 0.055))


def to_linear(display: npt.NDArray[np.floating]) -> npt.NDArray[np.floating]:
    """Return scene-linear values of display values, both 0 to 1; not clipped.

    Examples
    --------
    >>> np.round(to_linear(np.array([0.04045, 0.5, 1.0])), 5).tolist()
    [0.00313, 0.21404, 1.0]
    """
    v = np.asarray(display)
    return np.asarray(np.where(v <= _TOE_CODE, v / 12.92, ((np.maximum(v, _TOE_CODE) + 0.055) / 1.055) ** 2.4))
