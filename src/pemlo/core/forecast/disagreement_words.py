"""What is said of trials that do not agree: which, by how much, and what to do. Pure text."""

from pemlo.core.cost.posterior import Disagreement
from pemlo.core.plan.project import Project
from pemlo.core.plan.trials import Trial
from pemlo.core.units import format_duration, round_figures

_MOST_NAMED = 4
_CHECK = "Was something else running, or was it another machine?"


def disagreement_headline(found: tuple[Disagreement, ...]) -> str:
    """Return in one short sentence that trials do not agree."""
    names = [one.shot for one in found]
    if len(names) == 1:
        return f"The trials of shot {names[0]} do not agree with each other."
    shown = ", ".join(names[:_MOST_NAMED]) + (" and others" if len(names) > _MOST_NAMED else "")
    return f"The trials of {len(names)} shots do not agree with each other: {shown}."


def disagreement_words(project: Project, found: Disagreement) -> str:
    """Return which trials of a shot disagree, by how much, and what to do."""
    trials = [project.trials[index] for index in found.trials]
    factor = f"a factor of {round_figures(found.factor, 2)}"
    if found.kind == "repeats":
        slow, quick = trials
        return (
            f"Frame {slow.frame} took {format_duration(slow.seconds)} and {format_duration(quick.seconds)} with the "
            f"same settings, {factor} apart. Time it once more and leave the wrong one out. {_CHECK}"
        )
    named = "; ".join(map(_named, trials[:_MOST_NAMED])) + ("; …" if len(trials) > _MOST_NAMED else "")
    if found.kind == "open":
        return (
            f"At least one of these times is off, by up to about {factor}, and they cannot tell which: {named}. "
            f"Time one of them again. {_CHECK}"
        )
    if found.kind == "doubted":
        return (
            f"Too many times lie far from the others, by up to {factor}: {named}. Check their samples and size, "
            f"and time them again. {_CHECK}"
        )
    if found.kind == "missed":
        return (
            f"No cost that is known here fits the times; they are missed by up to {factor}: {named}. Check the "
            f"samples, size and frame that were typed, and time them again. {_CHECK}"
        )
    return (
        f"The times fit no cost well enough to be sure of anything: {named}. Time another frame, or one of them again."
    )


def disagreements_said(project: Project, found: tuple[Disagreement, ...]) -> list[str]:
    """Return a line for each shot whose trials do not agree."""
    return [f"Shot {one.shot}: {disagreement_words(project, one)}" for one in found]


def _named(trial: Trial) -> str:
    sampling = f"{trial.samples} samples" if trial.noise_threshold is None else f"threshold {trial.noise_threshold:g}"
    return f"{format_duration(trial.seconds)} (frame {trial.frame}, {sampling}, {trial.resolution_percent:g} %)"
