"""What a frame would take without denoising: asked of the fit that the window has. Qt-free."""

import numpy as np

from pemlo.app.film_known import FilmForecast as Forecast
from pemlo.core.cost.draws import draw_frame
from pemlo.core.project.settings import MOST_SAMPLES, NO_DENOISE, FrameSettings
from pemlo.core.project.trials import Trial


def seconds_without_denoising(forecast: Forecast, trial: Trial, samples: float) -> float | None:
    """Return the seconds of a trial's frame with so many samples and no denoising; None if nothing is known."""
    known = forecast.fit
    if not known.known or trial.shot not in known.shots:
        return None
    settings = FrameSettings(
        samples=min(max(round(samples), 1), MOST_SAMPLES),
        denoise=NO_DENOISE,
        resolution_percent=trial.resolution_percent,
    )
    drawn = draw_frame(known, forecast.project, trial.shot, trial.frame, settings)
    return float(np.median(drawn))
