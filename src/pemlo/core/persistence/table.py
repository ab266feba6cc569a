"""Tables as text: CSV or what is pasted from a table program, columns by their header, problems by line and column.

Cells that a table program would run are written with an apostrophe before them, and read without it.
"""

import csv
import io
import math
import re
import unicodedata
from collections.abc import Callable, Iterable, Mapping, Sequence
from dataclasses import dataclass, field
from pathlib import Path
from typing import Any, TypeVar

from pydantic import BaseModel

from pemlo.core.errors import FileError, InputError, Problem
from pemlo.core.foreign import shown
from pemlo.core.numerals import COMMA, POINT, decimal_mark, with_point
from pemlo.core.persistence.column_names import KEPT, WORKED_OUT, matched, unused
from pemlo.core.persistence.whole_files import read_whole
from pemlo.core.project.delivery import exact_rate
from pemlo.core.project.record import build
from pemlo.core.project.settings import KEEPABLE
from pemlo.core.project.spelling import cap, sample_count
from pemlo.core.units import parse_duration

_SIZE = re.compile(r"(\d{1,6}) ?(?:[x×*]|by) ?(\d{1,6}) ?(?:px|pixels)?")
LONGEST_SIZE = 60  # letters
_RUNS = ("=", "+", "-", "@", "\t", "\r")
_NUMBER = re.compile(r"[+-]?(\d+([.]\d+)?|[.]\d+)", re.ASCII)
_POWER = re.compile(r"[+-]?(?:\d{1,40}(?:\.\d{0,40})?|\.\d{1,40})[eE][+-]?\d{1,5}", re.ASCII)
_AMBIGUOUS = re.compile(r"\s*[+-]?[1-9]\d{0,2}[.,]\d{3}\s*")
MOST_PROBLEMS = 200
MOST_LISTED = 12  # titles in a message
NOTHING = "–"
_LONGEST_NUMBER = 400  # letters
MOST_COLUMNS = 500
LARGEST_BYTES = 64 * 1024 * 1024

Parse = Callable[[str], Any]
W = TypeVar("W", bound=str)
R = TypeVar("R", bound=BaseModel)


@dataclass(frozen=True)
class CsvColumn:
    """A column that is known: its header, how a cell is read, and whether it must be there and filled.

    Where another column says the same, `or_else` names it: then one of them must be there.
    """

    name: str
    parse: Parse
    needed: bool = False
    or_else: str = ""


@dataclass
class Row:
    """One line of a table.

    Attributes
    ----------
    where : str
        File and line, as messages name it.
    line : int
        In the file.
    values : dict
        What was read, by field; empty cells are left out.
    extra : tuple of (str, str)
        Titles and cells of columns that are not known.
    problems : list of Problem
    """

    where: str
    line: int
    values: dict[str, Any]
    extra: tuple[tuple[str, str], ...] = ()
    problems: list[Problem] = field(default_factory=list)

    def build(self, kind: type[R], values: Mapping[str, Any]) -> R | None:
        """Make a record of the line's values; None if something is wrong with them, which is in `problems` then."""
        columns = {key: f"column {key}" for key in self.values}
        columns["name"] = f"column {kind.__name__.lower()}"  # what names a shot or a machine is headed by its kind
        try:
            return build(kind, values, self.where, columns)
        except InputError as error:
            self.problems += error.problems
            return None


