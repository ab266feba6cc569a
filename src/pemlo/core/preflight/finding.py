"""What a check finds. Imports the document only."""

from collections.abc import Callable
from dataclasses import dataclass
from typing import Literal

from pemlo.core.project.project import Project

Outcome = Literal["fine", "wrong", "not known"]
FINE: Outcome = "fine"
WRONG: Outcome = "wrong"
UNKNOWN: Outcome = "not known"


@dataclass(frozen=True)
class Fix:
    """What puts something right: its name, and the change of the film."""

    name: str
    change: Callable[[Project], Project]


@dataclass(frozen=True)
class Finding:
    """What a check finds.

    Attributes
    ----------
    check : str
    outcome : str
    words : str
        What is wrong, or what would tell; mostly empty where all is fine.
    todo : str
        How to mend it.
    shot : str
        Empty for the whole film.
    mend : Fix or None
        What Pemlo can do about it.
    """

    check: str
    outcome: Outcome
    words: str = ""
    todo: str = ""
    shot: str = ""
    mend: Fix | None = None


def fine(check: str, shot: str = "", words: str = "") -> Finding:
    """Return that all is fine; with words where somebody waits for them."""
    return Finding(check, FINE, words, shot=shot)


def wrong(check: str, words: str, todo: str, shot: str = "", mend: Fix | None = None) -> Finding:
    """Return that something is wrong."""
    return Finding(check, WRONG, words, todo, shot, mend)


def not_known(check: str, words: str, todo: str = "", shot: str = "", mend: Fix | None = None) -> Finding:
    """Return what is not known, and what would tell."""
    return Finding(check, UNKNOWN, words, todo, shot, mend)
