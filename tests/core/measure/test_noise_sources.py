import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from scipy.optimize import minimize

from pemlo.core.appraisal.sentences import split_words
from pemlo.core.measure.noise_sources import CHOICES, NoiseSource, cheapest_split, shares

variances = st.floats(0.001, 10)


@given(variances, variances, variances, st.floats(0.05, 1), st.floats(0.05, 1))
def test_near_neymans_allocation(rest, one, other, f, g):
    """Neyman 1934: rays in proportion to the root of variance over cost."""
    found = cheapest_split(rest, {"a": NoiseSource(one, f, 1), "b": NoiseSource(other, g, 1)})
    ideal = [np.sqrt(one / (f * rest)), np.sqrt(other / (g * rest))]

    def effort(rays):
        return (rest + one / rays[0] + other / rays[1]) * (1 + f * rays[0] + g * rays[1])

    best = minimize(lambda logs: effort(np.exp(logs)), np.log(np.clip(ideal, 1, 16)), bounds=[(0, np.log(16))] * 2).fun
    assert effort([found.rays["a"], found.rays["b"]]) < 1.12 * best
    assert found.time <= 1.0 + 1e-12
    assert set(found.rays.values()) <= set(CHOICES)


def test_a_case_worked_by_hand():
    """Shadows make three quarters of the noise at 2 rays: 4 rays take (1 + 3/2)(1 + 4) / ((1 + 3)(1 + 2)) as long."""
    source = {"shadow": NoiseSource(3.0, 1.0, 2)}
    assert shares(1.0, source) == {"shadow": 0.75, "rest": 0.25}
    found = cheapest_split(1.0, source)
    efforts = {m: (1 + 6 / m) * (1 + m) for m in CHOICES}
    assert found.rays["shadow"] == min(efforts, key=efforts.get)
    assert found.time == pytest.approx(min(efforts.values()) / efforts[2])


def test_split_words():
    assert (
        split_words(1.0, {"shadow": NoiseSource(0.9, 1.0, 1)}) == "Rays are shared out well: no other split saves 3 %."
    )
    assert "shadow 1 to" in split_words(0.05, {"shadow": NoiseSource(4.0, 1.0, 1)})
    assert shares(0.0, {}) == {"rest": 0.0}
