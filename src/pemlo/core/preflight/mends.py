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
