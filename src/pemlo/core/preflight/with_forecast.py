"""What is checked, with what the forecast knows: the chance, and how long frames take. A second for many shots."""

from dataclasses import replace

import numpy as np

from pemlo.core.cost.draws import draw_frame
from pemlo.core.cost.posterior import Fit
from pemlo.core.preflight.check_context import CheckContext
from pemlo.core.project.settings import FrameSettings


def with_forecast(here: CheckContext, fit: Fit, chance: float | None, seed: int = 0) -> CheckContext:
    """Return what is checked with the chance of being in time, and seconds of the frame in the middle of each shot.

    Parameters
    ----------
    here : CheckContext
    fit : Fit
        Of the film's trials.
    chance : float or None
    seed : int
        >= 0, of the draws.
    """
    if not fit.known:
        return replace(here, chance=chance)
    seconds = {}
    for shot in here.project.shots:
        if shot.name in fit.shots:
            settings = FrameSettings.model_validate(shot.settings.frame_fields())
            drawn = draw_frame(fit, here.project, shot.name, shot.middle, settings, seed)
            seconds[shot.name] = np.quantile(drawn, [0.05, 0.5, 0.95])
    return replace(here, chance=chance, frame_seconds=seconds)
