"""What is allowed in a document but looks wrong, said with its place and what to do. Pure."""

from pemlo.core.errors import Problem
from pemlo.core.project.project import Project


def notices(project: Project) -> tuple[Problem, ...]:
    """Return what somebody should look at, most telling first."""
    return (*_no_hours(project), *_unknown_machines(project), *_frames_outside(project))


def _no_hours(project: Project) -> list[Problem]:
    if any(machine.count for machine in project.machines):
        return []
    return [Problem("Machines", "none is listed, so there are no hours. Add one in the brief.")]


def _unknown_machines(project: Project) -> list[Problem]:
    known = {machine.name for machine in project.machines}
    strange = sorted({trial.machine for trial in project.trials if trial.machine} - known)
    return [
        Problem("Trials", f"machine “{name}” is not in the brief; its times are taken as the reference machine's.")
        for name in strange
    ]


def _frames_outside(project: Project) -> list[Problem]:
    problems = []
    for shot in project.shots:
        first, last = shot.whole_range
        strays = sorted({t.frame for t in project.trials_of(shot.name) if not first <= t.frame <= last})
        if strays:
            listed = ", ".join(str(frame) for frame in strays[:5])
            problems.append(Problem(f"Shot {shot.name}", f"trials at frame {listed} lie outside {first}-{last}."))
    return problems
