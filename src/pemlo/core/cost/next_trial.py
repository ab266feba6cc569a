"""Which trial to run next: the one that takes most from the uncertainty of the film's hours for each minute it costs.

Everything is read from a fit in its linear model; nothing is rendered. Pure NumPy.

References
----------
.. [1] The linear-Gaussian update: C. Rasmussen and C. Williams, "Gaussian Processes for Machine Learning", MIT Press
   2006, eq. 2.23-2.24. Choosing by variance removed: D. MacKay, "Information-based objective functions for active data
   selection", Neural Computation 4, 1992.
"""

from collections.abc import Collection
from dataclasses import dataclass

import numpy as np

from pemlo.core.cost.along import knots, places
from pemlo.core.cost.frame_model import frames_of, log_seconds
from pemlo.core.cost.posterior import AlongShot, Fit, ShotPosterior
from pemlo.core.cost.priors import Floats
from pemlo.core.plan.project import Project
from pemlo.core.plan.settings import NO_DENOISE, FrameSettings
from pemlo.core.plan.shots import Shot
from pemlo.core.units import HOUR_S, MINUTE_S

# Somebody starts a trial and notes its time. Common practice, no source.
ATTENDANCE_S = 30.0
FRAME_PLACES = 9
SAMPLE_SHARES = (1.0, 0.5, 0.25, 0.0625)
THRESHOLD_FACTORS = (1.0, 1.5, 2.5, 5.0)
RESOLUTION_SHARES = (1.0, 0.5, 0.25)


@dataclass(frozen=True)
class Advice:
    """A trial worth running, and what it would tell.

    Attributes
    ----------
    shot, frame, settings
        What to render.
    seconds : float
        What it should take on the reference machine.
    hours_sd, hours_sd_after : float
        Standard deviation of the film's machine-hours now, and once this time is known.
    variance_per_minute : float
        Machine-hours squared removed for each minute that it costs.
    """

    shot: str
    frame: int
    settings: FrameSettings
    seconds: float
    hours_sd: float
    hours_sd_after: float
    variance_per_minute: float


@dataclass(frozen=True)
class _Total:
    """The log of a shot's hours in the linear model: its slopes, and its own and the film's part of them."""

    hours: float
    by_theta: Floats
    share: Floats
    film: Floats


def advise(
    fit: Fit, project: Project, shots: Collection[str] | None = None, most_seconds: float = np.inf
) -> tuple[Advice, ...]:
    """Return the best next trial of each shot, the most telling one of the film first.

    Parameters
    ----------
    fit : Fit
        Of this project.
    project : Project
    shots : collection of str, optional
        Only these shots; all if not given.
    most_seconds : float
        No trial that should take longer.

    Returns
    -------
    tuple of Advice
        At most one a shot, and none for shots where nothing is affordable. If nothing was ever timed, how long a trial
        takes is not known, and they come in the order of the film at the settings of the plan.
    """
    totals = {shot.name: _total(fit, project, shot) for shot in project.shots}
    film = np.sum([total.film for total in totals.values()], axis=0) if totals else np.zeros(len(fit.film_mean))
    variance = _film_variance(fit, project, totals, film)
    wanted = [shot for shot in project.shots if shots is None or shot.name in shots]
    found = [
        best
        for shot in wanted
        if (best := _best_of_shot(fit, project, shot, totals[shot.name], film, variance, most_seconds)) is not None
    ]
    return tuple(sorted(found, key=lambda advice: -advice.variance_per_minute)) if fit.known else tuple(found)


def _total(fit: Fit, project: Project, shot: Shot) -> _Total:
    posterior = fit.shots[shot.name]
    frames = frames_of([shot.settings], [project.size_of(shot)], fit.denoisers)
    value, jacobian = log_seconds(posterior.theta[None, :], frames)
    at, share = knots(shot.frame_count)
    along = fit.along(posterior, at)
    weight = share * np.exp(along.mean)
    hours = shot.rendered_count(shot.settings) * float(np.exp(value[0]) * weight.sum()) / HOUR_S
    by_theta = jacobian[0] + along.gain.T @ (weight / weight.sum())
    return _Total(hours, by_theta, weight / weight.sum(), hours * posterior.film_gain.T @ by_theta)


