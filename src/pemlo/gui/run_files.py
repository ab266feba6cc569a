"""Writes what the machines are planned for, as a calendar or a table. GUI thread."""

from datetime import UTC, datetime
from pathlib import Path
from typing import TYPE_CHECKING, Literal

from PySide6.QtWidgets import QFileDialog

from pemlo.core.errors import InputError

if TYPE_CHECKING:
    from pemlo.gui.window import Window


def write_run(window: "Window", what: Literal["calendar", "hours"]) -> None:
    """Ask for a file, and write the run of the film into it.

    Raises
    ------
    InputError
        If the run of the film as it stands is not known.
    FileError
        If it cannot be written.
    """
    from pemlo.core.persistence.calendar_file import write_calendar, write_hours  # noqa: PLC0415 - heavy to load

    answer = window.state.answer
    finish = None if answer is None or answer.project is not window.document.project else answer.finish
    if answer is None or finish is None:
        hint = "Wait until every frame was run, or time one first."
        raise InputError("The run of the film is not known yet.", hint)
    if what == "calendar":
        ask = ("Write the run as a calendar", "run.ics", "Calendar (*.ics)")
    else:
        ask = ("Write the hours as CSV", "hours.csv", "CSV (*.csv)")
    name, _ = QFileDialog.getSaveFileName(window, *ask)
    if name and what == "calendar":
        write_calendar(answer.project, finish, Path(name), datetime.now(UTC))
    elif name:
        write_hours(answer.project, finish, Path(name))
