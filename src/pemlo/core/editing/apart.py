"""Reads an edit in a process of its own: what a damaged file does to the reader, it does there. Files; half a second.

The reader of OpenTimelineIO is compiled, and some damaged files end its process without a word.
"""

import json
import resource
import subprocess
import sys
from dataclasses import asdict
from pathlib import Path
from typing import Any

from pemlo.core.editing.edit import HINT, CutShot, Edit
from pemlo.core.editing.read_edit import read_edit
from pemlo.core.errors import FileError, InputError, PemloError, Problem
from pemlo.core.processes import command_of, finished
from pemlo.core.units import GIB

LONGEST_S = 120.0
MOST_MEMORY = 4 * GIB  # a file of the largest size takes half of it
_REFUSED = 2


def read_edit_apart(path: Path, fps: float) -> Edit:
    """Read an edit; parameters and errors are those of `read_edit`."""
    try:
        run = finished(command_of("pemlo.core.editing.apart", str(path.absolute()), repr(fps)), LONGEST_S)
    except subprocess.TimeoutExpired as error:
        raise InputError([Problem(path.name, "takes too long to read")], HINT) from error
    if run.returncode == 0:
        return _edit(json.loads(run.stdout))
    if run.returncode == _REFUSED:
        raise _error(json.loads(run.stdout))
    if run.returncode < 0:
        raise InputError([Problem(path.name, "is damaged: what reads it breaks down")], HINT)
    raise RuntimeError(run.stderr.decode(errors="replace")[-600:])


def _edit(found: dict[str, Any]) -> Edit:
    shots = tuple(CutShot(**{**one, "speeds": tuple(one["speeds"])}) for one in found["shots"])
    return Edit(found["name"], found["fps"], shots, tuple(found["left_aside"]))


def _error(found: dict[str, Any]) -> PemloError:
    if found["problems"]:
        return InputError([Problem(*one) for one in found["problems"]], found["hint"])
    return FileError(found["message"], found["hint"])


def main(arguments: list[str]) -> int:
    """Read an edit, and write it or what is wrong as JSON."""
    path, fps = Path(arguments[0]), float(arguments[1])
    resource.setrlimit(resource.RLIMIT_AS, (MOST_MEMORY, MOST_MEMORY))
    try:
        sys.stdout.write(json.dumps(asdict(read_edit(path, fps))))
    except PemloError as error:
        problems = (
            [[problem.where, problem.what] for problem in error.problems] if isinstance(error, InputError) else []
        )
        sys.stdout.write(json.dumps({"message": error.message, "hint": error.hint, "problems": problems}))
        return _REFUSED
    return 0


if __name__ == "__main__":
    sys.exit(main(sys.argv[1:]))
