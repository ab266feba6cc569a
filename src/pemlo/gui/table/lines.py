"""Arranges the rows of a table: which are shown, in which order, in which groups. Qt-free."""

import re
from collections.abc import Callable, Hashable, Iterable, Sequence
from dataclasses import dataclass
from typing import Any, Generic, TypeVar

from pemlo.core.errors import InputError
from pemlo.core.project.sequences import sequence_of
from pemlo.core.units import parse_duration
from pemlo.gui.common.cells import NOTHING
from pemlo.gui.common.columns import Column

R = TypeVar("R")
Test = Callable[[Any], bool]

SEQUENCE = "sequence"  # a grouping by the part of the first column before its last separator
LONGEST_FILTER = 200
_NUMBER = re.compile(r"[+−-]?\d{1,30}(?:\.\d{1,30})?")
_RUN = re.compile(r"\d{1,30}|\D{1,200}")
_SIGN = re.compile(r"(<=|>=|<|>|=)")


@dataclass(frozen=True)
class Group(Generic[R]):
    """A line over the rows that belong together."""

    name: str
    rows: tuple[R, ...]
    folded: bool


@dataclass(frozen=True)
class Arrangement:
    """How a person has a table arranged.

    Attributes
    ----------
    sort : str
        Title of the column; empty for the order of the document.
    descending : bool
    filter : str
        Only rows with all these words in their cells are shown; ``samples > 200`` compares a column.
    group : str
        `SEQUENCE`, or the title of a column; empty for none.
    folded : frozenset of str
        Names of groups whose rows are hidden.
    """

    sort: str = ""
    descending: bool = False
    filter: str = ""
    group: str = ""
    folded: frozenset[str] = frozenset()

    @property
    def plain(self) -> bool:
        """Whether every row is shown in the order of the document."""
        return not (self.sort or self.filter.strip() or self.group)


def arranged(rows: Sequence[R], columns: Sequence[Column[R]], arrangement: Arrangement) -> tuple["R | Group[R]", ...]:
    """Return the lines of a table: rows, under the lines of their groups where it is grouped.

    Cost: n log n in the rows.
    """
    shown = list(rows)
    for test in filter_tests(arrangement.filter, columns):
        shown = [row for row in shown if test(row)]
    sorted_by = named(columns, arrangement.sort)
    if sorted_by is not None:
        shown = _sorted(shown, sorted_by, descending=arrangement.descending)
    if not arrangement.group:
        return tuple(shown)
    groups: dict[str, list[R]] = {}
    for row in rows:  # groups stand in the order of the document, however their rows are sorted
        groups.setdefault(group_name(row, columns, arrangement.group), [])
    for row in shown:
        groups[group_name(row, columns, arrangement.group)].append(row)
    lines: list[R | Group[R]] = []
    for name, members in groups.items():
        if members:
            folded = name in arrangement.folded
            lines.append(Group(name, tuple(members), folded))
            lines += [] if folded else members
    return tuple(lines)


def same_places(
    before: Sequence["R | Group[R]"], after: Sequence["R | Group[R]"], key: Callable[[R], Hashable] | None
) -> bool:
    """Return whether each line is where it was, by the keys of rows; without keys, whether there are as many."""
    if len(before) != len(after):
        return False
    return key is None or all(_key_of(old, key) == _key_of(new, key) for old, new in zip(before, after, strict=True))


def _key_of(line: "R | Group[R]", key: Callable[[R], Hashable]) -> Hashable:
    return ("group", line.name, line.folded) if isinstance(line, Group) else key(line)


def in_old_places(
    lines: Sequence["R | Group[R]"], rows: Sequence[R], key: Callable[[R], Hashable]
) -> tuple["R | Group[R]", ...] | None:
    """Return lines with rows as they are now, where they stood before; None if some are gone."""
    now = {key(row): row for row in rows}
    if any(not isinstance(line, Group) and key(line) not in now for line in lines):
        return None
    return tuple(line if isinstance(line, Group) else now[key(line)] for line in lines)


def named(columns: Sequence[Column[R]], title: str) -> Column[R] | None:
    """Return the column of a title, None if there is none."""
    return next((column for column in columns if title and column.title == title), None)


def group_name(row: R, columns: Sequence[Column[R]], group: str) -> str:
    """Return the group to which a row belongs."""
    column = named(columns, group)
    return sequence_of(columns[0].text(row)) if column is None else column.text(row)


