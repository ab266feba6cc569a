"""What is allowed in a document but looks wrong, said with its place and what to do. Pure."""

from pemlo.core.errors import Problem
from pemlo.core.project.project import Project


def notices(project: Project) -> tuple[Problem, ...]:
    """Return what somebody should look at, most telling first."""
    return (*_no_hours(project), *_unknown_machines(project), *_frames_outside(project), *handles_not_counted(project))


def handles_not_counted(project: Project) -> list[Problem]:
    """Say that handles cost hours, too: the forecast is of the frames of the film."""
    frames = sum(shot.frame_count for shot in project.shots)
    more = 2 * project.needs.handles * sum(not shot.still for shot in project.shots)
    if not more or not frames:
        return []
    share = 100 * more / frames
    what = f"{more} frames more ({share:.0f} %) are rendered as handles; they are in the hours only if Retakes, in the "
    return [Problem("Handles", f"{what}brief, counts them.")]


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
    found = []
    for shot in project.shots:
        strays = sorted({t.frame for t in project.trials_of(shot.name) if not shot.first <= t.frame <= shot.last})
        if strays:
            listed = ", ".join(str(frame) for frame in strays[:5])
            found.append(
                Problem(f"Shot {shot.name}", f"trials at frame {listed} lie outside {shot.first}-{shot.last}.")
            )
    return found
