"""Every test here is checked for what it leaves behind."""

import math

import pytest

from left_behind import nothing_left_behind
from pemlo.core.cost import chains

__all__ = ["nothing_left_behind"]


@pytest.fixture(autouse=True, scope="session")
def quick_draws():
    """Draw what is known in half the sweeps: the draws themselves are tested with the core."""
    paces = chains.PACES
    chains.PACES = {math.inf: (200, 10, 2)}
    yield
    chains.PACES = paces
