"""Predicts flicker, and says how much of it passes. Pure.

Plain grain is independent from pixel to pixel: of a block of n pixels a share of 1 / √n stays. A denoiser averages
near pixels, which changes the mean of a block little: it takes the grain that nobody sees in motion, and leaves most
of what boils. One that looks at other frames averages over these, too.
"""

from collections import defaultdict
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from typing import Literal

import numpy as np

from pemlo.core.interval import Interval
from pemlo.core.measure.flicker import BLOCK
from pemlo.core.predict.power_laws import around
from pemlo.core.project.settings import LOOKS_AROUND, NO_DENOISE

FlickerSource = Literal["measured", "assumed"]
# Half a level of an 8-bit display: near the contrast of a hundredth that is just seen in mid grey (from memory).
JUST_SEEN = 0.5
# What denoising leaves of a block's noise, of a frame alone and with its neighbours: found on renders, see
# docs/method/model.md.
FRAME_ALONE, WITH_NEIGHBOURS = 0.75, 0.4
_ASSUMED_SD, _MEASURED_SD, _GRAIN_SD = 0.2, 0.15, 0.05  # log


def assumed_share(denoise: str) -> Interval:
    """Return which share of the flicker of plain grain a denoiser leaves that nobody measured.

    Examples
    --------
    >>> [f"{assumed_share(name).middle:.2f}" for name in ("frame", "neighbours 4 1")]
    ['0.75', '0.40']
    """
    if denoise == NO_DENOISE:
        return around(0.0, _GRAIN_SD)
    share = WITH_NEIGHBOURS if denoise.startswith(LOOKS_AROUND) else FRAME_ALONE
    return around(np.log(share), _ASSUMED_SD)


@dataclass(frozen=True)
class FlickerModel:
    """How much each way of denoising flickers.

    Attributes
    ----------
    shares : mapping of str to Interval
        Of the flicker of plain grain, by denoiser, measured.
    """

    shares: Mapping[str, Interval] = field(default_factory=dict)

    def source(self, denoise: str) -> FlickerSource:
        """Return whether the flicker of a denoiser was measured."""
        return "measured" if denoise in self.shares or denoise == NO_DENOISE else "assumed"

    def at(self, denoise: str, grain: Interval, percent: float) -> Interval:
        """Return the flicker of settings, levels.

        Parameters
        ----------
        denoise : str
        grain : Interval
            Of the undenoised pixels as they are rendered, levels.
        percent : float
            Of the size: a block of the delivered picture holds fewer pixels of a smaller one.
        """
        share = self.shares.get(denoise) or assumed_share(denoise)
        block = BLOCK * percent / 100
        return Interval(*(g * s / block for g, s in zip(grain, share, strict=True)))


@dataclass(frozen=True)
class MeasuredFlicker:
    """Flicker that was measured of a denoised picture, levels, and what plain grain of its samples would have."""

    denoise: str
    flicker: float
    plain: float


def flicker_model(measured: Sequence[MeasuredFlicker]) -> FlickerModel:
    """Return how much denoisers flicker that were measured: the geometric mean of what each left of plain grain."""
    by_denoiser: dict[str, list[float]] = defaultdict(list)
    for measured_flicker in measured:
        if measured_flicker.flicker > 0 and measured_flicker.plain > 0:
            by_denoiser[measured_flicker.denoise].append(
                float(np.log(measured_flicker.flicker / measured_flicker.plain))
            )
    return FlickerModel(
        {name: around(float(np.mean(logs)), _MEASURED_SD / len(logs) ** 0.5) for name, logs in by_denoiser.items()}
    )


def flicker_limit(error_limit: float, passed: Sequence[float] = ()) -> float:
    """Return the most flicker that passes, levels.

    What is hardly seen passes; so does what plain grain at the limit of the error has, which is accepted in motion as
    it is; and what settings have that were asked for or marked good enough.
    """
    grain = 0.0 if np.isnan(error_limit) else error_limit / BLOCK
    return float(np.nanmax([JUST_SEEN, grain, *passed]))
