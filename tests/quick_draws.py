"""Draws in half the sweeps, for tests that look at what a window or a command does with them: the draws are tested with the core."""

import math

import pytest

from pemlo.core.cost import chains


@pytest.fixture(autouse=True, scope="module")
def quick_draws(request):
    if getattr(request.module, "ALL_DRAWS", False):  # such a file holds draws against what is so
        yield
        return
    paces = chains.PACES
    chains.PACES = {math.inf: (200, 10, 2)}
    yield
    chains.PACES = paces
