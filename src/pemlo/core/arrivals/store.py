"""What arrived, kept in an SQLite file beside the project. It can be deleted: the folders say it all again. Files only.

Written ahead of the database itself (WAL): a program that is killed loses nothing that was committed. The file may come
from elsewhere: one that is not ours is neither deleted nor altered, one that is damaged is put aside, and of its rows
only those are taken that can be true.
"""

import math
import os
import sqlite3
from collections.abc import Iterable
from dataclasses import astuple, dataclass, fields
from pathlib import Path
from typing import Any, Self
from urllib.parse import quote

from pemlo.core.arrivals.store_rows import (
    KIND,
    OWN,
    FrameRow,
    Kind,
    kind_of,
    kinds_in,
    names_in,
    own_of,
    rows_in,
)
from pemlo.core.arrivals.store_upgrade import OLD_VERSION, upgrade
from pemlo.core.errors import FileError

VERSION = 3
ENDING = ".arrivals.sqlite"
ASIDE = ".damaged"
_MAGIC = b"SQLite format 3\0"
_SIDES = ("", "-wal", "-shm")
_TABLES = """
CREATE TABLE IF NOT EXISTS names (id INTEGER PRIMARY KEY, name TEXT);
CREATE TABLE IF NOT EXISTS kinds (id INTEGER PRIMARY KEY, layer TEXT, take TEXT, trouble TEXT, readable INTEGER,
 source TEXT, settings TEXT, differs TEXT, width INTEGER, height INTEGER, early INTEGER);
CREATE TABLE IF NOT EXISTS frames (path TEXT PRIMARY KEY, shot INTEGER, machine INTEGER, kind INTEGER, frame INTEGER,
 size INTEGER, modified REAL, ended REAL, seconds REAL, brightness REAL, noise REAL, digest TEXT,
 memory_gib REAL) WITHOUT ROWID;
CREATE TABLE IF NOT EXISTS finishes (at REAL PRIMARY KEY, frames INTEGER, low REAL, middle REAL, high REAL,
 chance REAL);
"""
_OURS = frozenset({("table", "frames"), ("table", "finishes"), ("table", "names"), ("table", "kinds")})
_MOST_FRAMES = 2**62


@dataclass(frozen=True, slots=True)
class FinishRow:
    """When the film was expected to be done, as it stood at a moment; hours since the start, infinity if never."""

    at: float
    frames: int
    low: float
    middle: float
    high: float
    chance: float


_PUT = (
    f"INSERT OR REPLACE INTO frames (shot, machine, kind, {', '.join(OWN)}) "  # noqa: S608 - our own names
    f"VALUES (?, ?, ?, {', '.join('?' * len(OWN))})"
)
_PUT_KIND = f"INSERT INTO kinds ({', '.join(KIND)}) VALUES ({', '.join('?' * len(KIND))})"  # noqa: S608 - our own names


