"""Tables as text: CSV or what is pasted from a table program, columns by their header, problems by line and column.

Cells that a table program would run are written with an apostrophe before them, and read without it.
"""

import csv
import io
import re
from collections.abc import Callable, Iterable, Sequence
from dataclasses import dataclass, field
from pathlib import Path
from typing import Any, TypeVar

from pemlo.core.errors import FileError, InputError, Problem
from pemlo.core.plan.settings import KEEPABLE
from pemlo.core.units import parse_duration

_RUNS = ("=", "+", "-", "@", "\t", "\r")
_NUMBER = re.compile(r"[+-]?\d+([.,]\d+)?")
MOST_PROBLEMS = 200
LARGEST_BYTES = 64 * 1024 * 1024

Parse = Callable[[str], Any]
W = TypeVar("W", bound=str)


@dataclass(frozen=True)
class Column:
    """A column that is known: its header, how a cell is read, and whether it must be there and filled."""

    name: str
    parse: Parse
    needed: bool = False


@dataclass
class Row:
    """One line of a table: its number in the file, what was read by field, and cells of unknown columns."""

    line: int
    values: dict[str, Any]
    extra: tuple[tuple[str, str], ...]
    problems: list[Problem] = field(default_factory=list)


def read_rows(text: str, columns: Sequence[Column], name: str) -> tuple[list[Row], list[Problem], set[str]]:
    """Read a table.

    Parameters
    ----------
    text : str
        With a header line; commas, semicolons or tabs between cells.
    columns : sequence of Column
        Those that are known; others are kept as text.
    name : str
        What to call the table in messages.

    Returns
    -------
    rows : list of Row
        Empty cells are left out of `values`.
    problems : list of Problem
        Every wrong cell, by file, line and column.
    present : set of str
        Known columns that the header has.
    """
    lines = list(csv.reader(io.StringIO(text, newline=""), delimiter=_delimiter(text)))
    if not lines or not any(cell.strip() for cell in lines[0]):
        return [], [Problem(name, "is empty; the first line must name the columns")], set()
    header = [re.sub(r"[\s-]+", "_", cell.strip().lower()) for cell in lines[0]]
    known = {column.name: column for column in columns}
    problems = [
        Problem(f"{name}, line 1", f"the column “{column.name}” is missing")
        for column in columns
        if column.needed and column.name not in header
    ]
    problems += [
        Problem(f"{name}, line 1", f"the column “{title}” is there twice")
        for title in sorted({title for title in header if title and header.count(title) > 1})
    ]
    if problems:
        return [], problems, set()
    rows = [
        _read_row(number, cells, lines[0], header, known, name)
        for number, cells in enumerate(lines[1:], start=2)
        if any(cell.strip() for cell in cells)
    ]
    return rows, [problem for row in rows for problem in row.problems], known.keys() & set(header)


def _read_row(
    line: int, cells: list[str], titles: list[str], header: list[str], known: dict[str, Column], name: str
) -> Row:
    row = Row(line, {}, ())
    if len(cells) > len(header) and any(cell.strip() for cell in cells[len(header) :]):
        row.problems.append(Problem(f"{name}, line {line}", f"has {len(cells)} cells, the header {len(header)}"))
    extra = []
    for title, key, cell in zip(titles, header, [*cells, *[""] * len(header)], strict=False):
        text = _as_typed(cell)
        column = known.get(key)
        if column is None:
            if key:
                extra.append((title.strip(), text))
        elif text:
            try:
                row.values[key] = column.parse(text)
            except (ValueError, InputError) as error:
                row.problems.append(Problem(f"{name}, line {line}, column {key}", str(error)))
        elif column.needed:
            row.problems.append(Problem(f"{name}, line {line}, column {key}", "is empty"))
    row.extra = tuple(extra)
    return row


def write_rows(header: Sequence[str], rows: Iterable[Sequence[str]]) -> str:
    """Write a table with commas, quoted as RFC 4180 says; cells that would be run get an apostrophe."""
    out = io.StringIO(newline="")
    writer = csv.writer(out, lineterminator="\r\n")
    writer.writerow([_harmless(title) for title in header])
    writer.writerows([_harmless(cell) for cell in row] for row in rows)
    return out.getvalue()