def _film_variance(fit: Fit, project: Project, totals: dict[str, _Total], film: Floats) -> float:
    own = 0.0
    for shot in project.shots:
        total, posterior = totals[shot.name], fit.shots[shot.name]
        along = fit.along(posterior, knots(shot.frame_count)[0])
        own += total.hours**2 * float(
            total.by_theta @ posterior.covariance @ total.by_theta + total.share @ along.covariance @ total.share
        )
    return own + float(film @ fit.film_covariance @ film)


def _best_of_shot(
    fit: Fit, project: Project, shot: Shot, total: _Total, film: Floats, variance: float, most_seconds: float
) -> Advice | None:
    settings = _settings_to_try(shot, fit.denoisers)
    frames = _frames_to_try(shot)
    posterior = fit.shots[shot.name]
    at = knots(shot.frame_count)[0]
    along = fit.along(posterior, np.concatenate([at, places(np.array(frames, dtype=float), shot.first, shot.last)]))
    seconds, removed = _removed(fit, project, shot, settings, total, (posterior, along, len(at)), film)
    score = removed / ((seconds + ATTENDANCE_S) / MINUTE_S)
    score[seconds > most_seconds] = -1.0
    if not fit.known:
        score = np.full_like(score, -1.0)
        score[0, len(frames) // 2] = 1.0
    row, column = np.unravel_index(int(np.argmax(score)), score.shape)
    if score[row, column] < 0:
        return None
    return Advice(
        shot.name,
        frames[column],
        settings[row],
        float(seconds[row, column]),
        float(np.sqrt(variance)),
        float(np.sqrt(max(variance - removed[row, column], 0.0))),
        float(score[row, column]),
    )


def _removed(
    fit: Fit,
    project: Project,
    shot: Shot,
    settings: list[FrameSettings],
    total: _Total,
    known: tuple[ShotPosterior, AlongShot, int],
    film: Floats,
) -> tuple[Floats, Floats]:
    """Return expected seconds and the film's variance removed, (settings, frames)."""
    posterior, along, count = known
    wanted = frames_of(settings, [project.size_of(shot)] * len(settings), fit.denoisers)
    value, jacobian = log_seconds(np.broadcast_to(posterior.theta, (len(settings), len(posterior.theta))), wanted)
    slope = jacobian[:, None, :] + along.gain[None, count:, :]
    across = along.covariance[:count, count:].T @ total.share
    shared = slope @ posterior.film_gain @ fit.film_covariance
    covariance = total.hours * (slope @ posterior.covariance @ total.by_theta + across) + shared @ film
    spread = slope @ fit.covariance_of(posterior)
    variance = (spread * slope).sum(axis=-1) + np.diag(along.covariance)[count:] + fit.spread.repeat_sd**2
    return np.exp(value[:, None] + along.mean[None, count:]), covariance**2 / variance


def _frames_to_try(shot: Shot) -> list[int]:
    """Return frames spread over the shot, first, middle and last among them."""
    last = shot.frame_count - 1
    numbers = {round(last * number / (FRAME_PLACES - 1)) for number in range(FRAME_PLACES)}
    return [shot.first + shot.step * number for number in sorted(numbers)]


def _settings_to_try(shot: Shot, denoisers: tuple[str, ...]) -> list[FrameSettings]:
    """Return the plan's settings and cheaper ones, the plan's own first."""
    plan = FrameSettings.model_validate(shot.settings.frame_fields())
    filters = [plan.denoise] if plan.denoise == NO_DENOISE else [plan.denoise, NO_DENOISE]
    found: dict[FrameSettings, None] = {}
    for denoise in filters:
        for share in RESOLUTION_SHARES:
            percent = max(1.0, round(plan.resolution_percent * share, 1))
            for fields in _samplings(plan):
                tried = {**plan.frame_fields(), **fields, "denoise": denoise, "resolution_percent": percent}
                found.setdefault(FrameSettings.model_validate(tried))
    return list(found)


def _samplings(plan: FrameSettings) -> list[dict[str, object]]:
    if plan.noise_threshold is not None:
        loosened = [float(f"{plan.noise_threshold * factor:.3g}") for factor in THRESHOLD_FACTORS]
        fixed = max(1, plan.least_samples)
        return [{"noise_threshold": threshold} for threshold in loosened] + [
            {"noise_threshold": None, "min_samples": None, "samples": fixed}
        ]
    return [{"samples": max(1, round(plan.samples * share)), "min_samples": None} for share in SAMPLE_SHARES]
