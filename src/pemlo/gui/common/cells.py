"""How what is typed into a cell or field is read. Qt-free, for presenters."""

from collections.abc import Callable
from typing import Any

from pemlo.core.errors import InputError, Problem

NOTHING = "–"  # what a cell says where there is nothing


def read(parse: Callable[[str], Any], text: str, what: str) -> Any:  # noqa: ANN401 - passes on what was read
    """Read what was typed.

    Raises
    ------
    InputError
        That names the cell.
    """
    try:
        return parse(text)
    except ValueError as error:
        raise InputError([Problem(what, str(error))]) from error


def optional(parse: Callable[[str], Any]) -> Callable[[str], Any]:
    """Let an empty cell, a dash or ``none`` mean nothing."""
    return lambda text: None if text.strip().lower() in ("", NOTHING, "-", "none") else parse(text)
