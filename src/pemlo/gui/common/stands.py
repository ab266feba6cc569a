"""Where each stage stands, in a few words for the rail. Qt-free; loads nothing heavy."""

from pemlo.core.project.ceiling import ceiling_of
from pemlo.core.project.project import Project
from pemlo.core.units import counted, round_figures


def brief_stands(project: Project) -> str:
    """Return how many shots and frames there are."""
    frames = sum(shot.frame_count for shot in project.on_screen)
    return (
        f"{counted(len(project.on_screen), 'shot')}, {round_figures(frames, 6)} fr" if project.shots else "no shots yet"
    )


def trials_stands(project: Project) -> str:
    """Return how many trials count, and which shots have none."""
    count = len(project.counted_trials)
    if not count:
        return "no trials yet"
    timed = {trial.shot for trial in project.counted_trials}
    untimed = [shot.name for shot in project.shots if shot.name not in timed]
    if not untimed:
        return f"{count} timed"
    return f"{count} timed, {untimed[0]} not" if len(untimed) == 1 else f"{count} timed, {len(untimed)} not"


def judge_stands(project: Project) -> str:
    """Return of how many shots the ceiling is known."""
    marked = any(trial.mark for trial in project.trials)
    known = sum(ceiling_of(project, shot.name).value is not None for shot in project.shots) if marked else 0
    return f"limits for {known} of {len(project.shots)}" if project.shots else "no shots yet"


def trade_stands(project: Project) -> str:
    """Return how many shots are planned otherwise than asked."""
    count = sum(shot.plan is not None and shot.plan != shot.asked for shot in project.shots)
    return f"{count} of {len(project.shots)} changed" if count else "as asked"


def run_stands(project: Project) -> str:
    """Return how many machines there are."""
    count = sum(machine.count for machine in project.machines)
    return counted(count, "machine") if count else "no machine"


def handover_stands(project: Project) -> str:
    """Return whether a launch was typed, and lines that are not ticked off."""
    left = sum(not one.done for one in project.own_checks)
    if left:
        return f"{counted(left, 'line')} to tick off"
    return f"{counted(len(project.launch), 'launch row')}" if project.launch else "no launch entered"


def watch_stands(project: Project) -> str:
    """Return whether it is known where frames arrive."""
    known = bool(project.watching.place) or any(shot.place for shot in project.shots)
    return "looking" if known else "nothing watched"
