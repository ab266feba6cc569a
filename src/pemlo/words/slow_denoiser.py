"""Whether a denoiser takes longer than the render that it cleans, and which samples the same time would buy. Pure."""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from pemlo.core.arrays import Floats
from pemlo.core.cost.draws import FilmDraws
from pemlo.core.cost.frame_arrays import Frames, frames_of
from pemlo.core.cost.frame_model import frame_seconds, samples_spent, stage_seconds
from pemlo.core.cost.posterior import Fit
from pemlo.core.project.project import Project
from pemlo.core.project.settings import MOST_SAMPLES, NO_DENOISE, ShotSettings
from pemlo.core.project.shots import Shot
from pemlo.core.project.trials import STAGES
from pemlo.core.trade.options import DRAWS
from pemlo.core.units import format_duration

_COUNTS = 24


@dataclass(frozen=True)
class SlowDenoiser:
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
) -> SlowDenoiser | None:
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
    theta, factor = mine.theta[:DRAWS, None, :], mine.factor[:DRAWS, None]

    def frames(settings: Sequence[ShotSettings]) -> Frames:
        return frames_of(list(settings), [project.size_of(shot)] * len(settings), fit.cost_factors, shape)

    def middle(values: Floats) -> Floats:
        return np.asarray(np.median(np.broadcast_to(values * factor, (DRAWS, values.shape[-1])), axis=0))

    now = frames([wanted])
    whole = float(middle(frame_seconds(theta, now))[0])
    part = float(middle(stage_seconds(theta, now)[..., STAGES.index("denoise")])[0])
    if part <= whole - part:
        return None
    plain = wanted.model_copy(update={"denoise": NO_DENOISE, "noise_threshold": None, "min_samples": None})
    counts = np.unique(np.geomspace(1, MOST_SAMPLES, _COUNTS).astype(int))
    seconds = middle(frame_seconds(theta, frames([plain.model_copy(update={"samples": int(n)}) for n in counts])))
    spent = float(np.median(samples_spent(theta, now)[0]))
    # Seconds are straight in samples: between two counts nothing is lost.
    return SlowDenoiser(wanted.denoise, part, whole - part, spent, float(np.interp(whole, seconds, counts)))