def _harmless(cell: str) -> str:
    if cell.startswith((*_RUNS, "'")) and not _NUMBER.fullmatch(cell):
        return "'" + cell
    return cell


def _as_typed(cell: str) -> str:
    if cell[:1] == "'" and cell[1:2] in (*_RUNS, "'"):
        return cell[1:]
    return cell.strip()


def _delimiter(text: str) -> str:
    first = text.split("\n", 1)[0]
    return max(("\t", ";", ","), key=first.count)


def read_table_file(path: Path) -> str:
    """Return the text of a table file, which must be UTF-8 (or UTF-16 with its mark).

    Raises
    ------
    FileError
        If it cannot be opened, is too large or is in another encoding.
    """
    try:
        if path.stat().st_size > LARGEST_BYTES:
            raise FileError(f"{path.name} is larger than 64 MiB.", "Split it.", "too large")
        raw = path.read_bytes()
    except OSError as error:
        raise FileError(f"{path.name} cannot be opened: {error.strerror}.", "Check its place and rights.") from error
    try:
        text = raw.decode("utf-16") if raw[:2] in (b"\xff\xfe", b"\xfe\xff") else raw.decode("utf-8-sig")
    except UnicodeDecodeError as error:
        line = raw[: error.start].count(b"\n") + 1
        hint = "Save it again as CSV with the encoding UTF-8."
        raise FileError(f"{path.name} is not UTF-8 text (line {line}).", hint, "encoding") from error
    if "\0" in text:
        raise FileError(f"{path.name} is not a text file.", "Save the table as CSV.", "encoding")
    return text


def whole_number(text: str) -> int:
    """Read a whole number; ``1.0`` counts as one."""
    value = number(text)
    if value != int(value):
        raise ValueError(f"“{text}” is not a whole number")
    return int(value)


def number(text: str) -> float:
    """Read a number with a decimal point or comma; a percent sign after it is passed over."""
    if not _NUMBER.fullmatch(text.removesuffix("%").strip()) and not re.fullmatch(r"[+-]?\d*\.?\d+[eE][+-]?\d+", text):
        raise ValueError(f"“{text}” is not a number")
    return float(text.removesuffix("%").strip().replace(",", "."))


def seconds_or_none(text: str) -> float:
    """Read a duration that may be zero."""
    return 0.0 if re.fullmatch(r"0+([.,]0*)?\s*s?", text) else parse_duration(text)


def some_of(text: str, allowed: Sequence[W], cannot: str) -> tuple[W, ...]:
    """Read some of a few words, in their own order; ``nothing`` or an empty text for none of them.

    `cannot` says what is wrong with any other word.
    """
    words = [word for word in re.split(r"[\s,;+/|]+", text.lower()) if word not in ("", "and", "nothing", "none", "-")]
    wrong = sorted(set(words) - set(allowed))
    if wrong:
        raise ValueError(f"“{wrong[0]}” {cannot}; write some of {', '.join(allowed)}")
    return tuple(word for word in allowed if word in words)


def kept_stages(text: str) -> tuple[str, ...]:
    """Read the stages whose data are kept: ``prepare light``, or ``nothing``."""
    return some_of(text, KEEPABLE, "cannot be kept")


def gibibytes(text: str) -> float:
    """Read an amount of memory in GiB; another unit is refused, because guessing it would be wrong by factors."""
    return number(re.sub(r"(?i)\s*gib$", "", text))


def mebibytes(text: str) -> float:
    """Read a size on disk in MiB; another unit is refused."""
    return number(re.sub(r"(?i)\s*mib$", "", text))


def refuse_if(problems: Sequence[Problem], what: str) -> None:
    """Raise all problems of a table at once.

    Raises
    ------
    InputError
        If there is any.
    """
    if problems:
        more = len(problems) - MOST_PROBLEMS
        hint = f"Nothing was taken from {what}; correct these and bring it in again."
        raise InputError([*problems[:MOST_PROBLEMS], *([Problem("", f"and {more} more")] if more > 0 else [])], hint)
