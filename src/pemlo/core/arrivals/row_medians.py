"""The middle of what is known in each row of a table. NumPy."""

import numpy as np

from pemlo.core.arrays import Floats


def row_medians(windows: Floats) -> Floats:
    """Return the median of what is known in each row, (N,); NaN where nothing is, without a warning.

    Parameters
    ----------
    windows : (N, K) ndarray
        NaN where it is not known.
    """
    known = ~np.isnan(windows)
    ordered = np.sort(windows, axis=1)  # what is not known comes last
    count = known.sum(axis=1)
    row = np.arange(len(windows))
    middle = (
        ordered[row, np.maximum(count - 1, 0) // 2] + ordered[row, np.minimum(count // 2, windows.shape[1] - 1)]
    ) / 2
    return np.asarray(np.where(count > 0, middle, np.nan))
