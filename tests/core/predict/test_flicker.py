"""How much settings flicker, and how much of it passes."""

import numpy as np
import pytest

from pemlo.core.interval import Interval
from pemlo.core.predict.flicker import FlickerModel, MeasuredFlicker, flicker_limit, flicker_model

GRAIN = Interval(3.8, 4.0, 4.2)


def test_plain_grain_at_full_and_at_half_the_size():
    """By hand: 4 levels over blocks of 64 px are 0.5; at half the size a block holds 16 rendered px: 1.0."""
    model = FlickerModel()
    assert model.at("none", GRAIN, 100.0).middle == pytest.approx(0.5)
    assert model.at("none", GRAIN, 50.0).middle == pytest.approx(1.0)


def test_a_denoiser_that_was_measured_flickers_as_it_did_and_others_as_their_kind():
    model = flicker_model([MeasuredFlicker("frame", 0.9, 1.0), MeasuredFlicker("frame", 0.4, 1.0)])
    assert model.at("frame", GRAIN, 100.0).middle == pytest.approx(0.6 * 0.5)  # the geometric mean of both
    assert model.source("frame") == "measured"
    assert model.source("neighbours 4 1") == "assumed"
    alone, around = (model.at(name, GRAIN, 100.0) for name in ("strong", "neighbours 4 1"))
    assert around.middle < alone.middle < 0.5
    measured = model.at("frame", GRAIN, 100.0)
    assert alone.high / alone.low > measured.high / measured.low  # less is known of what nobody measured


def test_what_passes():
    """By hand: grain of 6 levels passes, so 0.75 passes; hardly seen passes; what was asked for passes."""
    assert flicker_limit(6.0) == pytest.approx(0.75)
    assert flicker_limit(2.0) == 0.5
    assert flicker_limit(float("nan")) == 0.5
    assert flicker_limit(2.0, [1.4, np.nan]) == 1.4
