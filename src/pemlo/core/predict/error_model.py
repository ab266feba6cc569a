"""What is known of how a frame looks, and from it the error with settings that were never rendered. Pure.

Known are the noise of one sample (from one picture with its variance), errors of denoised pictures, and what the
reference itself loses when it is made smaller.
"""

from collections import defaultdict
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from typing import Any

import numpy as np

from pemlo.core.errors import InputError
from pemlo.core.interval import Interval
from pemlo.core.pixels.display import Display, Srgb
from pemlo.core.pixels.resample import noise_gain
from pemlo.core.pixels.rescale import smaller_size
from pemlo.core.predict.denoisers import DenoiserLaw, MeasuredDenoising, denoiser_law
from pemlo.core.predict.flicker import FlickerModel, FlickerSource
from pemlo.core.predict.grain_curve import GrainCurve, Noise, adaptive_curve, grain_curve
from pemlo.core.predict.power_laws import together, widened
from pemlo.core.predict.scaling import ScalingCurve
from pemlo.core.predict.switches import VARIANCE_SD, Effect, others_than
from pemlo.core.project.settings import NO_DENOISE, FrameSettings

# Found on renders, see docs/method/model.md: edges fall otherwise on other pixels, and a denoiser softens smaller
# pictures by more or less (log).
_LOST_SD, _SMALLER_DENOISED_SD = 0.1, 0.1


@dataclass(frozen=True)
class Prediction:
    """An error that is expected, and its parts, display codes.

    Attributes
    ----------
    total : Interval
    grain, softening : Interval, optional
        None where they are not known apart.
    scaling : float
    switching : float
        Of switches and a split that the reference does not have, or has alone.
    flicker : Interval, optional
        What changes between neighbouring frames that should not, levels; see `core/measure/flicker.py`.
    flicker_source : str
        ``measured``, or ``assumed`` by the kind of denoiser.
    """

    total: Interval
    grain: Interval | None
    softening: Interval | None
    scaling: float
    switching: float = 0.0
    flicker: Interval | None = None
    flicker_source: FlickerSource = "measured"


