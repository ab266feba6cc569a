"""What is known after a fit: frozen results that draws, forecasts and advice read. Pure NumPy."""

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Literal

import numpy as np
import numpy.typing as npt

from pemlo.core.arrays import Floats
from pemlo.core.cost.along import matern32
from pemlo.core.cost.observations import Observations
from pemlo.core.project.settings import CostFactors

DRAWS = 1000  # of what is known: chances are known to a thousandth


@dataclass(frozen=True)
class Spread:
    """How widely things vary in this film, learned from its trials.

    Attributes
    ----------
    shot_sd : (D,) ndarray
        How far shots depart from the film's mean, log.
    along_sd, along_length : float
        Log factor of cost along a shot, and its length scale in shares of the shot.
    repeat_sd : float
        Repeatability of a timed frame, log.
    """

    shot_sd: Floats
    along_sd: float
    along_length: float
    repeat_sd: float


@dataclass(frozen=True)
class Readings:
    """What a timed shot's K readings are to N draws of its parameters.

    Attributes
    ----------
    seen : Observations
        What was timed and measured.
    residual : (N, K) ndarray
        What was read less what the shot's typical frame has in each draw, log.
    chosen : (N,) ndarray of int
        Which choice of outliers each draw takes.
    weight : (Z, K, K) ndarray
        For each choice, inverse covariance of the readings given the parameters.
    outliers : (Z, K) ndarray
        For each choice, what share of each reading it calls wrong.
    inlier : (K,) ndarray
        Probability that a reading is no outlier.
    sound : float
        Probability that none of them is one; 1 where they are too many to weigh that.
    """

    seen: Observations
    residual: Floats
    chosen: npt.NDArray[np.intp]
    weight: Floats
    outliers: Floats
    inlier: Floats
    sound: float


@dataclass(frozen=True)
class ShotPosterior:
    """What is known of one shot.

    Attributes
    ----------
    best : (D,) ndarray
        Most probable parameters.
    theta : (N, D) ndarray
        Draws of the parameters.
    readings : Readings or None
        What was timed; None for a shot that never was.
    """

    best: Floats
    theta: Floats
    readings: Readings | None

    def shape(self, place: float | None = None) -> Floats | None:
        """Return how noise is spread over a frame at a place in the shot, or over all; (Q,), None if not measured."""
        if self.readings is None or self.readings.seen.shapes is None:
            return None
        return self.readings.seen.shapes.at(place)


@dataclass(frozen=True)
class Disagreement:
    """What is wrong with the trials of a shot.

    Attributes
    ----------
    shot : str
    kind : str
        "repeats": two trials of one frame and the same settings differ. "open": one or more are off, and it cannot be
        known which. "doubted": a third or more of them are off. "missed": they fit no cost that is known here.
        "unsettled": the fit did not come to rest. "asked": the one nearest to what is asked is far from what the
        others lead to.
    trials : tuple of int
        Those concerned, by their index in the project, worst first.
    factor : float
        By which the worst is off, or the two differ; 1 where that says nothing. Of "asked" what it took over what the
        others lead to, which may be below 1.
    """

    shot: str
    kind: Literal["repeats", "open", "doubted", "missed", "unsettled", "asked"]
    trials: tuple[int, ...]
    factor: float


@dataclass(frozen=True)
class AlongShot:
    """The log factor at L places in each draw.

    Attributes
    ----------
    mean : (N, L) ndarray
    chosen : (N,) ndarray of int
        Which of the covariances each draw has.
    covariance : (Z, L, L) ndarray
    """

    mean: Floats
    chosen: npt.NDArray[np.intp]
    covariance: Floats


@dataclass(frozen=True)
class Fit:
    """What is known of a film, as N draws.

    Attributes
    ----------
    cost_factors : CostFactors
        Denoisers and switches, in the order of their parameters.
    film : (N, D) ndarray
        Draws of the film's mean.
    spread : Spread
    shots : mapping of shot name to ShotPosterior
        Every shot of the film.
    timed_trials : int
        How many trials were read; those that are left out do not count.
    settled : bool
        Whether the search for the most probable parameters came to rest.
    disagreements : tuple of Disagreement
        What is wrong with the trials of shots; there is no verdict while there is any.
    """

    cost_factors: CostFactors
    film: Floats
    spread: Spread
    shots: Mapping[str, ShotPosterior]
    timed_trials: int
    settled: bool
    disagreements: tuple[Disagreement, ...] = ()

    @property
    def denoisers(self) -> tuple[str, ...]:
        """Ways of denoising whose cost is known."""
        return self.cost_factors.denoisers

    @property
    def known(self) -> bool:
        """Whether anything at all was timed."""
        return self.timed_trials > 0

    def along(self, shot: ShotPosterior, places: Floats, count: int | None = None) -> AlongShot:
        """Return the process along a shot at L places, for its first `count` draws (all unless given)."""
        return along_shot(shot, places, self.spread.along_sd, self.spread.along_length, count)


def along_shot(
    shot: ShotPosterior, places: Floats, along_sd: float, along_length: float, count: int | None = None
) -> AlongShot:
    """Return the process along a shot, of such a width and length; as `Fit.along`."""
    own = matern32(places, places, along_sd, along_length)
    draws = shot.theta[:count]
    if shot.readings is None:
        return AlongShot(np.zeros((len(draws), len(places))), np.zeros(len(draws), dtype=np.intp), own[None])
    seen = shot.readings.seen
    process = matern32(places, seen.place, along_sd, along_length) * seen.timed
    # One frame that was timed is one frame: nothing says that the others are cheaper, or dearer.
    one_frame = len(np.unique(seen.place[seen.timed])) == 1
    followed = along_sd**2 * np.broadcast_to(seen.timed, process.shape) if one_frame else process
    chosen = shot.readings.chosen[: len(draws)]
    used, again = np.unique(chosen, return_inverse=True)
    pull = process @ shot.readings.weight[used]
    towards = followed @ shot.readings.weight[used]
    mean = np.empty((len(draws), len(places)))
    for number in range(len(used)):
        rows = again == number
        mean[rows] = shot.readings.residual[: len(draws)][rows] @ towards[number].T
    return AlongShot(mean, again, own - pull @ process.T)
