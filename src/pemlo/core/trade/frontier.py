"""Which of many options are worth looking at: those that no other beats in both hours and error. Pure NumPy."""

import numpy as np
import numpy.typing as npt

from pemlo.core.arrays import Floats


def frontier(hours: Floats, error: Floats) -> npt.NDArray[np.intp]:
    """Return the options that are not dominated, from the most expensive to the cheapest.

    One is dominated if another takes no more hours and errs no more, and is better in one of both. Of equal ones the
    first stays.

    Parameters
    ----------
    hours, error : (K,) ndarray
        NaN takes an option out.

    Examples
    --------
    >>> frontier(np.array([4.0, 2.0, 3.0, 1.0]), np.array([1.0, 2.0, 2.5, 9.0])).tolist()
    [0, 1, 3]
    """
    usable = np.flatnonzero(~np.isnan(hours) & ~np.isnan(error))
    order = usable[np.lexsort((usable, error[usable], hours[usable]))]
    least_before = np.minimum.accumulate(np.concatenate([[np.inf], error[order]]))[:-1]
    return np.asarray(order[error[order] < least_before][::-1], dtype=np.intp)