def read_rows(
    text: str, columns: Sequence[CsvColumn], name: str, said: Mapping[str, str] | None = None
) -> tuple[list[Row], list[Problem], set[str]]:
    """Read a table.

    Parameters
    ----------
    text : str
        With a header line; commas, semicolons or tabs between cells.
    columns : sequence of CsvColumn
        Those that are known; others are kept as text.
    name : str
        What to call the table in messages.
    said : mapping of str to str, optional
        What a person said that titles mean, by their keys; see `column_names.matched`.

    Returns
    -------
    rows : list of Row
        Empty cells are left out of `values`.
    problems : list of Problem
        Every wrong cell, by file, line and column.
    present : set of str
        Known columns that the header has.
    """
    separator = _delimiter(text)
    lines, problems = _lines(text, separator, name)
    if problems:
        return [], problems, set()
    if not lines or not any(cell.strip() for cell in lines[0][1]):
        return [], [Problem(name, "is empty; the first line must name the columns")], set()
    titles = [_as_typed(cell).strip() for cell in lines[0][1]]
    known = {column.name: column for column in columns}
    header = list(matched(titles, known, said))
    problems = _wrong_header(header, columns, name)
    if problems:
        return [], problems, set()
    body = [(line, cells) for line, cells in lines[1:] if any(cell.strip() for cell in cells)]
    marks = _decimal_marks([cells for _, cells in body], header, known, separator)
    rows = [
        _read_row(Row(f"{name}, line {line}", line, {}), cells, (titles, header), known, marks) for line, cells in body
    ]
    return rows, [problem for row in rows for problem in row.problems], known.keys() & set(header)


def titles_of(text: str) -> tuple[str, ...]:
    """Return the titles of a table, as they stand in its first line."""
    lines, _ = _lines(text.split("\n", 1)[0], _delimiter(text), "")
    return tuple(_as_typed(cell).strip() for cell in lines[0][1]) if lines else ()


def unused_titles(text: str, columns: Sequence[CsvColumn], said: Mapping[str, str] | None = None) -> tuple[str, ...]:
    """Return the titles of a table that are no column of its kind."""
    return unused(titles_of(text), {column.name for column in columns}, said)


def missing_columns(text: str, columns: Sequence[CsvColumn], said: Mapping[str, str] | None = None) -> tuple[str, ...]:
    """Return the columns that a table of its kind needs and does not have."""
    return tuple(missing_of(columns, matched(titles_of(text), {column.name for column in columns}, said)))


def missing_of(columns: Sequence[CsvColumn], header: Sequence[str]) -> list[str]:
    """Return the columns that are needed, and neither themselves nor in other words among those of a header."""
    return [
        column.name
        for column in columns
        if column.needed and column.name not in header and not (column.or_else and column.or_else in header)
    ]


def first_cells(text: str, count: int) -> tuple[tuple[str, ...], ...]:
    """Return the first rows of a table under its titles, as they stand there."""
    lines, _ = _lines("\n".join(text.splitlines()[: count + 1]), _delimiter(text), "")
    return tuple(tuple(_as_typed(cell) for cell in cells) for _, cells in lines[1 : count + 1])


def _lines(text: str, separator: str, name: str) -> tuple[list[tuple[int, list[str]]], list[Problem]]:
    """Return the cells of each line with the number of the line it begins in; quoted cells may have line breaks."""
    reader = csv.reader(io.StringIO(text, newline=""), delimiter=separator, strict=True)
    found: list[tuple[int, list[str]]] = []
    begins = 1
    try:
        for cells in reader:
            found.append((begins, cells))
            begins = reader.line_num + 1
    except csv.Error as error:
        # The reader's own words are for programmers.
        what = "has a quotation mark that is not closed, or text after a closed one"
        if "limit" in str(error):
            what = "has a cell of more than 131072 letters"
        return [], [Problem(f"{name}, line {begins}", what)]
    return found, []


def _wrong_header(header: list[str], columns: Sequence[CsvColumn], name: str) -> list[Problem]:
    where = f"{name}, line 1"
    if len(header) > MOST_COLUMNS:
        return [Problem(where, f"has {len(header)} columns; {MOST_COLUMNS} are the most")]
    missing = missing_of(columns, header)
    listed = ", ".join(shown(title, 40) for title in header[:MOST_LISTED] if title)
    has = f"; there are: {listed}{', …' if len(header) > MOST_LISTED else ''}" if listed else ""
    twice = sorted({title for title in header if title and header.count(title) > 1})
    return [
        *(Problem(where, f"the column “{title}” is missing{has}") for title in missing),
        *(Problem(where, f"the column “{title}” appears twice") for title in twice),
    ]


