"""The `.pemlo` file: JSON with a format and a version."""

import json
import math
from pathlib import Path
from typing import Any, NoReturn

from pydantic import ValidationError

from pemlo.core.errors import FileError, InputError
from pemlo.core.persistence.upgrade import VERSION, upgraded
from pemlo.core.persistence.whole_files import read_whole, write_whole
from pemlo.core.project.project import Project
from pemlo.core.project.record import explain

FORMAT = "pemlo"
LARGEST_BYTES = 256 * 1024 * 1024
MOST_PROBLEMS = 20
LONGEST_NUMBER = 100  # digits
DEEPEST = 100  # lists and objects in each other; what is deeper could be read and not written again


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

    def finite(written: str) -> float:
        value = float(written)
        if not math.isfinite(value):
            raise ValueError(f"{written[:20]} is too large a number")
        return value

    def whole(written: str) -> int:
        if len(written) > LONGEST_NUMBER:
            raise ValueError(f"{written[:20]}… is too large a number")
        return int(written)

    def once(pairs: list[tuple[str, Any]]) -> dict[str, Any]:
        found = dict(pairs)
        if len(found) < len(pairs):
            names = [key for key, _ in pairs]
            twice = next(key for key in found if names.count(key) > 1)
            raise ValueError(f"“{twice[:40]}” stands twice in one place")
        return found

    back = "go back to an older copy."
    try:
        data = json.loads(text, parse_constant=refuse, parse_float=finite, parse_int=whole, object_pairs_hook=once)
    except json.JSONDecodeError as error:
        hint = f"It breaks off or is damaged at line {error.lineno}; {back}"
        raise FileError(f"{name} cannot be read.", hint, "damaged") from error
    except RecursionError:
        data = None
    except ValueError as error:
        raise FileError(f"{name} cannot be read: {error}.", f"It is damaged; {back}", "damaged") from error
    if data is None or _is_deeper(data, DEEPEST):
        hint = f"It holds more than {DEEPEST} lists in each other; {back}"
        raise FileError(f"{name} cannot be read.", hint, "damaged")
    return data


def _is_deeper(data: object, most: int) -> bool:
    """Return whether lists and objects stand in each other more than so often."""
    level = [data]
    for _ in range(most + 1):
        level = [
            inside
            for one in level
            if isinstance(one, list | dict)
            for inside in (one.values() if isinstance(one, dict) else one)
            if isinstance(inside, list | dict)
        ]
        if not level:
            return False
    return True


def read_project(path: Path) -> Project:
    """Read a project file.

    Raises
    ------
    FileError, InputError
        As `from_text`, and if the file cannot be opened, is too large or is not UTF-8.
    """
    return from_bytes(read_whole(path, LARGEST_BYTES, "It is not a Pemlo project."), path.name)


def from_bytes(raw: bytes, name: str) -> Project:
    """Make a project from the bytes of a file.

    Raises
    ------
    FileError, InputError
        As `from_text`, and if it is not UTF-8.
    """
    try:
        text = raw.decode("utf-8")
    except UnicodeDecodeError as error:
        hint = "It is not a Pemlo project, or was saved by another program."
        raise FileError(f"{name} is not UTF-8 text.", hint, "encoding") from error
    return from_text(text, name)


def write_project(project: Project, path: Path) -> None:
    """Write a project file, whole or not at all.

    Raises
    ------
    FileError
        If it cannot be written; the old file is as it was.
    """
    write_whole(to_text(project), path)
