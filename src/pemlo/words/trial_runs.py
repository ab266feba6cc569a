"""What people read of trials that render themselves: what is run and why, what came of it, why it ended. Text."""

import shlex

from pemlo.core.foreign import shown
from pemlo.core.project.project import Project
from pemlo.core.project.render_ways import RenderWay
from pemlo.core.project.settings import LeverName
from pemlo.core.project.spelling import settings_words
from pemlo.core.trialrun.landed import Landed
from pemlo.core.trialrun.spending import Choice, Ended
from pemlo.core.trialrun.template import FilledCommand, unreachable
from pemlo.core.units import GIB, format_duration, listed

LEVER_WORDS: dict[LeverName, str] = {
    "samples": "samples", "noise_threshold": "noise threshold", "min_samples": "min samples",
    "most_seconds": "time limit", "split": "sampling split", "denoise": "denoiser",
    "resolution_percent": "size", "frame_step": "frame step", "keep": "caches", "switches": "switches",
    "saves": "saves of the unfinished frame",
}  # fmt: skip
_WHY = {
    "first": "nothing is known of this shot yet",
    "telling": "it tells most for its time",
    "repeat": "to learn how well times repeat",
    "again": "it does not agree with the others",
    "machine": "to learn how fast the machine is",
    "asked": "as asked",
}


def not_reachable_words(way: RenderWay) -> str:
    """Return which levers trials cannot set; empty if they can set all."""
    missing = [LEVER_WORDS[lever] for lever in unreachable(way)]
    if not missing:
        return ""
    return f"Trials cannot set {listed(missing)}: its command has no field for {'it' if len(missing) == 1 else 'them'}."


def choice_words(choice: Choice) -> str:
    """Return a frame that is run, and how."""
    again = f", time {choice.repeat + 1}" if choice.repeat else ""
    return f"shot {choice.shot}, frame {choice.frame}: {settings_words(choice.settings)}{again}"


def speed_words(before: Project, after: Project, machine: str) -> str:
    """Return what was learned of a machine's speed; empty for nothing."""
    old, new = (
        next((one.speed for one in project.machines if one.name == machine), 1.0) for project in (before, after)
    )
    return "" if old == new else f"{machine} is {new:g} times as fast as the reference machine"


def why_words(choice: Choice) -> str:
    """Return why a frame is run."""
    return _WHY[choice.why]


def landed_words(landed: Landed) -> str:
    """Return what came of a run, in a line."""
    trial = landed.trial
    if trial is None:
        return f"no trial: {landed.why}"
    parts = [format_duration(trial.seconds)]
    if trial.processor_seconds is not None:
        parts.append(f"{format_duration(max(trial.processor_seconds, 0.01))} of processors")
    if trial.memory_gib is not None:
        parts.append(f"{trial.memory_gib:.2g} GiB" if trial.memory_gib >= 0.1 else f"{1024 * trial.memory_gib:.0f} MiB")
    if trial.other_load is not None and trial.other_load >= 0.05:
        parts.append(f"other programs took {100 * trial.other_load:.0f} % of the computer")
    if trial.left_out:
        parts.append(f"left out: {trial.left_out}")
    if trial.only_says_longer:
        parts.append("ended at its limit: it takes longer")
    return ", ".join([*parts, *landed.said])


def measured_words(landed: Landed) -> str:
    """Return all that was measured of a run, for a tip."""
    measured = landed.measured
    moved = f"{measured.read_bytes / GIB:.3g} GiB read, {measured.written_bytes / GIB:.3g} GiB written"
    wall = f"{measured.seconds:.3f} s on the wall, {measured.processor_seconds:.2f} s of processors"
    return f"{wall}, {measured.memory_bytes / GIB:.3g} GiB, {moved}, exit status {measured.code}"


def ended_words(ended: Ended) -> str:
    """Return why nothing more is run."""
    if ended.why == "settled" and ended.chance is not None:
        sure = "makes" if ended.chance > 0.5 else "misses"
        chance = "more than 99" if ended.chance > 0.5 else "less than 1"
        return f"The verdict is settled: the film {sure} its deadline (chance to make it {chance} in 100)."
    if ended.why == "little":
        return "No other trial would take more than a tenth from what is not known of its shot."
    if ended.why == "time":
        return "No trial worth running fits into the time that is left."
    if ended.why == "failed":
        shots = "; ".join(f"shot {shot}: {why}" for shot, why in ended.failed.items())
        return f"Shots that failed twice are left alone. {shots}"
    return "This way can render no shot: the brief says no scene or camera for any."


def command_words(command: FilledCommand) -> str:
    """Return a command as it would be run, for people."""
    variables = "".join(f"{name}={shlex.quote(value)} " for name, value in command.environment)
    return shown(f"{variables}{command.line}", 4000)
