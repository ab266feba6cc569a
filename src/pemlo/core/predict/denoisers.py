"""What a denoiser leaves, against samples: grain that stays and detail that goes, each by a law of its own. Pure.

Grain that stays (the residual) is known where a frame was rendered twice with other seeds; the rest of the error is
what the denoiser softens (its bias). Where no such twin was rendered there is one law, of the whole error.
"""

from collections.abc import Sequence
from dataclasses import dataclass

from pemlo.core.interval import Interval
from pemlo.core.predict.power_laws import Belief, PowerLaw, power_law, together

# Found on renders, see docs/method/model.md.
RESIDUAL, BIAS = Belief(0.34, 0.08), Belief(0.26, 0.11)


@dataclass(frozen=True)
class MeasuredDenoising:
    """What was measured of a denoised picture, display codes.

    Attributes
    ----------
    samples : float
        A pixel took on average.
    denoise : str
        Which denoiser.
    error : float
        Against the reference.
    residual, bias : float, optional
        Its grain, and what is left of the error without it; None without a twin, a bias of 0 where none is seen.
    """

    samples: float
    denoise: str
    error: float
    residual: float | None = None
    bias: float | None = None


@dataclass(frozen=True)
class DenoisedError:
    """What a denoiser leaves: the whole, and its parts where they are known apart."""

    total: Interval
    residual: Interval | None
    bias: Interval | None


@dataclass(frozen=True)
class DenoiserLaw:
    """How the error of one denoiser runs against samples.

    Attributes
    ----------
    total : PowerLaw
    residual, bias : PowerLaw, optional
        None where there was no twin to part them.
    """

    total: PowerLaw
    residual: PowerLaw | None
    bias: PowerLaw | None

    def at(self, samples: float, gain: float = 1.0) -> DenoisedError:
        """Return what so many samples leave; `gain` multiplies the variance of the noise (of fewer pixels)."""
        times = gain**0.5

        def of(law: PowerLaw | None) -> Interval | None:
            interval = None if law is None else law.at(samples)
            return (
                None
                if interval is None
                else Interval(interval.low * times, interval.middle * times, interval.high * times)
            )

        residual, bias, total = of(self.residual), of(self.bias), of(self.total)
        assert total is not None
        if residual is not None and bias is not None:
            total = together(residual, bias)
        return DenoisedError(total, residual, bias)


def denoiser_law(known: Sequence[MeasuredDenoising]) -> DenoiserLaw | None:
    """Fit the laws of one denoiser; None if nothing was measured of it."""
    total = power_law(
        [measured_denoising.samples for measured_denoising in known],
        [measured_denoising.error for measured_denoising in known],
    )
    if total is None:
        return None
    twins = [
        measured_denoising for measured_denoising in known if measured_denoising.residual and measured_denoising.bias
    ]
    samples = [measured_denoising.samples for measured_denoising in twins]
    residual = power_law(samples, [measured_denoising.residual or 0.0 for measured_denoising in twins], RESIDUAL)
    bias = power_law(samples, [measured_denoising.bias or 0.0 for measured_denoising in twins], BIAS)
    return DenoiserLaw(total, residual, bias)