def _decimal_marks(
    rows: list[list[str]], header: list[str], known: dict[str, CsvColumn], separator: str
) -> dict[str, tuple[str | None, bool]]:
    """Return the mark before decimals of each column of numbers, and whether its own cells say so."""
    cells = {
        key: [row[place] for row in rows if place < len(row)]
        for place, key in enumerate(header)
        if key in known and known[key].parse in (*_WHOLE, *_NUMBERS)
    }
    of_column = {key: decimal_mark(mine) for key, mine in cells.items()}
    marks = {mark for mark in of_column.values() if mark is not None}
    of_table = marks.pop() if len(marks) == 1 else {",": POINT, ";": COMMA}.get(separator)
    return {key: (mark or of_table, mark is not None) for key, mark in of_column.items()}


def _read_row(
    row: Row,
    cells: list[str],
    heads: tuple[list[str], list[str]],
    known: dict[str, CsvColumn],
    marks: dict[str, tuple[str | None, bool]],
) -> Row:
    titles, header = heads
    if len(cells) > len(titles) and any(cell.strip() for cell in cells[len(titles) :]):
        row.problems.append(Problem(row.where, f"has {len(cells)} cells, the header {len(titles)}"))
    extra = []
    for place, (title, key) in enumerate(zip(titles, header, strict=True)):
        text = _as_typed(cells[place]) if place < len(cells) else ""
        text = "" if text == NOTHING else text  # as the program's own tables show what is not there
        column = known.get(key)
        if column is None:
            if key and key not in WORKED_OUT and (text or key not in KEPT):
                extra.append((title, text))
        elif text:
            try:
                row.values[key] = column.parse(_plain(text, column, *marks.get(key, (None, False))))
            except (ValueError, InputError) as error:
                row.problems.append(Problem(f"{row.where}, column {key}", str(error)))
        elif column.needed and column.or_else not in header:
            row.problems.append(Problem(f"{row.where}, column {key}", "is empty"))
    row.extra = tuple(extra)
    return row


def _plain(text: str, column: CsvColumn, mark: str | None, of_column: bool) -> str:  # noqa: FBT001 - a pair, as above
    """Return a cell of numbers with a decimal point; others as they are."""
    if column.parse not in (*_WHOLE, *_NUMBERS):
        return text
    if mark is None and column.parse in _NUMBERS and COMMA not in text:
        mark = POINT  # as the program writes them
    return with_point(text, mark, whole=column.parse in _WHOLE and not of_column)


def write_rows(header: Sequence[str], rows: Iterable[Sequence[str]]) -> str:
    """Write a table with commas, quoted as RFC 4180 says; cells that would be run get an apostrophe."""
    out = io.StringIO(newline="")
    writer = csv.writer(out, lineterminator="\r\n")
    writer.writerow([harmless(title) for title in header])
    writer.writerows([harmless(cell) for cell in row] for row in rows)
    return out.getvalue()


def harmless(cell: str) -> str:
    """Return a cell as it is written: with an apostrophe before it where a table program would run it."""
    if _would_run(cell) and not _NUMBER.fullmatch(cell):
        return "'" + cell
    return cell


def _would_run(cell: str) -> bool:
    """Return whether a table program may run a cell, or take off its apostrophe; wide letters count as plain ones."""
    return unicodedata.normalize("NFKC", cell[:1]).startswith((*_RUNS, "'"))


def _as_typed(cell: str) -> str:
    return cell[1:] if cell[:1] == "'" and _would_run(cell[1:2]) else cell.strip()


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
    return table_text(read_whole(path, LARGEST_BYTES, "Split it."), path.name)


def table_text(raw: bytes, name: str) -> str:
    """Return the text of a table's bytes; `name` is what messages call it.

    Raises
    ------
    FileError
        If it is in another encoding.
    """
    try:
        text = raw.decode("utf-16") if raw[:2] in (b"\xff\xfe", b"\xfe\xff") else raw.decode("utf-8-sig")
    except UnicodeDecodeError as error:
        line = raw[: error.start].count(b"\n") + 1
        hint = "Save it again as CSV with the encoding UTF-8."
        raise FileError(f"{name} is not UTF-8 text (line {line}).", hint, "encoding") from error
    if "\0" in text:
        raise FileError(f"{name} is not a text file.", "Save the table as CSV.", "encoding")
    return text


