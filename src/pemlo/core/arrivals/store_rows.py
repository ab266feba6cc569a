"""Rows of the frames that arrived, as a store has them, read many at once. SQLite, and no file of its own.

What many frames share is kept once: names of shots and machines, and what kind of frame it is. The file may come from
elsewhere: of its rows only those are taken that can be true.
"""

import gc
import json
import math
import sqlite3
from collections.abc import Iterable, Iterator, Mapping, Sequence
from itertools import chain
from typing import Any, NamedTuple

from pemlo.core.project.settings import FrameSettings
from pemlo.core.units import LONGEST_S

_FARTHEST, _LARGEST, _LATEST = 10**12, 2**62, 1e11  # of frames, bytes, seconds since 1970
_MOST_SIDE, _MOST_GIB, _LONGEST_TEXT = 65_536, 1e6, 10_000
_AT_ONCE = 20_000  # rows


class FrameRow(NamedTuple):
    """A file of a frame, as it was when it was last looked at.

    Attributes
    ----------
    path, shot, frame, layer, take
        What its name says.
    size, modified
        Bytes, and when it was written last, seconds since 1970.
    ended : float
        When it arrived, seconds since 1970: as its file says, unless that cannot be.
    trouble : str
        What is wrong with its picture; empty if nothing is.
    readable : bool
    seconds : float
        What it took on its machine; negative where that is not known.
    source : str
        Where that is from: ``header``, ``log`` or ``file times``; empty where it is not known.
    machine : str
    settings : str
        JSON of the settings that it was rendered with.
    differs : str
        In what its header is other than planned; empty if in nothing.
    width, height, brightness, noise, digest
        As `Checked`.
    early : bool
        Whether it is of the first pass.
    memory_gib : float
        The most that its rendering held; 0 where that is not known.
    """

    path: str
    shot: str
    frame: int
    layer: str
    take: str
    size: int
    modified: float
    ended: float
    trouble: str = ""
    readable: bool = True
    seconds: float = -1.0
    source: str = ""
    machine: str = ""
    settings: str = ""
    differs: str = ""
    width: int = 0
    height: int = 0
    brightness: float = 0.0
    noise: float = 0.0
    digest: str = ""
    early: bool = False
    memory_gib: float = 0.0


# Of a frame its own, and what it shares with many: by the number of a kind, of a shot, of a machine.
OWN = ("path", "frame", "size", "modified", "ended", "seconds", "brightness", "noise", "digest", "memory_gib")
KIND = (
    "layer", "take", "trouble", "readable", "source", "settings", "differs", "width", "height", "early",
)  # fmt: skip
NAMES = ("shot", "machine")
# The least and the most that a number may be; texts have no more letters than any of ours.
_WITHIN: dict[str, tuple[float, float]] = {
    "frame": (-_FARTHEST, _FARTHEST), "size": (0, _LARGEST), "modified": (-_LATEST, _LATEST),
    "ended": (-_LATEST, _LATEST), "readable": (0, 1), "seconds": (-1.0, LONGEST_S), "width": (0, _MOST_SIDE),
    "height": (0, _MOST_SIDE), "brightness": (-math.inf, math.inf), "noise": (0, math.inf), "early": (0, 1),
    "memory_gib": (0, _MOST_GIB),
}  # fmt: skip
_MAY_BE_NAN = frozenset({"brightness", "noise"})  # which is null in SQLite
_WHOLE = frozenset({"frame", "size", "readable", "width", "height", "early"})
_BOOLS = frozenset({"readable", "early"})

Kind = tuple[Any, ...]  # in the order of KIND


def kind_of(row: FrameRow) -> Kind:
    """Return what a frame shares with others of its kind."""
    return tuple(getattr(row, name) for name in KIND)


def own_of(row: FrameRow) -> tuple[Any, ...]:
    """Return what a frame has for itself, in the order of OWN."""
    return tuple(getattr(row, name) for name in OWN)


