"""What puts a launch right: changes of its rows. Pure."""

from collections.abc import Callable
from typing import Any

from pemlo.core.preflight.situation import plan_row
from pemlo.core.project.project import Project


def set_row(shot: str, **fields: Any) -> Callable[[Project], Project]:  # noqa: ANN401 - whatever the fields hold
    """Return the change that sets fields in every row of a shot; where it has none, one is made from its plan."""

    def change(project: Project) -> Project:
        rows = project.launch
        if all(row.shot != shot for row in rows):
            rows = (*rows, plan_row(project, project.shot(shot)))
        return project.changed(launch=tuple(row.changed(**fields) if row.shot == shot else row for row in rows))

    return change


def one_piece(shot: str) -> Callable[[Project], Project]:
    """Return the change that puts the pieces of a shot into one row, with the range of the shot."""

    def change(project: Project) -> Project:
        whole = plan_row(project, project.shot(shot))
        first = next(row for row in project.launch if row.shot == shot)
        joined = first.changed(first=whole.first, last=whole.last)
        rows = [joined if row is first else row for row in project.launch if row is first or row.shot != shot]
        return project.changed(launch=tuple(rows))

    return change
