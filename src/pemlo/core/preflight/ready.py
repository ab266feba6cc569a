"""Checks of what was done before: timed, looked at, marked; and lines of somebody's own. Pure."""

from pemlo.core.preflight.check_context import CheckContext
from pemlo.core.preflight.finding import Finding, Fix, fine, not_known, wrong
from pemlo.core.project.passing import passing_of
from pemlo.core.project.project import Project


def shots_are_timed(here: CheckContext) -> list[Finding]:
    """Of each shot something was timed."""
    timed = {trial.shot for trial in here.project.counted_trials if not trial.assumed}
    return [
        fine("timed", shot.name)
        if shot.name in timed
        else not_known("timed", f"Nothing of {shot.name} was timed.", "Time one frame of it.", shot.name)
        for shot in here.project.shots
    ]


def shots_were_looked_at(here: CheckContext) -> list[Finding]:
    """Of each shot there is a picture, or a mark by eye, and a ceiling."""
    findings = []
    pictured = {trial.shot for trial in here.project.trials if trial.picture or trial.mark}
    for shot in here.project.shots:
        if shot.name not in pictured and not shot.marks:
            findings.append(
                not_known("looked at", f"Nobody has looked at {shot.name}.", "Render or bring in a trial.", shot.name)
            )
        elif not passing_of(here.project, shot).anything:
            words = f"What is good enough in {shot.name} was not marked."
            findings.append(not_known("looked at", words, "Mark a trial in Judge.", shot.name))
        else:
            findings.append(fine("looked at", shot.name))
    return findings


def own_lines_are_ticked(here: CheckContext) -> list[Finding]:
    """Lines of somebody's own are ticked off."""
    findings = []
    for number, line in enumerate(here.project.own_checks):
        if line.done:
            findings.append(fine("own"))
            continue
        mend = Fix(f"Tick off “{line.words}”", lambda project, k=number: _ticked(project, k))  # type: ignore[misc]
        findings.append(wrong("own", f"Not ticked off: {line.words}", "Tick it off.", mend=mend))
    return findings


def _ticked(project: Project, number: int) -> Project:
    lines = tuple(line.replace(done=True) if k == number else line for k, line in enumerate(project.own_checks))
    return project.replace(own_checks=lines)