def names_in(made: sqlite3.Connection) -> dict[int, str]:
    """Return the names of shots and machines by their numbers."""
    return {number: name for number, name in made.execute("SELECT id, name FROM names") if _can_be("name", name)}


def kinds_in(made: sqlite3.Connection) -> dict[int, Kind]:
    """Return the kinds of frames by their numbers; those that can be."""
    found: dict[int, Kind] = {}
    checked: dict[str, bool] = {}
    for number, *values in made.execute(f"SELECT id, {', '.join(KIND)} FROM kinds"):  # noqa: S608 - our own names
        if not all(map(_can_be, KIND, values)):
            continue
        settings = values[KIND.index("settings")]
        if settings not in checked:
            checked[settings] = not settings or _is_settings(settings)
        if checked[settings]:
            found[number] = tuple(
                bool(value) if name in _BOOLS else value for name, value in zip(KIND, values, strict=True)
            )
    return found


def rows_in(made: sqlite3.Connection, names: Mapping[int, str], kinds: Mapping[int, Kind]) -> list[FrameRow]:
    """Return the rows in which everything can be; what cannot is looked at anew."""
    collects = gc.isenabled()
    gc.disable()  # nothing here is garbage, and to look for some among a million rows takes longer than to read them
    try:
        return list(chain.from_iterable(_made(rows, names, kinds) for rows in _checked(made, names, kinds)))
    finally:
        if collects:
            gc.enable()


def _checked(
    made: sqlite3.Connection, names: Mapping[int, str], kinds: Mapping[int, Kind]
) -> Iterator[list[tuple[Any, ...]]]:
    """Yield what stands in the table, without the rows that cannot be."""
    chosen = made.execute(f"SELECT shot, machine, kind, {', '.join(OWN)} FROM frames")  # noqa: S608 - our own names
    while rows := chosen.fetchmany(_AT_ONCE):
        if _all_can_be(rows, names, kinds):
            yield rows
        elif able := [row for row in rows if _all_can_be([row], names, kinds)]:
            yield able


def _made(rows: Sequence[tuple[Any, ...]], names: Mapping[int, str], kinds: Mapping[int, Kind]) -> Iterator[FrameRow]:
    """Make rows column by column: one by one a million take three times as long."""
    shots, machines, kind, *own = zip(*rows, strict=True)
    columns: dict[str, Iterable[Any]] = dict(zip(OWN, own, strict=True))
    for name in _MAY_BE_NAN:
        columns[name] = [math.nan if value is None else value for value in columns[name]]
    columns |= zip(KIND, zip(*map(kinds.__getitem__, kind), strict=True), strict=True)
    columns |= {"shot": map(names.__getitem__, shots), "machine": map(names.__getitem__, machines)}
    return map(FrameRow._make, zip(*(columns[name] for name in FrameRow._fields), strict=True))


def _all_can_be(rows: Sequence[tuple[Any, ...]], names: Mapping[int, str], kinds: Mapping[int, Kind]) -> bool:
    shots, machines, kind, *own = zip(*rows, strict=True)
    return (
        all(map(names.__contains__, {*shots, *machines}))
        and all(map(kinds.__contains__, set(kind)))
        and all(map(_column_can_be, OWN, own))
    )


def _column_can_be(name: str, column: Sequence[Any]) -> bool:
    """Whether every value of a column can be one of ours."""
    if name in _MAY_BE_NAN and None in column:
        column = [value for value in column if value is not None]
        if not column:
            return True
    if name not in _WITHIN:
        return set(map(type, column)) == {str} and max(map(len, column)) <= _LONGEST_TEXT
    if name in _WHOLE and set(map(type, column)) != {int}:
        return False
    low, high = _WITHIN[name]
    try:
        return bool(low <= min(column) and max(column) <= high)
    except TypeError:  # a text or bytes among the numbers
        return False


def _can_be(name: str, value: object) -> bool:
    return _column_can_be(name, (value,))


def _is_settings(text: str) -> bool:
    try:
        FrameSettings.model_validate(json.loads(text))
    except (ValueError, RecursionError):
        return False
    return True
