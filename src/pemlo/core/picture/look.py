"""What is known of how a frame looks, and from it the error with settings that were never rendered. Pure.

Known are a grain curve (from one picture with its variance), errors of denoised pictures, and the reference itself, on
which it is measured what rendering smaller loses.
"""

from collections import defaultdict
from collections.abc import Sequence
from dataclasses import dataclass, field

import numpy as np

from pemlo.core.errors import InputError
from pemlo.core.picture.display import Display, Srgb
from pemlo.core.picture.estimate import Estimate
from pemlo.core.picture.laws import GrainCurve, PowerLaw, power_law, together
from pemlo.core.picture.resample import noise_gain
from pemlo.core.picture.scaling import kept_of_noise, there_and_back
from pemlo.core.picture.source import Source, read_whole
from pemlo.core.plan.settings import NO_DENOISE


@dataclass(frozen=True)
class Known:
    """An error that was measured of a denoised picture: with how many samples, and which denoiser."""

    samples: float
    denoise: str
    error: float


@dataclass
class Look:
    """How one frame looks.

    Attributes
    ----------
    reference : Source
    curve : GrainCurve
    laws : dict of str to PowerLaw
        By denoiser.
    display : Display
    """

    reference: Source
    curve: GrainCurve
    laws: dict[str, PowerLaw]
    display: Display = field(default_factory=Srgb)
    _lost: dict[tuple[int, int], float] = field(default_factory=dict)

    def foretell(self, samples: float, denoise: str = NO_DENOISE, resolution_percent: float = 100.0) -> Estimate:
        """Return the error against the reference that a setting is expected to have.

        Parameters
        ----------
        samples : float
            That a pixel takes on average.
        denoise : str
        resolution_percent : float
            Of each side; the picture is brought to the reference's size.

        Raises
        ------
        InputError
            If no picture with that denoiser was measured.
        """
        size = self.reference.size
        smaller = tuple(max(1, round(side * resolution_percent / 100)) for side in size)
        gain = noise_gain((smaller[0], smaller[1]), size) if smaller != size else 1.0
        if denoise == NO_DENOISE:
            own = self.curve.at(samples, gain)
        elif denoise in self.laws:
            found = self.laws[denoise].at(samples)
            times = gain**0.5
            own = Estimate(found.value * times, found.low * times, found.high * times)
        else:
            raise InputError(f"How a frame looks denoised with {denoise} is not known.", "Render one such trial first.")
        lost = self.lost_by_size((smaller[0], smaller[1]))
        return together(own, Estimate(lost, lost * (1 - _LOST_SD), lost * (1 + _LOST_SD))) if lost else own

    def lost_by_size(self, smaller: tuple[int, int]) -> float:
        """Return what rendering at a smaller size loses, display codes."""
        size = self.reference.size
        if smaller[0] >= size[0]:
            return 0.0
        if smaller not in self._lost:
            rows = read_whole(self.reference)
            back = read_whole(there_and_back(self.reference, smaller, size)).colour
            wanted = self.display.codes(rows.colour)
            square = float(np.mean((self.display.codes(back) - wanted) ** 2, dtype=np.float64))
            if rows.variance is not None:
                noise = self.display.spread(rows.colour, rows.variance)[0]
                square -= kept_of_noise(smaller, size) * float(np.mean(noise, dtype=np.float64))
            self._lost[smaller] = float(np.sqrt(max(square, 0.0)))
        return self._lost[smaller]


_LOST_SD = 0.1  # edges fall otherwise on other pixels (found on renders; see docs/method.md)


def make_look(reference: Source, curve: GrainCurve, known: Sequence[Known], display: Display | None = None) -> Look:
    """Return how a frame looks, from its reference, its grain curve, and errors of denoised pictures."""
    by_denoiser: dict[str, list[Known]] = defaultdict(list)
    for one in known:
        by_denoiser[one.denoise].append(one)
    fitted = {
        name: power_law([one.samples for one in of], [one.error for one in of]) for name, of in by_denoiser.items()
    }
    laws = {name: law for name, law in fitted.items() if law is not None}
    return Look(reference, curve, laws, display or Srgb())
