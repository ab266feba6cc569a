"""Least squares by Gauss and Newton for many small problems at once. Pure NumPy; knows nothing of frames.

Held against the reference data sets of a standards body in tests/core/cost/test_gauss_newton.py.
"""

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np

from pemlo.core.arrays import Floats

LONGEST_STEP = 2.0
MOST_HALVINGS = 6


@dataclass(frozen=True)
class Linear:
    """B problems linearised at their parameters.

    Attributes
    ----------
    residual : (B, K) ndarray
        What was observed less what the model says; 0 in padding.
    jacobian : (B, K, D) ndarray
        Derivatives of the model; 0 in padding.
    """

    residual: Floats
    jacobian: Floats


@dataclass(frozen=True)
class Normal:
    """Normal equations: precision (B, D, D), information (B, D), and the weights (B, K, K) of the observations."""

    precision: Floats
    information: Floats
    weight: Floats


def normal_equations(linear: Linear, theta: Floats, weight: Floats) -> Normal:
    """Return the normal equations of problems linearised at `theta`, (B, D); their solution is the next `theta`.

    Parameters
    ----------
    linear : Linear
    theta : (B, D) ndarray
    weight : (B, K, K) ndarray
        Inverse covariance of the observations.

    References
    ----------
    .. [1] J. Nocedal and S. Wright, "Numerical Optimization", 2nd ed., Springer 2006, sec. 10.3.
    """
    pull = np.swapaxes(linear.jacobian, 1, 2) @ weight
    target = linear.residual + np.einsum("bkd,bd->bk", linear.jacobian, theta)
    return Normal(pull @ linear.jacobian, np.einsum("bdk,bk->bd", pull, target), weight)


def damped_step(cost: Callable[[Floats], Floats], theta: Floats, wanted: Floats) -> Floats:
    """Go from `theta` towards `wanted`, (B, D), half as far for each problem as often as the way makes it worse.

    Parameters
    ----------
    cost : callable
        From (B, D) to (B,).
    """
    step = np.clip(wanted - theta, -LONGEST_STEP, LONGEST_STEP)
    before = cost(theta)
    share = np.ones(len(theta))
    for _ in range(MOST_HALVINGS):
        worse = cost(theta + share[:, None] * step) > before + 1e-9
        if not worse.any():
            break
        share[worse] *= 0.5
    return np.asarray(theta + share[:, None] * step)


def quadratic(matrix: Floats, vector: Floats) -> Floats:
    """Return v' M v for stacks of matrices and vectors."""
    return np.asarray(np.einsum("bk,bkl,bl->b", vector, matrix, vector))