class Store:
    """The file. Used by one thread at a time.

    Raises
    ------
    FileError
        If it cannot be opened or written, or is another program's. One that is damaged is put aside.
    """

    def __init__(self, path: Path) -> None:
        self.path = path
        self._rows: list[FrameRow] | None
        self._names: dict[str, int] = {}
        self._kinds: dict[Kind, int] = {}
        try:
            _refuse_others(path)
            try:
                self._made, self._rows, self._ends = self._opened()
            except sqlite3.OperationalError:  # nothing is wrong with what is in it: it is locked, or may not be written
                raise
            except sqlite3.DatabaseError:
                self._put_aside()
                self._made, self._rows, self._ends = self._opened()
        except (sqlite3.Error, OSError) as error:
            raise FileError(
                f"{path.name} cannot be written: {error}.", "See that the folder of the project may be written to."
            ) from error

    def _opened(self) -> tuple[sqlite3.Connection, list[FrameRow], tuple[FinishRow, ...]]:
        made = sqlite3.connect(self.path, check_same_thread=False, timeout=10.0)
        try:
            made.execute("PRAGMA trusted_schema=OFF")
            made.execute("PRAGMA journal_mode=WAL")
            made.execute("PRAGMA synchronous=NORMAL")
            version = made.execute("PRAGMA user_version").fetchone()[0]
            if version not in (0, OLD_VERSION, VERSION):
                raise sqlite3.DatabaseError("another version")
            if version == OLD_VERSION:
                upgrade(made, _TABLES, VERSION)
            made.executescript(_TABLES)
            made.execute(f"PRAGMA user_version={VERSION}")
            try:
                rows = self._read(made)
            except sqlite3.OperationalError as error:
                if "decode" not in str(error):
                    raise
                made.text_factory = lambda data: data.decode("utf-8", "replace")  # slow, and rarely needed
                rows = self._read(made)
            ends = [FinishRow(*row) for row in made.execute("SELECT * FROM finishes ORDER BY at") if _is_finish(row)]
        except sqlite3.OperationalError as error:
            made.close()
            # A table of ours without a column of ours: what is in it says nothing.
            raise sqlite3.DatabaseError("other columns") if "no such column" in str(error) else error from error
        except (sqlite3.Error, OverflowError, UnicodeDecodeError) as error:
            made.close()
            raise error if isinstance(error, sqlite3.Error) else sqlite3.DatabaseError("damaged") from error
        return made, rows, tuple(ends)

    def _read(self, made: sqlite3.Connection) -> list[FrameRow]:
        names, kinds = names_in(made), kinds_in(made)
        self._names = {name: number for number, name in names.items()}
        self._kinds = {kind: number for number, kind in kinds.items()}
        return rows_in(made, names, kinds)

    def _put_aside(self) -> None:
        """Give a file that is damaged another name: it may be somebody's."""
        Path(self.path).replace(f"{self.path}{ASIDE}")
        for ending in _SIDES[1:]:
            Path(f"{self.path}{ending}").unlink(missing_ok=True)

    def __enter__(self) -> Self:
        return self

    def __exit__(self, *_: object) -> None:
        self.close()

    def frames(self) -> tuple[FrameRow, ...]:
        """Return all frames; those that were read when it was opened are let go of."""
        found, self._rows = self._rows, None
        return tuple(self._read(self._made) if found is None else found)

    def put(self, rows: Iterable[FrameRow], gone: Iterable[str] = ()) -> None:
        """Keep frames in place of what was known of their files, and forget files that are gone.

        Raises
        ------
        FileError
            If it cannot be written: there is no room, or the folder is gone.
        """
        try:
            with self._made:
                self._made.executemany(_PUT, map(self._to_put, rows))
                self._made.executemany("DELETE FROM frames WHERE path = ?", ((path,) for path in gone))
        except (sqlite3.Error, OverflowError, UnicodeError) as error:
            # Numbers of names and kinds that were new are taken back with the frames.
            self._names, self._kinds = {}, {}
            raise self._unwritable(error) from error

    def _to_put(self, row: FrameRow) -> tuple[object, ...]:
        return self._name(row.shot), self._name(row.machine), self._kind(kind_of(row)), *own_of(row)

    def _name(self, name: str) -> int:
        number = self._names.get(name)
        if number is None:
            number = self._names[name] = self._new("INSERT INTO names (name) VALUES (?)", (name,))
        return number

    def _kind(self, kind: Kind) -> int:
        number = self._kinds.get(kind)
        if number is None:
            number = self._kinds[kind] = self._new(_PUT_KIND, kind)
        return number

    def _new(self, order: str, values: tuple[object, ...]) -> int:
        """Return the number of a new row; the file gives it, so that two who write never take the same."""
        return int(self._made.execute(order, values).lastrowid or 0)

    def put_finish(self, row: FinishRow) -> None:
        """Keep when the film is expected to be done.

        Raises
        ------
        FileError
            As of `put`.
        """
        try:
            with self._made:
                self._made.execute("INSERT OR REPLACE INTO finishes VALUES (?, ?, ?, ?, ?, ?)", astuple(row))
        except (sqlite3.Error, UnicodeError) as error:
            raise self._unwritable(error) from error

    def finishes(self) -> tuple[FinishRow, ...]:
        """Return how the finish moved until it was opened, in the order of time."""
        return self._ends

    def _unwritable(self, error: Exception) -> FileError:
        why = error if isinstance(error, sqlite3.Error) else "a number or a name does not go into it"
        return FileError(f"{self.path.name} cannot be written: {why}.", "What arrives is watched all the same.")

    def close(self) -> None:
        """Let go of the file."""
        self._made.close()


def _refuse_others(path: Path) -> None:
    """Refuse a file that another program may need: a link, what is no database, or one with other tables.

    It is looked at without being altered.
    """
    other = f"{path.name} is not a frame store of Pemlo"
    hint = "It was left unchanged. Frames are watched, but not remembered."
    for ending in _SIDES:
        if Path(f"{path}{ending}").is_symlink():
            raise FileError(f"{path.name}{ending} is a link, and nothing is written through it.", hint)
    if not path.exists() or not path.stat().st_size:
        return
    if not path.is_file():
        raise FileError(f"{other}.", hint)
    handle = os.open(path, os.O_RDONLY | os.O_NOFOLLOW | os.O_NONBLOCK)
    try:
        begins = os.read(handle, len(_MAGIC))
    finally:
        os.close(handle)
    if begins != _MAGIC:
        raise FileError(f"{other}: it is no database.", hint)
    seen = sqlite3.connect(f"file:{quote(str(path.absolute()))}?mode=ro&immutable=1", uri=True)
    try:
        found = {tuple(row) for row in seen.execute("SELECT type, name FROM sqlite_master WHERE sql IS NOT NULL")}
    except sqlite3.OperationalError:
        raise
    except (sqlite3.DatabaseError, UnicodeDecodeError):  # the second where its own words are damaged, too
        return  # ours by its name, and damaged: it is put aside
    finally:
        seen.close()
    if found - _OURS:
        raise FileError(f"{other}: it has other tables.", hint)


def _is_finish(row: tuple[Any, ...]) -> bool:
    numbers = len(row) == len(fields(FinishRow)) and all(isinstance(value, int | float) for value in row)
    return numbers and math.isfinite(row[0]) and abs(row[1]) < _MOST_FRAMES and 0 <= row[5] <= 1


def store_path(project_file: Path) -> Path:
    """Return where the store of a project is."""
    return project_file.with_name(project_file.stem + ENDING)
