"""What is looked up in a project by name, made once: every shot of a film looks for its own. Pure.

An index belongs to the very values that it was made of. A copy of the project with others takes it along, sees that it
is not its own, and makes one.
"""

from collections.abc import Callable
from typing import TYPE_CHECKING, TypeVar

if TYPE_CHECKING:
    from pemlo.core.project.project import Project
    from pemlo.core.project.shots import Shot
    from pemlo.core.project.trials import Trial

I = TypeVar("I")  # noqa: E741 - an index


def looked_up(project: "Project", field: str, name: str, make: Callable[[], I]) -> I:
    """Return an index of a field of a project under its name; made if there is none of these values."""
    now = project.__dict__[field]
    made = project.__dict__.get(name)
    if made is None or made[0] is not now:
        made = project.__dict__[name] = (now, make())
    index: I = made[1]
    return index


def shots_by_name(project: "Project") -> "dict[str, Shot]":
    """Return the shots by their names."""
    return looked_up(project, "shots", "_shots_by_name", lambda: {shot.name: shot for shot in project.shots})


def trials_by_shot(project: "Project") -> "dict[str, list[Trial]]":
    """Return the trials of each shot that has some, in their order."""

    def make() -> "dict[str, list[Trial]]":
        found: dict[str, list[Trial]] = {}
        for trial in project.trials:
            found.setdefault(trial.shot, []).append(trial)
        return found

    return looked_up(project, "trials", "_trials_by_shot", make)


def trials_with(project: "Project", field: str) -> "tuple[Trial, ...]":
    """Return the trials that say something of a field."""

    def make() -> "tuple[Trial, ...]":
        return tuple(trial for trial in project.trials if getattr(trial, field) is not None)

    return looked_up(project, "trials", f"_with_{field}", make)


def speeds(project: "Project") -> tuple[tuple[str, float], ...]:
    """Return how fast each machine is, by its name."""
    return looked_up(
        project, "machines", "_speeds", lambda: tuple((machine.name, machine.speed) for machine in project.machines)
    )


def same_look(project: "Project", shot: "Shot") -> set[str]:
    """Return the names of the shots that look like a shot, itself among them; none where no look is said."""
    return {one.name for one in project.shots if one.look == shot.look} if shot.look else set()
