"""What many shots have in common, told from chance by how much of it there would be anyway. NumPy.

Of a thousand shots half a million pairs go together by chance, a little each, and all of that at once would move every
shot for nothing. What is kept are the few directions in which more shots go together than random ones do [1]_.

References
----------
.. [1] V. Marchenko, L. Pastur, "Distribution of eigenvalues for some sets of random matrices", Math. USSR Sbornik 1,
   1967: uncorrelated data have no eigenvalue above (1 + sqrt(S / N))^2 in the limit (from memory).
"""

import numpy as np

from pemlo.core.arrays import Floats

MOST_SHARE = 0.95  # of a shot's variance that it has in common with others


def in_common(levels: Floats) -> Floats:
    """Return the covariances of S shots as far as they have something in common, (S, S); positive definite.

    Parameters
    ----------
    levels : (N, S) ndarray
        Draws of what each costs, log.
    """
    count, shots = levels.shape
    off = levels - levels.mean(axis=0)
    sd = np.sqrt(np.maximum((off**2).sum(axis=0) / (count - 1), 1e-12))
    standard = off / sd / np.sqrt(count - 1)
    # The smaller of the two products has the same eigenvalues.
    sizes, rows = np.linalg.eigh(standard @ standard.T)
    kept = sizes > (1 + np.sqrt(shots / count)) ** 2
    loads = standard.T @ rows[:, kept] / np.sqrt(sizes[kept]) * np.sqrt(sizes[kept] - 1)
    share = (loads**2).sum(axis=1)
    loads *= np.sqrt(np.minimum(1.0, MOST_SHARE / np.maximum(share, 1e-12)))[:, None]
    related = loads @ loads.T
    np.fill_diagonal(related, 1.0)
    return np.asarray(related * np.outer(sd, sd))
