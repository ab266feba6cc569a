"""What is known after a fit: frozen results that draws, forecasts and advice read. Pure NumPy."""

from collections.abc import Mapping
from dataclasses import dataclass

import numpy as np

from pemlo.core.arrays import Floats
from pemlo.core.cost.along import matern32
from pemlo.core.cost.observations import Observations
from pemlo.core.plan.settings import Ways


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
class ShotPosterior:
    """What is known of one shot. K readings, D parameters; K is 0 for a shot that was never timed.

    Attributes
    ----------
    theta : (D,) ndarray
        Most probable parameters.
    covariance : (D, D) ndarray
        Of the parameters if the film's mean were known.
    film_gain : (D, D) ndarray
        How the parameters follow the film's mean.
    readings : Observations or None
        What was timed; None for a shot that never was.
    jacobian : (K, D) ndarray
    residual : (K,) ndarray
        What was read less what the shot's typical frame has, log.
    weight : (K, K) ndarray
        Inverse covariance of the readings given the parameters.
    sound : (K,) ndarray
        Probability that a reading is no gross error.
    """

    theta: Floats
    covariance: Floats
    film_gain: Floats
    readings: Observations | None
    jacobian: Floats
    residual: Floats
    weight: Floats
    sound: Floats

    def shape(self, place: float | None = None) -> Floats | None:
        """Return how noise is spread over a frame at a place in the shot, or over all; (Q,), None if not measured."""
        if self.readings is None or self.readings.shapes is None:
            return None
        return self.readings.shapes.at(place)

    def across(self, places: Floats, spread: Spread) -> Floats:
        """Return the covariance of the course along the shot at L places with the K readings, (L, K)."""
        assert self.readings is not None
        process = matern32(places, self.readings.place, spread.along_sd, spread.along_length)
        return np.asarray(process * self.readings.timed)


@dataclass(frozen=True)
class AlongShot:
    """The log factor at L places given the parameters: mean + gain (theta - theta_best), with covariance.

    Attributes
    ----------
    mean : (L,) ndarray
    gain : (L, D) ndarray
    covariance : (L, L) ndarray
    """

    mean: Floats
    gain: Floats
    covariance: Floats


@dataclass(frozen=True)
class Fit:
    """What is known of a film.

    Attributes
    ----------
    ways : Ways
        Denoisers and switches, in the order of their parameters.
    film_mean : (D,) ndarray
    film_covariance : (D, D) ndarray
    spread : Spread
    shots : mapping of shot name to ShotPosterior
        Every shot of the film.
    timed_trials : int
        How many trials were read; those that are left out do not count.
    """

    ways: Ways
    film_mean: Floats
    film_covariance: Floats
    spread: Spread
    shots: Mapping[str, ShotPosterior]
    timed_trials: int

    @property
    def denoisers(self) -> tuple[str, ...]:
        """Ways of denoising whose cost is known."""
        return self.ways.denoisers

    @property
    def known(self) -> bool:
        """Whether anything at all was timed."""
        return self.timed_trials > 0

    def along(self, shot: ShotPosterior, places: Floats) -> AlongShot:
        """Return the process along a shot at some places, given its parameters."""
        own = matern32(places, places, self.spread.along_sd, self.spread.along_length)
        if shot.readings is None:
            return AlongShot(np.zeros(len(places)), np.zeros((len(places), len(shot.theta))), own)
        across = shot.across(places, self.spread)
        pull = across @ shot.weight
        return AlongShot(pull @ shot.residual, -pull @ shot.jacobian, own - pull @ across.T)
