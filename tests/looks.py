"""How made-up shots look, for tests of what is chosen."""

from dataclasses import replace

import numpy as np

from pemlo.core.interval import Interval
from pemlo.core.pixels.display import Srgb
from pemlo.core.predict.denoisers import MeasuredDenoising
from pemlo.core.predict.error_model import make_error_model
from pemlo.core.predict.grain_curve import noise_of
from pemlo.core.predict.scaling import ScalingCurve
from pemlo.core.predict.shot_appearance import ShotAppearance
from pemlo.core.predict.switches import Effect

SIZE = (96, 64)
GREY = 0.18


def look(sd=0.5, denoisers=("frame",), stepping=None, percent=100.0, splits=(), switches=None):
    """A grey frame of which one sample has a standard deviation, and what denoisers leave at 16 samples.

    Splits leave a quarter of the variance; switches add so many codes.
    """
    mean = np.full((SIZE[1], SIZE[0], 3), GREY, np.float32)
    noise = noise_of(mean, np.full_like(mean, sd**2 / 16), 16.0)
    scaling = ScalingCurve(np.array([10.0, 50.0, 100.0]), np.array([20.0, 6.0, 0.0]))
    known = [MeasuredDenoising(16, name, 5.0, 3.0, 4.0) for name in denoisers]
    effects = {name: Effect(0.25, Interval(0.0, 0.0, 0.0)) for name in splits}
    effects |= {name: Effect(1.0, Interval(bias, bias, bias)) for name, bias in (switches or {}).items()}
    found = replace(make_error_model(SIZE, noise, scaling, None, known, Srgb()), effects=effects)
    return ShotAppearance(10, percent, found, stepping or {})
