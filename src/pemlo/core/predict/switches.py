"""What a switch, or another sampling split, does to a picture: to the noise of a sample, and to what is seen. Pure.

Measured on one picture with it and one without, of the same frame.
"""

from dataclasses import dataclass

import numpy as np

from pemlo.core.interval import Interval
from pemlo.core.predict.grain_curve import GrainCurve

# Of the log of a sample's variance, where two pictures show it: their tails differ.
VARIANCE_SD = 0.1


@dataclass(frozen=True)
class Effect:
    """What switching does.

    Attributes
    ----------
    variance : float
        Of a sample with it, over that without.
    bias : Interval
        What is seen that is no noise, codes.
    """

    variance: float
    bias: Interval


@dataclass(frozen=True)
class MeasuredNoise:
    """What a picture that was not denoised shows: its samples a pixel, its grain and what is left beside, codes."""

    samples: float
    grain: float
    rest: Interval


def effect(on: MeasuredNoise, off: MeasuredNoise, curve: GrainCurve) -> Effect:
    """Return what switching does.

    Parameters
    ----------
    on, off : MeasuredNoise
        With it and without.
    curve : GrainCurve
        How grain runs without it.
    """
    # The curve goes through what was measured without, so that tails which both have fall out.
    level = curve.at(off.samples).middle / off.grain if off.grain > 0 else 1.0
    equal = curve.samples_for(on.grain * level) if on.grain > 0 else on.samples
    low, value, high = (
        float(np.sqrt(max(with_it**2 - off.rest.middle**2, 0.0)))
        for with_it in (on.rest.low, on.rest.middle, on.rest.high)
    )
    return Effect(on.samples / equal, Interval(low, value, high))


def others_than(switched: tuple[str, ...], reference: tuple[str, ...]) -> tuple[str, ...]:
    """Return what is switched otherwise than in the reference."""
    return tuple(sorted(set(switched) ^ set(reference)))
