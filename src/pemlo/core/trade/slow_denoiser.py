"""Whether a denoiser takes longer than the render that it cleans, and which samples the same time would buy. Pure."""

from dataclasses import dataclass

import numpy as np

from pemlo.core.cost.draws import FilmDraws
from pemlo.core.cost.frame_model import frame_seconds, frames_of, samples_spent, stage_seconds
from pemlo.core.cost.posterior import Fit
from pemlo.core.plan.project import Project
from pemlo.core.plan.settings import MOST_SAMPLES, NO_DENOISE, ShotSettings
from pemlo.core.plan.shots import Shot
from pemlo.core.plan.trials import STAGES
from pemlo.core.trade.options import DRAWS
from pemlo.core.units import format_duration

_HALVINGS = 40


@dataclass(frozen=True)
class Slow:
    """A denoiser that is slower than what it cleans.

    Attributes
    ----------
    denoise : str
    seconds, rest : float
        Of the denoiser, and of the rest of the mean frame.
    samples, equal_samples : float
        A pixel takes with it, and could take in the same time without it.
    """

    denoise: str
    seconds: float
    rest: float
    samples: float
    equal_samples: float

    def __str__(self) -> str:
        return (
            f"Denoising “{self.denoise}” takes {format_duration(self.seconds)} of a frame that renders in "
            f"{format_duration(self.rest)}: it is slower than what it cleans. Without it the same time buys "
            f"{self.equal_samples:.0f} samples in place of {self.samples:.0f}."
        )


def slow_denoiser(
    project: Project, fit: Fit, draws: FilmDraws, shot: Shot, settings: ShotSettings | None = None
) -> Slow | None:
    """Return what speaks against the denoiser of a shot; None if it is quicker than the render, or there is none.

    Parameters
    ----------
    project : Project
    fit : Fit
        Which knows the shot.
    draws : FilmDraws
        Of that fit.
    shot : Shot
    settings : ShotSettings, optional
        The shot's own unless given.
    """
    wanted = settings or shot.settings
    if wanted.denoise == NO_DENOISE or wanted.denoise not in fit.denoisers:
        return None
    mine, shape = draws[shot.name], fit.shots[shot.name].shape()

    def middle(one: ShotSettings) -> tuple[float, float, float]:
        """Return middle seconds of the frame and of denoising, and mean samples."""
        frames = frames_of([one], [project.size_of(shot)], fit.denoisers, shape)
        theta = mine.theta[:DRAWS, None, :]
        factor = mine.factor[:DRAWS]
        whole = np.median(frame_seconds(theta, frames)[:, 0] * factor)
        part = np.median(stage_seconds(theta, frames)[:, 0, STAGES.index("denoise")] * factor)
        return float(whole), float(part), float(np.median(np.broadcast_to(samples_spent(theta, frames)[0], (DRAWS, 1))))

    whole, part, spent = middle(wanted)
    if part <= whole - part:
        return None
    plain = {"denoise": NO_DENOISE, "noise_threshold": None, "min_samples": None}
    low, high = 0.0, np.log(MOST_SAMPLES)
    for _ in range(_HALVINGS):
        samples = (low + high) / 2
        one = wanted.model_copy(update={**plain, "samples": max(1, round(np.exp(samples)))})
        low, high = (samples, high) if middle(one)[0] < whole else (low, samples)
        if np.exp(high) - np.exp(low) < 1:
            break
    return Slow(wanted.denoise, part, whole - part, spent, float(np.exp(low)))
