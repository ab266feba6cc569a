"""Draws from what is known: parameters and the course along each shot, the same for the same seed. Pure NumPy."""

from collections.abc import Mapping
from dataclasses import dataclass
from zlib import crc32

import numpy as np

from pemlo.core.cost.along import JITTER, knots, places
from pemlo.core.cost.frame_model import frame_seconds, frames_of
from pemlo.core.cost.posterior import Fit
from pemlo.core.cost.priors import Floats
from pemlo.core.plan.project import Project
from pemlo.core.plan.settings import FrameSettings

DRAWS = 1000


@dataclass(frozen=True)
class ShotDraws:
    """Draws of one shot.

    Attributes
    ----------
    theta : (N, D) ndarray
        Parameters.
    factor : (N,) ndarray
        Mean over the shot's frames of how much dearer they are than its typical frame.
    repeat : (N,) ndarray
        Standard normal, for the repeatability of what is timed.
    """

    theta: Floats
    factor: Floats
    repeat: Floats


FilmDraws = Mapping[str, ShotDraws]


def draw_film(fit: Fit, project: Project, seed: int = 0, count: int = DRAWS) -> FilmDraws:
    """Draw every shot of a film, their common uncertainty in common.

    Each shot has random numbers of its own, found from the seed and its name: adding or removing a shot leaves the
    draws of the others as they were.

    Parameters
    ----------
    fit : Fit
        Of this project.
    project : Project
    seed : int
        >= 0.
    count : int
        How many draws, N.
    """
    film = _film_draws(fit, seed, count)
    found = {}
    for shot in project.shots:
        random = _generator(seed, shot.name)
        posterior = fit.shots[shot.name]
        theta = _shot_theta(fit, shot.name, film, random)
        at, share = knots(shot.frame_count)
        along = fit.along(posterior, at)
        course = along.mean + (theta - posterior.theta) @ along.gain.T
        course += random.standard_normal((count, len(at))) @ _root(along.covariance).T
        found[shot.name] = ShotDraws(theta, np.exp(course) @ share, random.standard_normal(count))
    return found


def draw_frame(
    fit: Fit, project: Project, shot_name: str, frame: int, settings: FrameSettings, seed: int = 0, count: int = DRAWS
) -> Floats:
    """Draw the seconds that one frame would take on the reference machine, repeatability included.

    Returns
    -------
    (N,) ndarray
    """
    shot = project.shot(shot_name)
    random = _generator(seed, shot.name)
    theta = _shot_theta(fit, shot.name, _film_draws(fit, seed, count), random)
    posterior = fit.shots[shot.name]
    along = fit.along(posterior, places(np.array([float(frame)]), shot.first, shot.last))
    course = along.mean[0] + (theta - posterior.theta) @ along.gain[0]
    noise = np.sqrt(max(along.covariance[0, 0], 0.0) + fit.spread.repeat_sd**2) * random.standard_normal(count)
    wanted = frames_of([settings], [project.size_of(shot)], fit.denoisers)
    return np.asarray(frame_seconds(theta, wanted) * np.exp(course + noise))


def _film_draws(fit: Fit, seed: int, count: int) -> Floats:
    random = _generator(seed, "")
    return random.standard_normal((count, len(fit.film_mean))) @ _root(fit.film_covariance).T


def _shot_theta(fit: Fit, name: str, film: Floats, random: np.random.Generator) -> Floats:
    posterior = fit.shots[name]
    own = random.standard_normal(film.shape) @ _root(posterior.covariance).T
    return posterior.theta + film @ posterior.film_gain.T + own


def _generator(seed: int, name: str) -> np.random.Generator:
    return np.random.default_rng([seed, crc32(name.encode())])


def _root(covariance: Floats) -> Floats:
    """Return a square root of a covariance, which rounding may have left a little short of positive."""
    diagonal = np.diag(covariance)
    return np.linalg.cholesky(covariance + np.diag(JITTER * np.maximum(diagonal, 1e-12)))