def whole_number(text: str) -> int:
    """Read a whole number; ``1.0`` counts as one, ``1.000`` may be a thousand and is refused."""
    if re.fullmatch(r"[+-]?[0-9]{1,40}", text.strip()):
        return int(text)
    value = number(with_point(text, POINT if text.count(POINT) == 1 and not _AMBIGUOUS.fullmatch(text) else None))
    if value != int(value):
        raise ValueError(f"“{_short(text)}” is not a whole number")
    return int(value)


def number(text: str) -> float:
    """Read a number with a decimal point or comma; a percent sign after it is passed over.

    ``1,234`` is refused: it may be either.
    """
    plain = text.removesuffix("%").strip()
    if len(plain) > _LONGEST_NUMBER:
        raise ValueError(f"“{_short(text)}” is not a number")
    plain = with_point(plain, None if COMMA in plain else POINT)
    if not _NUMBER.fullmatch(plain) and not _POWER.fullmatch(plain):
        raise ValueError(f"“{_short(text)}” is not a number")
    value = float(plain)
    if not math.isfinite(value):
        raise ValueError(f"“{_short(text)}” is too large")
    return value


def samples(text: str) -> int:
    """Read a number of samples; a product or a square is what it comes to: ``3x3`` are 9."""
    return whole_number(sample_count(text))


def size_in_px(text: str) -> tuple[int, int] | None:
    """Read a size in px; None if it is none."""
    size = _SIZE.fullmatch(" ".join(text[:LONGEST_SIZE].split()).lower())
    return None if size is None else (int(size[1]), int(size[2]))


def resolution(text: str) -> tuple[int, int] | float:
    """Read a size in px, or a percentage of each side.

    Examples
    --------
    >>> resolution("1920x1080"), resolution("50 %"), resolution("640 by 480")
    ((1920, 1080), 50.0, (640, 480))
    """
    size = size_in_px(text)
    if size is not None:
        return size
    try:
        return number(text)
    except ValueError as error:
        raise ValueError(f"“{_short(text)}” is neither a size like 1920x1080 nor a percentage") from error


def with_resolution(values: dict[str, Any]) -> dict[str, Any]:
    """Return a row's values with a resolution as what it is: width and height, or a percentage."""
    said = values.get("resolution")
    if said is None:
        return values
    rest = {key: value for key, value in values.items() if key != "resolution"}
    if isinstance(said, tuple):
        return {"width": said[0], "height": said[1], **rest}
    return {"resolution_percent": said, **rest}


def _short(text: str) -> str:
    return text if len(text) <= 40 else f"{text[:30]}…"


def frame_rate(text: str) -> float:
    """Read frames a second; a rounded number means the standard's exact rate."""
    return exact_rate(number(text))


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
        raise ValueError(f"“{_short(wrong[0])}” {cannot}; write some of {', '.join(allowed)}")
    return tuple(word for word in allowed if word in words)


def kept_stages(text: str) -> tuple[str, ...]:
    """Read the stages whose data are kept: ``prepare light``, or ``nothing``."""
    return some_of(text, KEEPABLE, "cannot be kept")


def yes_or_no(text: str) -> bool:
    """Read ``yes`` or ``no``.

    Examples
    --------
    >>> yes_or_no("Yes"), yes_or_no("no")
    (True, False)
    """
    word = text.strip().lower()
    if word not in {"yes", "no", "true", "false", "1", "0"}:
        raise ValueError(f"“{_short(text)}” is neither yes nor no")
    return word in {"yes", "true", "1"}


def gibibytes(text: str) -> float:
    """Read an amount of memory in GiB; another unit is refused, because guessing it would be wrong by factors."""
    return number(_without_unit(text, "gib"))


def _without_unit(text: str, unit: str) -> str:
    plain = text.strip()
    return plain[: -len(unit)].strip() if plain.lower().endswith(unit) else plain


def mebibytes(text: str) -> float:
    """Read a size on disk in MiB; another unit is refused."""
    return number(_without_unit(text, "mib"))


_WHOLE: tuple[Parse, ...] = (whole_number, samples)
_NUMBERS: tuple[Parse, ...] = (number, frame_rate, parse_duration, seconds_or_none, gibibytes, mebibytes, cap)


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
