"""Which trial of a frame others are held against, and which is the same with another seed. Pure."""

from collections.abc import Iterable

from pemlo.core.project.settings import NO_DENOISE
from pemlo.core.project.trials import Trial


def cleanest(trials: Iterable[Trial]) -> Trial | None:
    """Return the reference among trials of one frame that have a picture: most samples in all, not denoised.

    Denoised ones only if there is no other; parts of a frame never.
    """
    whole = [trial for trial in trials if trial.picture and trial.region_percent is None]
    return max(whole, key=_cleanness, default=None)


def _cleanness(trial: Trial) -> tuple[bool, float, float]:
    share = (trial.resolution_percent / 100) ** 2
    return trial.denoise == NO_DENOISE, (trial.mean_samples or trial.samples) * share, share


def same_with_another_seed(trial: Trial, trials: Iterable[Trial]) -> Trial | None:
    """Return a trial of the same frame and settings, with a picture and another seed."""
    for other in trials:
        if (
            other is not trial
            and other.picture
            and other.picture != trial.picture
            and (other.shot, other.frame) == (trial.shot, trial.frame)
            and other.frame_fields() == trial.frame_fields()
            and (other.seed is None or other.seed != trial.seed)
        ):
            return other
    return None
