"""What the trials of a shot do not tell, said in words. Pure."""

from pemlo.core.project.project import Project
from pemlo.core.project.settings import NO_DENOISE
from pemlo.core.project.shots import Shot
from pemlo.core.project.spelling import settings_words
from pemlo.core.project.trials import Trial
from pemlo.core.units import format_duration


def unknowns(project: Project, shot: Shot) -> tuple[str, ...]:
    """Return what is only assumed of a shot because no trial shows it, weightiest first; empty if all was seen."""
    counted = tuple(trial for trial in project.trials_of(shot.name) if not trial.left_out)
    trials = tuple(trial for trial in counted if not trial.assumed)
    guessed = tuple(
        f"{format_duration(trial.seconds)} for {settings_words(trial)} is a guess: time it once."
        for trial in counted
        if trial.assumed
    )
    if not trials:
        if guessed:
            return guessed
        others = bool(project.counted_trials)
        if others:
            return ("Not timed: taken from the film's other shots. One frame of it replaces that.",)
        return ("Not timed: nothing is known. Time one frame.",)
    plan = shot.settings
    found = [*guessed]
    if len(trials) == 1:
        found.append(
            "One trial only: how its time changes with samples, size or frame is assumed. A second one with a quarter "
            "of the samples replaces that."
        )
    elif len({trial.frame for trial in trials}) == 1:
        found.append(
            f"All trials are of frame {trials[0].frame}: how cost runs along the shot is assumed. One near "
            "its start or end replaces that."
        )
    if len(trials) > 1 and not _reached(trials, shot):
        found.append(
            "No trial comes near the plan's samples and size: its cost is carried on from cheaper ones. "
            "One frame as planned replaces that."
        )
    if plan.adaptive and not any(trial.adaptive for trial in trials):
        found.append(
            "No trial used a noise threshold: the samples that it spends are assumed. One frame with it replaces that."
        )
    if plan.denoise != NO_DENOISE and not any(trial.denoise == plan.denoise for trial in counted):
        timed = any(trial.denoise == plan.denoise and not trial.assumed for trial in project.counted_trials)
        where = "taken from other shots" if timed else "assumed"
        found.append(
            f"No trial used denoising “{plan.denoise}”: what it costs is {where}. One frame with it replaces that."
        )
    return tuple(found)


def _reached(trials: tuple[Trial, ...], shot: Shot) -> bool:
    plan = shot.settings
    return any(
        trial.resolution_percent >= 0.5 * plan.resolution_percent
        and (trial.samples >= 0.25 * plan.samples or (plan.adaptive and trial.adaptive))
        for trial in trials
    )
