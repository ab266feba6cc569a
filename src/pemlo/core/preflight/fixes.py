"""What puts a launch right: changes of its rows. Pure."""

from collections.abc import Callable
from typing import Any

from pemlo.core.preflight.check_context import plan_rows
from pemlo.core.project.project import Project


def set_row(shot: str, **fields: Any) -> Callable[[Project], Project]:  # noqa: ANN401 - whatever the fields hold
    """Return the change that sets fields in every row of a shot; where it has none, one is made from its plan."""

    def change(project: Project) -> Project:
        rows = project.launch
        if all(row.shot != shot for row in rows):
            rows = (*rows, *plan_rows(project, project.shot(shot)))
        return project.replace(launch=tuple(row.replace(**fields) if row.shot == shot else row for row in rows))

    return change


def as_one(shot: str) -> Callable[[Project], Project]:
    """Return the change that puts the pieces of a shot into one row for each of its ranges."""

    def change(project: Project) -> Project:
        first = next(row for row in project.launch if row.shot == shot)
        joined = [first.replace(first=one.first, last=one.last) for one in plan_rows(project, project.shot(shot))]
        rows = [joined if row is first else [row] for row in project.launch if row is first or row.shot != shot]
        return project.replace(launch=tuple(one for some in rows for one in some))

    return change
