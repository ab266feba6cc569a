"""What is said of trials that do not agree: which, by how much, and what to do. Pure text."""

from dataclasses import dataclass
from typing import TYPE_CHECKING

from pemlo.core.project.project import Project
from pemlo.core.project.trials import Trial
from pemlo.core.units import format_duration, round_figures

if TYPE_CHECKING:
    from pemlo.core.cost.posterior import Disagreement


_MOST_NAMED = 4
FIRST_FRAME = "A first frame also starts, loads and compiles: if it was that, leave it out."
ASKED = "Were those tests parts of the frame? Another machine? Was something left on in this one?"
_CHECK = "Was something else running, or was it another machine?"


def disagreement_headline(project: Project, found: "tuple[Disagreement, ...]") -> str:
    """Return in one short sentence that trials do not agree."""
    names = [disagreement.shot for disagreement in found]
    if len(names) == 1 and found[0].kind == "asked":
        trial = project.trials[found[0].trials[0]]
        return f"Frame {trial.frame} took {format_duration(trial.seconds)}; the tests say {_led_to(trial, found[0])}."
    if len(names) == 1:
        return f"The trials of shot {names[0]} do not agree with each other."
    shown = ", ".join(names[:_MOST_NAMED]) + (" and others" if len(names) > _MOST_NAMED else "")
    return f"The trials of {len(names)} shots do not agree with each other: {shown}."


def disagreement_in_short(project: Project, disagreement: "Disagreement") -> str:
    """Return the same in one or two short sentences, without what the table of trials shows."""
    times = [format_duration(project.trials[index].seconds) for index in disagreement.trials[:_MOST_NAMED]]
    named = f"{', '.join(times[:-1])} and {times[-1]}" if len(times) > 1 else times[0]
    frame = project.trials[disagreement.trials[0]].frame
    factor = f"a factor of {round_figures(disagreement.factor, 2)}"
    return {
        "repeats": f"Frame {frame} took {named} with the same settings. Time it once more.",
        "open": f"Of {named} at least one is off by about {factor}, and which one is not known. Time one again.",
        "doubted": f"{named} differ a lot from the other times, by up to {factor}. Time them again.",
        "missed": f"No known cost fits {named}: off by up to {factor}. Check what was typed, or time them again.",
        "asked": f"{ASKED} Answer in Trials.",
        "unsettled": f"{named} fit no cost well enough. Time another frame.",
    }[disagreement.kind]


def disagreement_words(project: Project, disagreement: "Disagreement") -> str:
    """Return which trials of a shot disagree, by how much, and what to do."""
    trials = [project.trials[index] for index in disagreement.trials]
    check = f"{FIRST_FRAME} {_CHECK}" if is_first(project, disagreement.trials[0]) else _CHECK
    factor = f"a factor of {round_figures(disagreement.factor, 2)}"
    if disagreement.kind == "repeats":
        slow, quick = trials
        return (
            f"Frame {slow.frame} took {format_duration(slow.seconds)} and {format_duration(quick.seconds)} with the "
            f"same settings, {factor} apart. Time it once more and leave the wrong one out. {check}"
        )
    if disagreement.kind == "asked":
        return f"{_asked_words(project, disagreement)} {ASKED}"
    named = "; ".join(map(_named, trials[:_MOST_NAMED])) + ("; …" if len(trials) > _MOST_NAMED else "")
    if disagreement.kind == "open":
        return (
            f"At least one of these times is off, by up to about {factor}, and they cannot tell which: {named}. "
            f"Time one of them again. {check}"
        )
    if disagreement.kind == "doubted":
        return (
            f"Too many times differ a lot from the others, by up to {factor}: {named}. Check their samples and size, "
            f"and time them again. {check}"
        )
    if disagreement.kind == "missed":
        return (
            f"No cost that is known here fits the times; they are missed by up to {factor}: {named}. Check the "
            f"samples, size and frame that were typed, and time them again. {check}"
        )
    return (
        f"The times fit no cost well enough to be sure of anything: {named}. Time another frame, or one of them again."
    )


def _asked_words(project: Project, disagreement: "Disagreement") -> str:
    trial = project.trials[disagreement.trials[0]]
    took = format_duration(trial.seconds)
    return (
        f"Nearest to what is asked, frame {trial.frame} took {took}; the others lead to {_led_to(trial, disagreement)}."
    )


def _led_to(trial: Trial, disagreement: "Disagreement") -> str:
    return format_duration(trial.seconds / disagreement.factor)


@dataclass(frozen=True)
class Answer:
    """What may have been so where the time as asked lies apart, in words; trials that are left out then, and why."""

    words: str
    why: str
    trials: tuple[int, ...]


def answers(project: Project, disagreement: "Disagreement") -> tuple[Answer, ...]:
    """Return what may have been so where the time nearest to what is asked lies far from where the others lead."""
    if disagreement.kind != "asked":
        return ()
    others = tuple(
        index
        for index, trial in enumerate(project.trials)
        if trial.shot == disagreement.shot
        and index not in disagreement.trials
        and not trial.left_out
        and not trial.assumed
    )
    return (
        Answer("The others were parts of the frame", "a part of the frame", others),
        Answer("They ran on another machine", "another machine", others),
        Answer("Something was left on in this one", "something was left on", disagreement.trials),
    )


def disagreements_said(project: Project, found: "tuple[Disagreement, ...]") -> list[str]:
    """Return a line for each shot whose trials do not agree."""
    return [f"Shot {disagreement.shot}: {disagreement_words(project, disagreement)}" for disagreement in found]


def is_first(project: Project, index: int) -> bool:
    """Return whether a trial is the first of its machine: it may have started the renderer."""
    machine = project.trials[index].machine
    return all(trial.machine != machine for trial in project.trials[:index])


def _named(trial: Trial) -> str:
    sampling = f"{trial.samples} samples" if trial.noise_threshold is None else f"threshold {trial.noise_threshold:g}"
    return f"{format_duration(trial.seconds)} (frame {trial.frame}, {sampling}, {trial.resolution_percent:g} %)"
