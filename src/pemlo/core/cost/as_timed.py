"""What settings that were timed take by their own times, where the cost model says otherwise. Pure NumPy.

A model may refine what was measured, and never overrule it unsaid. Four times count for more than it: of a frame that
ran into its limit, which takes the limit and what it took beyond it; of another way of rendering, whose costs follow
the usual way's only nearly; the one nearest to what is asked, where the others make it look like a slip; and that of a
still, whose only frame was timed. There the draws are moved to the time; settings near by follow as far as they are
alike.
"""

from dataclasses import dataclass
from zlib import crc32

import numpy as np
import numpy.typing as npt

from pemlo.core.arrays import Floats
from pemlo.core.cost.frame_arrays import Frames
from pemlo.core.cost.frame_model import capped_mean, samples_spent
from pemlo.core.cost.observations import Observations
from pemlo.core.cost.posterior import Fit, Readings, ShotPosterior
from pemlo.core.cost.priors import DOUBTFUL

# Of ten times that are nearest to what is asked and look like slips, so many are none (common practice, no source).
TRUST = 0.8
ALIKE = 1.0  # settings whose logs lie this far apart follow each other to six tenths
LIMIT_SD = 0.01  # of the mean of frames that a limit ends, log
_APART = 8.0  # of what cannot be compared: it follows in nothing
_NUGGET = 1e-6


@dataclass(frozen=True)
class AsTimed:
    """Settings that were timed, A of them, and by how much their times depart from the model, log.

    Attributes
    ----------
    frames : Frames of shape (A,)
    off : (N, A) ndarray
        In each draw; 0 where the model is kept.
    """

    frames: Frames
    off: Floats

    def factor(self, frames: Frames, count: int | None = None) -> Floats:
        """Return by what the seconds of settings, shape (K,), are multiplied in each draw, (N, K)."""
        return np.asarray(np.exp(self.off[:count] @ self._shares(frames)))

    def _shares(self, frames: Frames) -> Floats:
        """Return how far settings follow each timed one, (A, K): all the way where they are the same (kriging)."""
        own = _alike(_apart(self.frames, self.frames))
        own[np.diag_indices_from(own)] += _NUGGET
        return np.asarray(np.linalg.solve(own, _alike(_apart(self.frames, frames))))


def as_timed(
    fit: Fit, name: str, cost_profile: Floats, share: Floats, seed: int = 0, *, still: bool = False
) -> AsTimed | None:
    """Return what the timed settings of a shot take by their own times; None where the model agrees with all.

    Parameters
    ----------
    fit : Fit
    name : str
        Of the shot.
    cost_profile : (N, L) ndarray
        How much more expensive than its typical frame those at L places of the shot are, in each draw.
    share : (L,) ndarray
        Of the shot's frames that each place stands for.
    seed : int
    still : bool
        Whether the shot has a single frame: what was timed of it is what is delivered.
    """
    posterior = fit.shots[name]
    readings = posterior.readings
    if readings is None:
        return None
    seen, groups = readings.seen, _groups(readings.seen)
    doubted = nearest_doubted(readings)
    limited = [bool(seen.bounds[group].any()) for group in groups]
    trusted = [doubted is not None and group[0] == doubted[0] for group in groups]
    other = [bool(seen.other_way[group].all()) for group in groups]
    if not any((*limited, *trusted, *other, still)):
        return None
    count = len(cost_profile)
    random = np.random.default_rng([seed, crc32(f"{name}/as timed".encode())])
    misses = _misses(fit, posterior, readings, count)
    off = np.zeros((count, len(groups)))
    for column, group in enumerate(groups):
        apart, sure = random.standard_normal(count), random.random(count) < TRUST
        if limited[column]:
            off[:, column] = _of_limit(posterior, seen, group, cost_profile, share) + LIMIT_SD * apart
        elif trusted[column]:
            off[:, column] = np.where(sure, _off(misses[:, group], fit.spread.repeat_sd, apart), 0.0)
        elif other[column] or still:
            off[:, column] = _off(misses[:, group], fit.spread.repeat_sd, apart - still * np.median(apart))
            if still:  # its one place is the one that was timed: what the course draws beside it is no more than noise
                mean = fit.along(posterior, seen.place[group[:1]], count).mean[:, 0]
                off[:, column] += mean - np.log(cost_profile[:, 0])
    return AsTimed(seen.frames[np.array([int(group[0]) for group in groups], dtype=np.intp)], off)


