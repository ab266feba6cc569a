"""How fast machines are, learned from trials as they land: one frame that two of them rendered. Pure."""

from pemlo.core.cost.machine_speeds import measured_speeds
from pemlo.core.project.edits import set_machine
from pemlo.core.project.project import Project
from pemlo.core.project.settings import FrameSettings
from pemlo.core.project.trials import Trial


def with_learned_speed(project: Project, machine: str) -> Project:
    """Return the film with the speed that its trials say of a machine.

    What is set stays where it lies within their interval. A machine that the brief does not list, or that no frame can
    be held against another's, stays as it is.
    """
    listed = next((one for one in project.machines if one.name == machine), None)
    found = next((one for one in measured_speeds(project) if one.machine == machine), None)
    if listed is None or found is None or found.speed.low <= listed.speed <= found.speed.high:
        return project
    return set_machine(project, machine, speed=float(f"{found.speed.middle:.3g}"))


def frame_to_share(project: Project, machine: str) -> Trial | None:
    """Return the cheapest trial that says how fast a machine is, once it has rendered it too; None if that is known.

    It was rendered whole, alone, by another machine, and ran into no limit.
    """
    names = {one.name for one in project.machines}
    if machine not in names:
        return None
    whole = [
        trial
        for trial in project.counted_trials
        if trial.region_percent is None and not trial.assumed and not trial.stopped_by_cap and trial.frames_at_once == 1
    ]
    others = [trial for trial in whole if trial.machine != machine and trial.machine in names]
    mine = {_frame(trial) for trial in whole if trial.machine == machine}
    if not others or any(_frame(trial) in mine for trial in others):
        return None
    return min(others, key=lambda trial: trial.seconds)


def _frame(trial: Trial) -> tuple[str, int, FrameSettings]:
    return trial.shot, trial.frame, FrameSettings.model_validate(trial.frame_fields())
