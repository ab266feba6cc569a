"""Numbers as people and table programs write them: which mark stands before decimals, and which between thousands.

``1,234.5`` and ``1.234,5`` say it themselves; ``1,234`` does not. Then other numbers of the same column decide, then
those of the table, then what separates its cells; where none of them can, the number is refused. Imports nothing.
"""

import re
from collections.abc import Iterable
from typing import Final

POINT, COMMA = ".", ","
LONGEST = 100  # letters of a cell that holds one number
_OTHER: Final = {POINT: COMMA, COMMA: POINT}
# The one number of a cell, with a sign before and a unit after it.
_ONE = re.compile(r"(\s{0,9}[+-]?)(\d[\d.,]{0,60}|[.,]\d{1,60})([^\d]{0,40})")
_THOUSANDS = {mark: re.compile(rf"\d{{1,3}}(\{mark}\d{{3}})+") for mark in (POINT, COMMA)}


def decimal_mark(cells: Iterable[str]) -> str | None:
    """Return the mark before decimals that cells agree on; None if none tells, or they do not agree.

    Examples
    --------
    >>> decimal_mark(["1.000", "2,5"]), decimal_mark(["1,000", "0.25"]), decimal_mark(["1,000", "12"])
    (',', '.', None)
    """
    found = {mark for cell in cells if (match := _one(cell)) and (mark := _mark_of(match[2])) is not None}
    return found.pop() if len(found) == 1 else None


def with_point(cell: str, mark: str | None, *, whole: bool = False) -> str:
    """Return a cell with a decimal point and nothing between thousands; as it is if it holds not one number.

    Parameters
    ----------
    cell : str
    mark : str or None
        What stands before decimals in cells like this; None if that is not known.
    whole : bool
        Decimals are not expected: three of them are not believed.

    Raises
    ------
    ValueError
        If the number can be two different ones.

    Examples
    --------
    >>> with_point("1.234,5 s", None), with_point("1,234", "."), with_point("0,125", None), with_point("4:02", None)
    ('1234.5 s', '1234', '0.125', '4:02')
    """
    match = _one(cell)
    if match is None or not (POINT in match[2] or COMMA in match[2]):
        return cell
    numeral = match[2]
    own = _mark_of(numeral)
    if own is None:
        used = POINT if POINT in numeral else COMMA
        if mark is None or (whole and used == mark):
            large, small = numeral.replace(used, ""), numeral.replace(used, POINT).rstrip("0").rstrip(POINT)
            raise ValueError(f"“{cell.strip()}” can be {large} or {small}; write it without the {_name(used)}")
        own = mark
    whole_part, _, decimals = numeral.partition(own)
    between = _OTHER[own]
    if between in whole_part and not _THOUSANDS[between].fullmatch(whole_part):
        return cell
    decimals = f"{POINT}{decimals}" if decimals else ""
    return f"{match[1]}{whole_part.replace(between, '')}{decimals}{match[3]}"


def _one(cell: str) -> re.Match[str] | None:
    return _ONE.fullmatch(cell) if len(cell) <= LONGEST else None


def _mark_of(numeral: str) -> str | None:
    """Return what stands before the decimals of a number, None if it may be either mark."""
    points, commas = numeral.count(POINT), numeral.count(COMMA)
    if points and commas:
        return max(POINT, COMMA, key=numeral.rfind)
    if points + commas == 0:
        return None
    used = POINT if points else COMMA
    if points + commas > 1:
        return _OTHER[used]
    before, after = numeral.split(used)
    return None if len(after) == 3 and 0 < len(before) <= 3 and not before.startswith("0") else used


def _name(mark: str) -> str:
    return "point" if mark == POINT else "comma"
