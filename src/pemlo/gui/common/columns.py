"""Columns of a table as data: what a cell says and how it is edited. Qt-free, for presenters."""

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from datetime import datetime
from pathlib import Path
from typing import Any, Generic, Literal, Protocol, TypeVar, runtime_checkable

from pemlo.core.project.project import Project

R = TypeVar("R")
Role = Literal["ink", "time", "faint", "limit", "picture"]


@runtime_checkable
class EditsMany(Protocol):
    """An edit that can change many rows faster than one after another."""

    def many(self, project: Project, rows: Sequence[Any], texts: Sequence[str]) -> Project:
        """Return the project with the text of each row taken."""


@dataclass(frozen=True)
class Column(Generic[R]):
    """A column over rows of type R.

    Attributes
    ----------
    title, tip : str
        The header, and what the column means.
    text : callable
        What a cell says.
    edit : callable or None
        Takes the project, the row and what was typed, and returns the changed project; None if it cannot be edited.
    typed : callable or None
        What an editor begins with, if not what the cell says.
    figures : bool
        Whether cells are figures and stand at the right.
    role : callable
        In which colour a cell is written.
    width : int
        Pixels it starts with.
    choices : tuple of str
        What an editor offers to pick, if anything.
    picture : callable or None
        File of which a small picture stands in the cell; None for none.
    order : callable or None
        What rows are sorted and compared by, None where there is nothing; by default what the cell says.
    unit_s : float
        Seconds that one of the numbers in `order` stands for, where they are times.
    total : callable or None
        What the column says of several rows together.
    left_out : str
        What a total does not count, said beside it, where a reader compares it with another.
    single : bool
        Whether a value belongs to one row alone, such as a name: it is never given to several.
    about : callable or None
        What more a cell says of its row where the pointer rests.
    """

    title: str
    tip: str
    text: Callable[[R], str]
    edit: Callable[[Project, R, str], Project] | None = None
    typed: Callable[[R], str] | None = None
    figures: bool = True
    role: Callable[[R], Role] = lambda _: "ink"
    width: int = 70
    choices: tuple[str, ...] = ()
    picture: Callable[[R], Path | None] | None = None
    order: Callable[[R], Any] | None = None
    unit_s: float = 1.0
    total: Callable[[Sequence[R]], str] | None = None
    left_out: str = ""
    single: bool = False
    about: Callable[[R], str] | None = None


def typed_text(column: Column[R], row: R) -> str:
    """Return what an editor of a cell begins with, and what is copied of it."""
    return (column.typed or column.text)(row)


@dataclass(frozen=True)
class Field:
    """A field of a form: its label, what it says, and how it is edited.

    Of a date, `moment` says with which one a calendar opens.
    """

    name: str
    label: str
    tip: str
    text: Callable[[Project], str]
    edit: Callable[[Project, str], Project]
    choices: tuple[str, ...] = ()
    unit: str = ""
    moment: Callable[[Project], datetime] | None = None
