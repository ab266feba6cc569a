"""The one constant of normal intervals, held against SciPy."""

import pytest
from scipy.stats import norm

from pemlo.core.interval import NINETY


def test_ninety_per_cent_of_a_normal_distribution_lie_within_its_half_width():
    assert pytest.approx(norm.ppf(0.95), rel=1e-15) == NINETY
