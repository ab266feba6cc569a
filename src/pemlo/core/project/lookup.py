"""What is looked up in a row of records by name, made once: every shot of a film looks for its own. Any thread.

An index belongs to the very row that it was made of. Records are frozen, so it cannot become wrong; those of the rows
that were asked for last are kept.
"""

import threading
from collections import OrderedDict
from collections.abc import Callable, Mapping, Sequence
from typing import TYPE_CHECKING, Any, TypeVar

from pemlo.core.project.narrow import RecordRow

if TYPE_CHECKING:
    from pemlo.core.project.machines import Machine
    from pemlo.core.project.project import Project
    from pemlo.core.project.shots import Shot
    from pemlo.core.project.trials import Trial

I = TypeVar("I")  # noqa: E741 - an index

SHORT, MOST_ROWS = 8, 16  # rows of so few records are looked through; indexes of so many rows are kept
_lock = threading.Lock()
_rows: OrderedDict[int, tuple[tuple[Any, ...], dict[str, Any]]] = OrderedDict()


def looked_up(row: tuple[Any, ...], name: str, make: Callable[[], I]) -> I:
    """Return an index of a row under its name; made if there is none."""
    if len(row) <= SHORT:
        return make()
    with _lock:
        # The row itself is kept, so that no other can have its place in memory.
        _, indexes = _rows.setdefault(id(row), (row, {}))
        _rows.move_to_end(id(row))
        if len(_rows) > MOST_ROWS:
            _rows.popitem(last=False)
    if name not in indexes:
        indexes[name] = make()
    index: I = indexes[name]
    return index


def shots_by_name(shots: "tuple[Shot, ...]") -> "Mapping[str, Shot]":
    """Return shots by their names."""
    return looked_up(shots, "by name", lambda: {shot.name: shot for shot in shots})


def trials_by_shot(trials: "tuple[Trial, ...]") -> "Mapping[str, Sequence[Trial]]":
    """Return the trials of each shot that has some, in their order."""

    def make() -> "dict[str, list[Trial]]":
        found: dict[str, list[Trial]] = {}
        for trial in trials:
            found.setdefault(trial.shot, []).append(trial)
        return found

    return looked_up(trials, "by shot", make)


def counted(trials: "tuple[Trial, ...]") -> "tuple[Trial, ...]":
    """Return the trials that are not left out."""
    return looked_up(trials, "counted", lambda: tuple(trial for trial in trials if not trial.left_out))


def counted_values(trials: "tuple[Trial, ...]", field: str) -> frozenset[Any]:
    """Return what the trials that are not left out have in a field."""
    return looked_up(trials, f"values of {field}", lambda: frozenset(getattr(one, field) for one in counted(trials)))


def trials_with(trials: "tuple[Trial, ...]", field: str) -> "tuple[Trial, ...]":
    """Return the trials that say something of a field."""
    return looked_up(
        trials, f"with {field}", lambda: tuple(trial for trial in trials if getattr(trial, field) is not None)
    )


def speeds(machines: "tuple[Machine, ...]") -> tuple[tuple[str, float], ...]:
    """Return how fast each machine is, by its name."""
    return looked_up(machines, "speeds", lambda: RecordRow((machine.name, machine.speed) for machine in machines))


def same_look(project: "Project", shot: "Shot") -> set[str]:
    """Return the names of the shots that look like a shot, itself among them; none where no look is said."""
    return {one.name for one in project.shots if one.look == shot.look} if shot.look else set()
