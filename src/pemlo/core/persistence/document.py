"""The `.pemlo` file: JSON with a format and a version, written whole or not at all.

A save goes to a file beside the target, is flushed to the disk, and takes the target's name in one step: whoever dies
in between leaves the old document as it was.
"""

import json
import os
from contextlib import suppress
from pathlib import Path
from typing import Any, NoReturn

from pydantic import ValidationError

from pemlo.core.errors import FileError, InputError
from pemlo.core.persistence.upgrade import VERSION, upgraded
from pemlo.core.plan.project import Project
from pemlo.core.plan.record import explain

FORMAT = "pemlo"
LARGEST_BYTES = 256 * 1024 * 1024
MOST_PROBLEMS = 20


def to_text(project: Project) -> str:
    """Write a project as the text of its file."""
    data = {"format": FORMAT, "version": VERSION, **project.model_dump(mode="json")}
    return json.dumps(data, ensure_ascii=False, indent=1) + "\n"


def from_text(text: str, name: str) -> Project:
    """Read a project from the text of its file.

    Parameters
    ----------
    text : str
    name : str
        What to call the file in messages.

    Raises
    ------
    FileError
        If it is no project, or of a newer version.
    InputError
        If something in it is not allowed; each problem says where.
    """
    data = _parsed(text, name)
    if not isinstance(data, dict) or data.get("format") != FORMAT:
        raise FileError(f"{name} is not a Pemlo project.", "Open a file that Pemlo has saved.", "not a project")
    version = data.get("version")
    if not isinstance(version, int) or isinstance(version, bool) or version < 1:
        raise FileError(f"{name} does not say its version.", "It is damaged; go back to an older copy.", "damaged")
    if version > VERSION:
        raise FileError(
            f"{name} was saved by a newer Pemlo (file version {version}, this one reads up to {VERSION}).",
            "Update Pemlo to open it; the file has not been changed.",
            "newer version",
        )
    fields = {key: value for key, value in upgraded(data, version).items() if key not in ("format", "version")}
    try:
        return Project.model_validate(fields)
    except ValidationError as error:
        raise InputError(explain(error, name)[:MOST_PROBLEMS], "The file has not been changed.", "damaged") from error


def _parsed(text: str, name: str) -> Any:  # noqa: ANN401 - JSON can be anything
    def refuse(constant: str) -> NoReturn:
        raise ValueError(f"{constant} is not a number")

    try:
        return json.loads(text, parse_constant=refuse)
    except json.JSONDecodeError as error:
        hint = f"It breaks off or is damaged at line {error.lineno}; go back to an older copy."
        raise FileError(f"{name} cannot be read.", hint, "damaged") from error
    except (ValueError, RecursionError) as error:
        raise FileError(f"{name} cannot be read.", "It is damaged; go back to an older copy.", "damaged") from error


def read_project(path: Path) -> Project:
    """Read a project file.

    Raises
    ------
    FileError, InputError
        As `from_text`, and if the file cannot be opened, is too large or is not UTF-8.
    """
    try:
        if path.stat().st_size > LARGEST_BYTES:
            raise FileError(f"{path.name} is larger than 256 MiB.", "It is not a Pemlo project.", "too large")
        text = path.read_bytes().decode("utf-8")
    except UnicodeDecodeError as error:
        hint = "It is not a Pemlo project, or was saved by another program."
        raise FileError(f"{path.name} is not UTF-8 text.", hint, "encoding") from error
    except OSError as error:
        raise FileError(f"{path.name} cannot be opened: {error.strerror}.", "Check its place and rights.") from error
    return from_text(text, path.name)


def write_project(project: Project, path: Path) -> None:
    """Write a project file, whole or not at all.

    Raises
    ------
    FileError
        If it cannot be written; the old file is as it was.
    """
    write_whole(to_text(project), path)


def write_whole(text: str, path: Path) -> None:
    """Write a text file so that its name always stands for a complete one.

    Raises
    ------
    FileError
        If it cannot be written; what was there before is as it was.
    """
    beside = path.with_name(f".{path.name}.{os.getpid()}.saving")
    try:
        for left in path.parent.glob(f".{path.name}.*.saving"):
            left.unlink(missing_ok=True)
        with beside.open("w", encoding="utf-8", newline="\n") as file:
            file.write(text)
            file.flush()
            os.fsync(file.fileno())
        beside.replace(path)
        _flush_folder(path.parent)
    except OSError as error:
        with suppress(OSError):
            beside.unlink(missing_ok=True)
        hint = "Check that the folder exists, may be written to and has room, or save elsewhere."
        raise FileError(f"{path.name} cannot be saved: {error.strerror}.", hint, "cannot save") from error


def _flush_folder(folder: Path) -> None:
    handle = os.open(folder, os.O_RDONLY)
    try:
        os.fsync(handle)
    finally:
        os.close(handle)