def groupings(rows: Sequence[R], columns: Sequence[Column[R]]) -> tuple[str, ...]:
    """Return what rows can be grouped by: what not all of them, and not each of them, has of its own."""
    first, *others = columns
    found = [SEQUENCE] if first.title and _parts(sequence_of(first.text(row)) for row in rows) else []
    shared = (column for column in others if column.edit is not None)
    return (*found, *(column.title for column in shared if _parts(column.text(row) for row in rows)))


def _parts(texts: Iterable[str]) -> bool:
    """Whether some texts are alike, and not all: known after a few of them, mostly."""
    seen: set[str] = set()
    for number, text in enumerate(texts, 1):
        seen.add(text)
        if 1 < len(seen) < number:
            return True
    return False


def _sorted(rows: Sequence[R], column: Column[R], *, descending: bool) -> list[R]:
    """Sort rows by a column; those that have nothing in it stand last in both directions."""
    keyed = [(sort_key(row, column), row) for row in rows]
    having = [(key, row) for key, row in keyed if key is not None]
    having.sort(key=lambda pair: pair[0], reverse=descending)
    return [row for _, row in having] + [row for key, row in keyed if key is None]


def sort_key(row: R, column: Column[R]) -> Any:  # noqa: ANN401 - numbers, or texts with the numbers in them
    """Return what a row is sorted by; None where it has nothing.

    Numbers in names count as numbers: shot 20 stands before shot 100.
    """
    if column.order is not None:
        value = column.order(row)
        return None if value is None else (0, value, ())
    text = column.text(row).strip()
    if text in ("", NOTHING):
        return None
    if column.figures and (match := _NUMBER.match(text)):
        return (0, float(match[0].replace("−", "-")), ())
    parts = _RUN.findall(text.casefold()[:LONGEST_FILTER])
    return (1, 0.0, tuple((0, int(part), "") if part.isdecimal() else (1, 0, part) for part in parts))


def filter_tests(text: str, columns: Sequence[Column[R]]) -> tuple[Test, ...]:
    """Return what a row must pass to be shown: ``quay samples > 200, denoise`` are two words and a comparison."""
    tests: list[Test] = []
    words: list[str] = []
    for clause in text[:LONGEST_FILTER].split(","):
        before, *compared = _SIGN.split(clause, maxsplit=1)
        left = before.split()
        if compared:
            sign, after = compared
            made, left_over = _compared(left, sign, after.split(), columns)
            tests += made
            left = left_over
        words += left
    return (*tests, *(_has_word(word.casefold(), columns) for word in words))


def _compared(
    before: Sequence[str], sign: str, after: Sequence[str], columns: Sequence[Column[R]]
) -> tuple[list[Test], list[str]]:
    """Return the comparison between the words before and after a sign, and the words that are no part of it."""
    for begin in range(len(before)):
        column = _meant(columns, " ".join(before[begin:]))
        if column is None:
            continue
        for end in (2, 1):
            value = _amount(" ".join(after[:end]), column.unit_s)
            if value is not None:
                return [_comparison(column, sign, value)], [*before[:begin], *after[end:]]
    return [], [*before, *after]


def _has_word(word: str, columns: Sequence[Column[R]]) -> Test:
    return lambda row: any(word in column.text(row).casefold() for column in columns)


def _meant(columns: Sequence[Column[R]], words: str) -> Column[R] | None:
    """Return the column of which a filter speaks: its title, or the beginning of a title."""
    wanted = words.strip().casefold()
    titled = [column for column in columns if column.title and column.title.casefold().startswith(wanted)]
    exact = [column for column in titled if column.title.casefold() == wanted]
    return next(iter(exact or titled), None)


def _amount(text: str, unit_s: float) -> float | None:
    """Return a number as a filter has it: ``200``, ``75 %``, ``10 h``, ``4:02``; times in units of so many seconds."""
    number = _NUMBER.fullmatch(text.removesuffix("%").strip())
    if number:
        return float(number[0].replace("−", "-"))
    try:
        return parse_duration(text) / unit_s
    except (InputError, ValueError):
        return None


def _comparison(column: Column[R], sign: str, value: float) -> Test:
    def test(row: R) -> bool:
        key = sort_key(row, column)
        if key is None or key[0] != 0:
            return False
        have = float(key[1])
        return {"<": have < value, ">": have > value, "<=": have <= value, ">=": have >= value}.get(sign, have == value)

    return test