def _off(misses: Floats, repeat_sd: float, apart: Floats) -> Floats:
    """Return by how much draws are moved to times that miss them, (N, M), log: as well as times repeat."""
    return np.asarray(misses.mean(axis=1) + repeat_sd / np.sqrt(misses.shape[1]) * apart)


def _of_limit(
    posterior: ShotPosterior, seen: Observations, group: npt.NDArray[np.intp], cost_profile: Floats, share: Floats
) -> Floats:
    """Return by how much the mean frame under a limit departs from the model: all of them take it and a little more."""
    theta, frames = posterior.theta[: len(cost_profile), None, :], seen.frames[group[:1]]
    spent = np.array(np.broadcast_to(samples_spent(theta, frames)[0], (len(cost_profile), 1)))
    modelled, _ = capped_mean(theta, frames, cost_profile, share, spent)
    return np.asarray(np.log(np.exp(seen.value[group]).mean()) - np.log(modelled[:, 0]))


def _groups(seen: Observations) -> list[npt.NDArray[np.intp]]:
    """Return the readings of whole frames that say their time, put together by their settings; one reading a trial."""
    found: dict[tuple[object, ...], list[int]] = {}
    trials: set[int] = set()
    for number in np.flatnonzero(seen.whole & (seen.timed | seen.bounds)):
        if (trial := int(seen.trial[number])) not in trials:
            trials.add(trial)
            frames = seen.frames[number]
            key = tuple(np.asarray(getattr(frames, name)).tobytes() for name in _COMPARED)
            found.setdefault(key, []).append(int(number))
    return [np.array(group, dtype=np.intp) for group in found.values()]


_COMPARED = (
    *("pixels_mpx", "least", "most", "threshold", "denoiser", "keeps_prepare", "keeps_light", "cap", "saves"),
    *("switched", "ways"),
)


def nearest_doubted(readings: Readings) -> npt.NDArray[np.intp] | None:
    """Return the readings of the timed settings nearest to what is asked, where all of them look like slips."""
    seen = readings.seen
    timed = [group for group in _groups(seen) if not seen.bounds[group].any()]
    if len(timed) < 2 or not len(seen):
        return None
    asked = seen.asked[None]
    apart = [float(_apart(seen.frames[group[:1]], asked)[0, 0]) for group in timed]
    nearest = timed[int(np.argmin(apart))]
    inlier = [readings.inlier[seen.timed & (seen.trial == seen.trial[number])].min() for number in nearest]
    return nearest if max(inlier) < DOUBTFUL else None


def _misses(fit: Fit, posterior: ShotPosterior, readings: Readings, count: int) -> Floats:
    """Return by how much the whole frame of each reading departs from the model, log, (N, K)."""
    seen = readings.seen
    along = fit.along(posterior, seen.place, count).mean
    apart = readings.residual[:count] - along
    took = np.where(seen.timed, np.exp(seen.value), 0.0)
    same = (seen.trial[:, None] == seen.trial).astype(float)
    expected = (took / np.exp(np.where(seen.timed, apart, 0.0))) @ same
    misses = np.log(np.maximum(took @ same, 1e-300)) - np.log(np.maximum(expected, 1e-300))
    return np.asarray(misses)


def _apart(frames: Frames, other: Frames) -> Floats:
    """Return how far settings lie apart, (A, K), in logs of what makes a frame longer."""
    a, b = frames, other
    log_pixels = np.log(a.pixels_mpx)[:, None] - np.log(b.pixels_mpx)
    both_end = ~np.isnan(a.cap)[:, None] & ~np.isnan(b.cap)
    samples = np.where(both_end, 0.0, np.log(a.most)[:, None] - np.log(b.most))  # a limit ends both alike
    squares = log_pixels**2 + samples**2
    for name in ("threshold", "cap"):
        mine, theirs = getattr(a, name)[:, None], getattr(b, name)
        none = np.isnan(mine), np.isnan(theirs)
        step = np.log(np.where(none[0], 1.0, mine)) - np.log(np.where(none[1], 1.0, theirs))
        squares = squares + np.where(none[0] & none[1], 0.0, np.where(none[0] != none[1], _APART**2, step**2))
    for name in ("denoiser", "keeps_prepare", "keeps_light"):
        squares = squares + _APART**2 * (getattr(a, name)[:, None] != getattr(b, name))
    for name in ("switched", "ways"):
        squares = squares + _APART**2 * (getattr(a, name)[:, None] != getattr(b, name)).any(axis=-1)
    return np.asarray(np.sqrt(squares))


def _alike(apart: Floats) -> Floats:
    return np.asarray(np.exp(-0.5 * (apart / ALIKE) ** 2))
