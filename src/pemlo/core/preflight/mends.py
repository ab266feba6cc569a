"""What puts a launch right: changes of its rows. Pure."""

from collections.abc import Callable
from typing import Any

from pemlo.core.project.project import Project


def set_row(shot: str, **fields: Any) -> Callable[[Project], Project]:  # noqa: ANN401 - whatever the fields hold
    """Return the change that sets fields in every row of a shot.

    A film whose launch nobody typed gets no rows: there its plan is what is checked.
    """

    def change(project: Project) -> Project:
        rows = tuple(row.changed(**fields) if row.shot == shot else row for row in project.launch)
        return project.changed(launch=rows)

    return change


def set_all_rows(**fields: Any) -> Callable[[Project], Project]:  # noqa: ANN401 - as above
    """Return the change that sets fields in all rows."""
    return lambda project: project.changed(launch=tuple(row.changed(**fields) for row in project.launch))
