"""Checks of machines and of the run: memory, hours, deadline, kept data, saves. Pure."""

from datetime import datetime

from pemlo.core.chances import chance_words
from pemlo.core.farm.calendar import spans_of
from pemlo.core.forecast.disk_memory import disk_memory_of, may_not_fit, too_small
from pemlo.core.preflight.check_context import CheckContext
from pemlo.core.preflight.finding import Finding, Fix, fine, not_known, wrong
from pemlo.core.preflight.fixes import set_row
from pemlo.core.project.edits import set_delivery, set_shot
from pemlo.core.project.keeping import why_not_kept
from pemlo.core.project.spilled import spilled_trials
from pemlo.core.units import HOUR_S, format_duration, format_interval

LONG_S = HOUR_S  # a frame so long is worth saving while it renders
RISKY_PERCENT = 1.0


def memory_suffices(here: CheckContext) -> list[Finding]:
    """A frame of each shot fits into each machine that renders."""
    name, found = "memory", []
    for shot in here.project.shots:
        needs = disk_memory_of(here.project, shot, shot.settings).memory_gib
        if needs is None:
            todo = "Bring in a trial that says its memory."
            found.append(not_known(name, f"How much memory {shot.name} takes is not known.", todo, shot.name))
        elif small := too_small(here.project, shot, shot.settings, needs):
            amount = format_interval(needs)
            words = f"A frame of {shot.name} takes {amount} GiB of memory: too much for {', '.join(small)}."
            found.append(
                wrong(name, words, "Take fewer frames in parallel there, or leave the machine out.", shot.name)
            )
        elif unsure := may_not_fit(here.project, shot, shot.settings, needs):
            amount = format_interval(needs)
            words = f"A frame of {shot.name} takes {amount} GiB of memory: it may not fit on {', '.join(unsure)}."
            found.append(not_known(name, words, "Time one frame there at the planned size.", shot.name))
        else:
            machines = dict.fromkeys(
                trial.machine
                for index in sorted(spilled_trials(here.project))
                if (trial := here.project.trials[index]).shot == shot.name
            )
            slow = f"Frames are larger than the memory of {', '.join(machines)}, and slower there, as was timed."
            found.append(fine(name, shot.name, slow if machines else ""))
    return found


def machines_have_hours(here: CheckContext) -> list[Finding]:
    """Some machine is free before the deadline."""
    name, project = "hours", here.project
    due = project.render_by_h
    machines = [machine for machine in project.machines if machine.count]
    if not machines:
        return [wrong(name, "There is no machine.", "Add one in the brief.")]
    findings = []
    for machine in machines:
        spans = spans_of(machine, project.delivery.timezone, project.start, int(max(due, 0) / 24) + 2)
        free = sum(max(min(end, due) - begin, 0.0) for begin, end in spans)
        if free > 0:
            findings.append(fine(name))
        else:
            words = f"{machine.name} is never free before the deadline."
            findings.append(wrong(name, words, "Give it hours, or leave it out."))
    return findings


def deadline_can_be_kept(here: CheckContext) -> list[Finding]:
    """The film is done by its deadline with the chance asked for."""
    name, wanted = "deadline", here.project.delivery.confidence
    if here.chance is None:
        return [not_known(name, "Whether the film is done in time is not known.", "Time one frame of a shot.")]
    if here.chance < wanted:
        words = f"The film is done by the deadline with {chance_words(here.chance)}, and {100 * wanted:.0f} are wanted."
        return [wrong(name, words, "Find a plan in Trade, or more machines in Run sheet.")]
    return [fine(name)]


def zone_is_the_deadlines(here: CheckContext) -> list[Finding]:
    """The deadline is meant in the zone in which hours are read: its clock there is the one that was typed."""
    name, delivery = "zone", here.project.delivery
    local = delivery.deadline.astimezone(delivery.zone)
    if local.utcoffset() == delivery.deadline.utcoffset():
        return [fine(name)]
    words = (
        f"The deadline was given as {delivery.deadline:%H:%M} {_offset(delivery.deadline)}, which is {local:%H:%M} in "
        f"{delivery.timezone}, where hours of machines are read."
    )
    mend = Fix(f"Take it as {local:%a %H:%M} in {delivery.timezone}", lambda project: set_delivery(
        project, deadline=project.delivery.deadline.astimezone(project.delivery.zone)))  # fmt: skip
    return [wrong(name, words, "See that this is the moment that is meant.", mend=mend)]


def _offset(moment: datetime) -> str:
    return f"UTC{moment:%z}"


def kept_data_stay_true(here: CheckContext) -> list[Finding]:
    """Nothing is kept between frames that moves."""
    name, found = "cache", []
    for shot in here.project.shots:
        reasons = [words for stage in shot.settings.keep if (words := why_not_kept(shot, stage))]
        if not reasons:
            found.append(fine(name, shot.name))
            continue
        kept = tuple(stage for stage in shot.settings.keep if not why_not_kept(shot, stage))
        mend = Fix(f"Do not cache what moves in {shot.name}", lambda project, s=shot, k=kept: set_shot(  # type: ignore[misc]
            project, s.name, plan=s.settings.replace(keep=k)))  # fmt: skip
        found.append(wrong(name, " ".join(reasons), "Turn the cache off there.", shot.name, mend))
    return found


def long_frames_are_saved(here: CheckContext) -> list[Finding]:
    """Long frames on machines that lose frames are written while they render, and go on from there."""
    name, found = "saves", []
    losing = [m.name for m in here.project.machines if m.count and m.loss_percent >= RISKY_PERCENT]
    for shot in here.project.shots:
        seconds = here.frame_seconds.get(shot.name)
        if seconds is None:
            found.append(not_known(name, f"How long a frame of {shot.name} takes is not known.", "", shot.name))
        elif seconds[1] > LONG_S and losing and not shot.settings.saves:
            words = f"A frame of {shot.name} takes {format_duration(float(seconds[1]))}, and {losing[0]} loses frames."
            mend = Fix(f"Save frames of {shot.name} four times", lambda project, s=shot: set_shot(  # type: ignore[misc]
                project, s.name, plan=s.settings.replace(saves=4)))  # fmt: skip
            found.append(wrong(name, words, "Have it written while it renders.", shot.name, mend))
        elif seconds[1] > LONG_S and losing and any(row.resume is False for row in here.rows[shot.name]):
            words = f"An unfinished frame of {shot.name} is not gone on with: each loss costs all of it."
            mend = Fix(f"Let {shot.name} go on", set_row(shot.name, resume=True))
            found.append(wrong(name, words, "Switch resuming on.", shot.name, mend))
        else:
            found.append(fine(name, shot.name))
    return found
