"""What the trials of a shot do not tell, said in words. Pure."""

from pemlo.core.project.machines import Machine
from pemlo.core.project.narrow import bare, narrowing
from pemlo.core.project.project import Project
from pemlo.core.project.settings import NO_DENOISE
from pemlo.core.project.shots import Shot
from pemlo.core.project.spelling import settings_words
from pemlo.core.project.spilled import spilled_of
from pemlo.core.project.timed_sizes import rendered_size
from pemlo.core.project.trials import Trial
from pemlo.core.units import format_duration

MOST_SIZES = 3  # that are named


def unknowns(project: Project, shot: Shot) -> tuple[str, ...]:
    """Return what is only assumed of a shot because no trial shows it, weightiest first; empty if all was seen."""
    return _unknowns(shot, project.trials, project.machines, project.size_of(shot))


@narrowing  # of a shot that is what it was, it is not found out again after every edit elsewhere
def _unknowns(
    shot: Shot, every: tuple[Trial, ...], machines: tuple[Machine, ...], size: tuple[int, int]
) -> tuple[str, ...]:
    project = bare(Project, trials=every, machines=machines)
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
        others = any(not trial.left_out for trial in project.trials)
        if others:
            return ("Not timed: taken from the film's other shots. One timed frame replaces that.",)
        return ("No trial yet: what a frame takes is not known. Time one frame.",)
    plan = shot.settings
    found = [*guessed, *_spilled(project, shot)]
    limits = [trial.most_seconds for trial in trials if trial.only_says_longer]
    if len(limits) == len(trials) and (plan.most_seconds is None or plan.most_seconds > max(filter(None, limits))):
        found.append(
            f"Every trial ran into a limit of {format_duration(max(filter(None, limits)))}: a frame takes longer than "
            "that without it, and how much is only assumed. One frame without it replaces that."
        )
    if len(trials) == 1:
        found.append(
            "One trial only: how the time changes with samples, size or frame is assumed. A second one with a quarter "
            "of the samples replaces that."
        )
    elif len({trial.frame for trial in trials}) == 1 and shot.frame_count > 1:
        found.append(
            f"All trials are of frame {trials[0].frame}: how cost runs along the shot is assumed. One near "
            "the start or end replaces that."
        )
    sizes = _other_sizes(size, trials, shot)
    if sizes:
        found.append(sizes)
    elif len(trials) > 1 and not _reached(trials, shot):
        found.append(
            "No trial comes near the plan's samples and size: the cost is carried on from cheaper ones. "
            "One frame as planned replaces that."
        )
    if plan.adaptive and not any(trial.adaptive for trial in trials):
        found.append(
            "No trial used a noise threshold: the samples that it spends are assumed. One frame with it replaces that."
        )
    if plan.denoise != NO_DENOISE and not any(trial.denoise == plan.denoise for trial in counted):
        timed = any(trial.denoise == plan.denoise and not (trial.assumed or trial.left_out) for trial in project.trials)
        where = "taken from other shots" if timed else "assumed"
        found.append(
            f"No trial used denoising “{plan.denoise}”: what it costs is {where}. One frame with it replaces that."
        )
    return tuple(found)


def _spilled(project: Project, shot: Shot) -> tuple[str, ...]:
    """Return which machines had too little memory for a shot's trials, once each."""
    machines = dict.fromkeys(trial.machine for trial in spilled_of(project, shot.name))
    return tuple(
        f"The frame timed on {machine} was larger than its memory: that time says how slow {machine} is with such "
        "frames, and nothing of other machines."
        for machine in machines
    )


def _other_sizes(size: tuple[int, int], trials: tuple[Trial, ...], shot: Shot) -> str:
    """Return from which sizes a shot's cost is taken, where none was timed at that of its plan; else empty."""
    planned = rendered_size(size, shot.settings.resolution_percent)
    timed = sorted({(trial.width or 0, trial.height or 0) for trial in trials}, key=lambda size: size[0] * size[1])
    if planned in timed:
        return ""
    words = [f"{width}×{height}" for width, height in timed[:MOST_SIZES]]
    more = f" and {len(timed) - MOST_SIZES} more sizes" if len(timed) > MOST_SIZES else ""
    return (
        f"Nothing was timed at {planned[0]}×{planned[1]} px: the cost follows by pixels from {', '.join(words)}{more}. "
        "One frame at that size replaces that."
    )


def _reached(trials: tuple[Trial, ...], shot: Shot) -> bool:
    plan = shot.settings
    return any(
        trial.resolution_percent >= 0.5 * plan.resolution_percent
        and (trial.samples >= 0.25 * plan.samples or (plan.adaptive and trial.adaptive))
        for trial in trials
    )