@dataclass
class ErrorModel:
    """How one frame looks.

    Attributes
    ----------
    size : tuple of int
        Width and height at 100 %, px.
    noise : Noise
    scaling : ScalingCurve
    curve : GrainCurve
        With as many samples in every pixel.
    off : float
        By which factor the noise alone misses what was measured.
    laws : dict of str to DenoiserLaw
        By denoiser.
    display : Display
    switched : tuple of str
        What is on in the reference.
    effects : mapping of str to Effect
        What other switches do.
    flicker : FlickerModel
    """

    size: tuple[int, int]
    noise: Noise
    scaling: ScalingCurve
    curve: GrainCurve
    off: float
    laws: dict[str, DenoiserLaw]
    display: Display = field(default_factory=Srgb)
    switched: tuple[str, ...] = ()
    effects: Mapping[str, Effect] = field(default_factory=dict)
    flicker: FlickerModel = field(default_factory=FlickerModel)
    _adaptive: dict[tuple[int, int], GrainCurve] = field(default_factory=dict)

    def predict(self, settings: FrameSettings, mean_samples: float | None = None) -> Prediction:
        """Return the error against the reference that settings are expected to have.

        Parameters
        ----------
        settings : FrameSettings
        mean_samples : float, optional
            That a pixel takes on average; needed where a threshold decides. An array predicts for each of its numbers.

        Raises
        ------
        InputError
            If no picture with that denoiser or switch was measured, or what a threshold spends is not given.
        """
        others = self._others(settings)
        smaller = smaller_size(self.size, settings.resolution_percent)
        gain = noise_gain(smaller, self.size) if smaller != self.size else 1.0
        if mean_samples is None and settings.adaptive:
            raise InputError("What the noise threshold spends is not known.", "Time one such trial first.")
        samples: Any = float(settings.samples) if mean_samples is None else np.asarray(mean_samples, float)[()]
        for name, effect in others.items():
            samples = samples / (effect.variance if name in settings.switched else 1.0 / effect.variance)
        curve = self.curve_of(settings)
        if settings.denoise == NO_DENOISE:
            grain: Interval | None = curve.at(samples, gain)
            softening, own = None, curve.at(samples, gain)
        else:
            # A denoiser is given less noise where samples go by need: as much as so many everywhere would leave.
            equal = samples if curve is self.curve else self.curve.samples_for(curve.at(samples).middle)
            left = self._law(settings.denoise).at(equal, gain)
            grain, softening, own = left.residual, left.bias, left.total
        lost = self.scaling.at(settings.resolution_percent)
        total = together(own, Interval(lost * (1 - _LOST_SD), lost, lost * (1 + _LOST_SD))) if lost else own
        if lost and settings.denoise != NO_DENOISE:
            total = widened(total, _SMALLER_DENOISED_SD)
        for effect in others.values():
            total = widened(together(total, effect.bias), VARIANCE_SD / 2)
        bias = sum(effect.bias.middle**2 for effect in others.values()) ** 0.5
        flicker = self.flicker.at(settings.denoise, curve.at(samples), settings.resolution_percent)
        source = self.flicker.source(settings.denoise)
        return Prediction(total, grain, softening, lost, bias, flicker, source)

    def _others(self, settings: FrameSettings) -> dict[str, Effect]:
        """Return what those switches do that are not as in the reference."""
        names = others_than(settings.switched, self.switched)
        unknown = [name for name in names if name not in self.effects]
        if unknown:
            raise InputError(
                f"What “{unknown[0]}” does to the picture is not known.",
                "Render one trial with it and one without, of the same frame and samples.",
            )
        if settings.most_seconds is not None and settings.adaptive:
            raise InputError("Which pixels a threshold has served when its time is over is not known.")
        if names and settings.adaptive:
            raise InputError("What a threshold spends with another switch or split is not known.")
        return {name: self.effects[name] for name in names}

    def curve_of(self, settings: FrameSettings) -> GrainCurve:
        """Return how grain runs against mean samples, shared out as settings say."""
        if not settings.adaptive:
            return self.curve
        bounds = settings.least_samples, settings.samples
        if bounds not in self._adaptive:
            self._adaptive[bounds] = adaptive_curve(self.noise, self.display, *bounds).times(self.off)
        return self._adaptive[bounds]

    def _law(self, denoise: str) -> DenoiserLaw:
        if denoise not in self.laws:
            raise InputError(f"How a frame looks denoised with {denoise} is not known.", "Render one such trial first.")
        return self.laws[denoise]


@dataclass(frozen=True)
class MeasuredTrial:
    """A picture that was not denoised and was measured: how it was rendered, what it took, and its error."""

    settings: FrameSettings
    samples: float
    error: float


def make_error_model(
    size: tuple[int, int],
    noise: Noise,
    scaling: ScalingCurve,
    seen: MeasuredTrial | None = None,
    known: Sequence[MeasuredDenoising] = (),
    display: Display | None = None,
) -> ErrorModel:
    """Return how a frame looks.

    Parameters
    ----------
    size : tuple of int
        Width and height at 100 %, px.
    noise : Noise
        Of one sample.
    scaling : ScalingCurve
    seen : MeasuredTrial, optional
        A picture of the full size, through whose error the curve of grain goes.
    known : sequence of MeasuredDenoising
        Of denoised pictures of the full size.
    display : Display, optional
        sRGB unless given.
    """
    shown = display or Srgb()
    by_denoiser: dict[str, list[MeasuredDenoising]] = defaultdict(list)
    for measured_denoising in known:
        by_denoiser[measured_denoising.denoise].append(measured_denoising)
    fitted = {name: denoiser_law(of) for name, of in by_denoiser.items()}
    laws = {name: law for name, law in fitted.items() if law is not None}
    model = ErrorModel(size, noise, scaling, grain_curve(noise, shown), 1.0, laws, shown)
    if seen is None:
        return model
    off = model.curve_of(seen.settings).off(seen.error, seen.samples)
    return ErrorModel(size, noise, scaling, model.curve.times(off), off, laws, shown)
