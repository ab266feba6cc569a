"""The fit's own least squares on the reference data sets of the NIST Statistical Reference Datasets.

Data and certified values of Norris (linear) and Misra1a (nonlinear): NIST StRD, from memory.
"""

import numpy as np
import pytest

from pemlo.core.cost.gauss_newton import Linear, damped_step, normal_equations

NORRIS = np.array([
    (0.1, 0.2), (338.8, 337.4), (118.1, 118.2), (888.0, 884.6), (9.2, 10.1), (228.1, 226.5), (668.5, 666.3),
    (998.5, 996.3), (449.1, 448.6), (778.9, 777.0), (559.2, 558.2), (0.3, 0.4), (0.1, 0.6), (778.1, 775.5),
    (668.8, 666.9), (339.3, 338.0), (448.9, 447.5), (10.8, 11.6), (557.7, 556.0), (228.3, 228.1), (998.0, 995.8),
    (888.8, 887.6), (119.6, 120.2), (0.3, 0.3), (0.6, 0.3), (557.6, 556.8), (339.3, 339.1), (888.0, 887.2),
    (998.5, 999.0), (778.9, 779.0), (10.2, 11.1), (117.6, 118.3), (228.9, 229.2), (668.4, 669.1), (449.2, 448.9),
    (0.2, 0.5),
])  # fmt: skip
NORRIS_B = (-0.262323073774029, 1.00211681802045)
NORRIS_SD = (0.232818234301152, 0.429796848199937e-3)
NORRIS_RESIDUAL_SD = 0.884796396144373

MISRA1A = np.array([
    (10.07, 77.6), (14.73, 114.9), (17.94, 141.1), (23.93, 190.8), (29.61, 239.9), (35.18, 289.0), (40.02, 332.8),
    (44.82, 378.4), (50.76, 434.8), (55.05, 477.3), (61.01, 536.8), (66.40, 593.1), (75.47, 689.1), (81.78, 760.0),
])  # fmt: skip
MISRA1A_B = (238.94212918, 5.5015643181e-4)
MISRA1A_SS = 0.12455138894


def solve(model, start, x, y, rounds):
    """Iterate as the fit does, for one problem without a prior."""
    theta = np.array([start], dtype=float)
    weight = np.eye(len(x))[None]
    for _ in range(rounds):
        value, jacobian = model(theta[0], x)
        normal = normal_equations(Linear((y - value)[None], jacobian[None]), theta, weight)
        wanted = np.linalg.solve(normal.precision, normal.information[..., None])[..., 0]
        theta = damped_step(lambda at: ((y - model(at[0], x)[0]) ** 2).sum()[None], theta, wanted)
    return theta[0], normal


def test_norris():
    y, x = NORRIS.T
    theta, normal = solve(lambda b, x: (b[0] + b[1] * x, np.column_stack([np.ones_like(x), x])), (0, 1), x, y, 2)
    assert theta == pytest.approx(NORRIS_B, rel=1e-9)
    residual_sd = np.sqrt(((y - theta[0] - theta[1] * x) ** 2).sum() / (len(x) - 2))
    assert residual_sd == pytest.approx(NORRIS_RESIDUAL_SD, rel=1e-9)
    deviations = residual_sd * np.sqrt(np.diag(np.linalg.inv(normal.precision[0])))
    assert deviations == pytest.approx(NORRIS_SD, rel=1e-9)


@pytest.mark.parametrize("start", [(500.0, 0.0001), (250.0, 0.0005)])
def test_misra1a_from_both_of_its_starts(start):
    y, x = MISRA1A.T

    def model(b, x):
        # In logarithms, as the fit has its parameters.
        first, second = np.exp(b)
        value = first * (1 - np.exp(-second * x))
        return value, np.column_stack([value, first * second * x * np.exp(-second * x)])

    theta, _ = solve(model, np.log(start), x, y, 60)
    assert np.exp(theta) == pytest.approx(MISRA1A_B, rel=1e-7)
    assert ((y - model(theta, x)[0]) ** 2).sum() == pytest.approx(MISRA1A_SS, rel=1e-8)


def test_a_step_that_makes_it_worse_is_shortened():
    cost = lambda at: (at[:, 0] - 1.0) ** 2  # noqa: E731
    stepped = damped_step(cost, np.array([[0.0]]), np.array([[8.0]]))
    assert cost(stepped)[0] <= cost(np.array([[0.0]]))[0] + 1e-9
