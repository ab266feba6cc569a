"""Which commands the person has allowed on this computer, and their own ways for other films. A file; any thread.

A project comes from others, and its ways are commands: none is run before somebody here has seen and allowed it, for
the folder that it begins in, since a command may run what lies there.
"""

import hashlib
import json
import os
from collections.abc import Iterable
from pathlib import Path

import platformdirs
from pydantic import ValidationError

from pemlo.core.errors import FileError, InputError
from pemlo.core.persistence.whole_files import read_whole, write_whole
from pemlo.core.project.render_ways import RenderWay
from pemlo.core.trialrun.small_renderer import small_renderer

_MOST_BYTES, _MOST_ALLOWED, _MOST_KEPT = 8 * 2**20, 5000, 100
HINT = "Look at it with --dry-run, then allow it: pemlo way PROJECT NAME --allow, or in Trials."


def _file() -> Path:
    return Path(platformdirs.user_config_dir("pemlo", appauthor=False)) / "ways.json"


def digest(way: RenderWay, base: Path) -> str:
    """Return what tells a command from any other: all that decides what is run, and the folder it begins in."""
    decides = {
        "base": os.path.realpath(base),
        "command": way.command,
        "shell": way.shell,
        "folder": way.folder,
        "environment": way.environment,
        "sayings": [one.model_dump() for one in way.sayings],
        "machines": [one.model_dump() for one in way.machines],
        "picture": way.picture,
    }
    return hashlib.sha256(json.dumps(decides, sort_keys=True).encode()).hexdigest()


def _stored() -> tuple[list[str], list[RenderWay]]:
    path = _file()
    try:
        if not path.exists():
            return [], []
        data = json.loads(read_whole(path, _MOST_BYTES, "Remove it."))
        ways = [RenderWay.model_validate(one) for one in data.get("ways", [])]
        return [str(one) for one in data.get("allowed", [])], ways
    except (FileError, OSError, ValueError, AttributeError, ValidationError):
        return [], []  # what cannot be read allows nothing


def _store(allowed: Iterable[str], ways: Iterable[RenderWay]) -> None:
    path = _file()
    data = {
        "allowed": list(allowed)[-_MOST_ALLOWED:],
        "ways": [one.model_dump(mode="json") for one in ways][-_MOST_KEPT:],
    }
    try:
        path.parent.mkdir(parents=True, exist_ok=True)
    except OSError as error:
        raise FileError(f"{path.parent} cannot be made: {error.strerror}.") from error
    write_whole(json.dumps(data, indent=1), path)


def is_allowed(way: RenderWay, base: Path) -> bool:
    """Return whether the person has allowed a way's command in a project's folder on this computer."""
    return digest(way, base) in _stored()[0]


def allow(way: RenderWay, base: Path) -> None:
    """Allow a way's command in a project's folder on this computer."""
    allowed, ways = _stored()
    if digest(way, base) not in allowed:
        _store([*allowed, digest(way, base)], ways)


def may_run(way: RenderWay, base: Path) -> bool:
    """Return whether a way may be run: it was allowed here, or is the one that ships with Pemlo."""
    return way == small_renderer() or is_allowed(way, base)


def see_that_it_may_run(way: RenderWay, base: Path) -> None:
    """Refuse a way that nobody has allowed here.

    Raises
    ------
    InputError
    """
    if not may_run(way, base):
        raise InputError(f"The command of way {way.name} came with the project and was not allowed here.", HINT)


def own_ways() -> tuple[RenderWay, ...]:
    """Return the person's own ways, that any film can take."""
    return tuple(_stored()[1])


def keep_way(way: RenderWay) -> None:
    """Keep a way for other films, in place of one of the same name."""
    allowed, ways = _stored()
    _store(allowed, [*(one for one in ways if one.name != way.name), way])
