"""The small table of a way as text: how a denoiser, a switch or "no threshold" is said, a line each. Pure text."""

from collections.abc import Iterable

from pemlo.core.errors import InputError, Problem
from pemlo.core.project.record import build
from pemlo.core.project.render_ways import SAID_FIELDS, Saying

HINT = (
    "Write a field, a value, = and the words: “denoise frame = --clean 1”, “threshold none =”, "
    "“region any = --crop {value}”, “switch motion blur = --blur 1 | --blur 0”."
)


def read_saying(text: str) -> Saying:
    """Read a line of the table.

    Raises
    ------
    InputError
        If it is none.

    Examples
    --------
    >>> one = read_saying("switch motion blur = --blur 1 | --blur 0")
    >>> one.field, one.value, one.words, one.otherwise
    ('switch', 'motion blur', '--blur 1', '--blur 0')
    """
    left, equals, right = text.partition("=")
    name, _, value = left.strip().partition(" ")
    if not equals or name not in SAID_FIELDS or not value.strip():
        raise InputError([Problem("Said", f"“{text.strip()[:60]}” is no line of the table")], HINT)
    words, _, otherwise = right.partition(" |") if name == "switch" else (right, "", "")
    fields = {"field": name, "value": value.strip(), "words": words.strip(), "otherwise": otherwise.strip()}
    return build(Saying, fields, "Said")


def read_sayings(text: str) -> tuple[Saying, ...]:
    """Read the table; empty lines count for nothing."""
    return tuple(read_saying(line) for line in text.splitlines() if line.strip())


def sayings_text(sayings: Iterable[Saying]) -> str:
    """Write the table, a line each."""
    return "\n".join(
        f"{one.field} {one.value} = {one.words}{f' | {one.otherwise}' if one.otherwise else ''}" for one in sayings
    )
