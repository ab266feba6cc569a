"""What arrived, kept in an SQLite file beside the project. It can be deleted: the folders say it all again. Files only.

Written ahead of the database itself (WAL): a program that is killed loses nothing that was committed. The file may come
from elsewhere: one that is not ours is neither deleted nor altered, one that is damaged is put aside, and of its rows
only those are taken that can be true.
"""

import json
import math
import os
import sqlite3
from collections.abc import Iterable
from dataclasses import astuple, dataclass, fields
from pathlib import Path
from typing import Any, NamedTuple, Self
from urllib.parse import quote

from pemlo.core.errors import FileError
from pemlo.core.project.settings import FrameSettings
from pemlo.core.units import LONGEST_S

VERSION = 2
ENDING = ".arrivals.sqlite"
ASIDE = ".damaged"
_MAGIC = b"SQLite format 3\0"
_SIDES = ("", "-wal", "-shm")
_TABLES = """
CREATE TABLE IF NOT EXISTS frames (path TEXT PRIMARY KEY, shot TEXT, frame INTEGER, layer TEXT, take TEXT, size INTEGER,
 modified REAL, ended REAL, trouble TEXT, readable INTEGER, seconds REAL, source TEXT, machine TEXT, settings TEXT,
 differs TEXT, width INTEGER, height INTEGER, brightness REAL, noise REAL, digest TEXT, early INTEGER,
 memory_gib REAL) WITHOUT ROWID;
CREATE TABLE IF NOT EXISTS finishes (at REAL PRIMARY KEY, frames INTEGER, low REAL, middle REAL, high REAL,
 chance REAL);
"""
_FARTHEST, _LARGEST, _LATEST = 10**12, 2**62, 1e11  # of frames, bytes, seconds since 1970
_MOST_SIDE, _MOST_GIB, _LONGEST_TEXT = 65_536, 1e6, 10_000


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


@dataclass(frozen=True, slots=True)
class FinishRow:
    """When the film was expected to be done, as it stood at a moment; hours since the start, infinity if never."""

    at: float
    frames: int
    low: float
    middle: float
    high: float
    chance: float


_COLUMNS = FrameRow._fields
_PUT = f"INSERT OR REPLACE INTO frames ({', '.join(_COLUMNS)}) VALUES ({', '.join('?' * len(_COLUMNS))})"  # noqa: S608
_GET = f"SELECT {', '.join(_COLUMNS)} FROM frames"  # noqa: S608 - our own names
# The least and the most that a number of a row may be; texts have no more letters than any of ours.
_WITHIN: dict[str, tuple[float, float]] = {
    "frame": (-_FARTHEST, _FARTHEST), "size": (0, _LARGEST), "modified": (-_LATEST, _LATEST),
    "ended": (-_LATEST, _LATEST), "readable": (0, 1), "seconds": (-1.0, LONGEST_S), "width": (0, _MOST_SIDE),
    "height": (0, _MOST_SIDE), "brightness": (-math.inf, math.inf), "noise": (0, math.inf), "early": (0, 1),
    "memory_gib": (0, _MOST_GIB),
}  # fmt: skip
_MAY_BE_NAN = frozenset({"brightness", "noise"})  # which is null in SQLite
_WHOLE = frozenset({"frame", "size", "readable", "width", "height", "early"})


def _can_be(name: str) -> str:
    """Return the condition of SQL under which a value can be one of ours; with its limits as parameters."""
    if name not in _WITHIN:
        # The length of a text is counted up to its first zero byte, that of its bytes is not.
        length = f"length({name}) <= {_LONGEST_TEXT} AND length(CAST({name} AS BLOB)) <= {4 * _LONGEST_TEXT}"
        return f"(typeof({name}) = 'text' AND {length})"
    kinds = "'integer'" if name in _WHOLE else "'integer', 'real'"
    within = f"typeof({name}) IN ({kinds}) AND {name} BETWEEN ? AND ?"
    return f"({name} IS NULL OR {within})" if name in _MAY_BE_NAN else f"({within})"


_CAN_BE = " AND ".join(map(_can_be, _COLUMNS))


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
            if version not in (0, VERSION):
                raise sqlite3.DatabaseError("another version")
            made.executescript(_TABLES)
            made.execute(f"PRAGMA user_version={VERSION}")
            try:
                rows = _rows_of(made)
            except sqlite3.OperationalError as error:
                if "decode" not in str(error):
                    raise
                made.text_factory = lambda data: data.decode("utf-8", "replace")  # slow, and rarely needed
                rows = _rows_of(made)
            ends = [FinishRow(*row) for row in made.execute("SELECT * FROM finishes ORDER BY at") if _is_finish(row)]
        except sqlite3.OperationalError as error:
            made.close()
            # A table of ours without a column of ours: what is in it says nothing.
            raise sqlite3.DatabaseError("other columns") if "no such column" in str(error) else error from error
        except (sqlite3.Error, OverflowError, UnicodeDecodeError) as error:
            made.close()
            raise error if isinstance(error, sqlite3.Error) else sqlite3.DatabaseError("damaged") from error
        return made, rows, tuple(ends)

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
        return tuple(_rows_of(self._made) if found is None else found)

    def put(self, rows: Iterable[FrameRow], gone: Iterable[str] = ()) -> None:
        """Keep frames in place of what was known of their files, and forget files that are gone.

        Raises
        ------
        FileError
            If it cannot be written: there is no room, or the folder is gone.
        """
        try:
            with self._made:
                self._made.executemany(_PUT, rows)
                self._made.executemany("DELETE FROM frames WHERE path = ?", ((path,) for path in gone))
        except (sqlite3.Error, OverflowError, UnicodeError) as error:
            raise self._unwritable(error) from error

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
    if found - {("table", "frames"), ("table", "finishes")}:
        raise FileError(f"{other}: it has other tables.", hint)


def _rows_of(made: sqlite3.Connection) -> list[FrameRow]:
    """Return the rows in which everything can be; what cannot is looked at anew. A million in a few seconds."""
    limits = [limit for name in _COLUMNS if name in _WITHIN for limit in _WITHIN[name]]
    checked: dict[str, bool] = {}
    same: dict[str, str] = {}  # names and settings that many rows share are kept once

    def once(text: str) -> str:
        return same.setdefault(text, text)

    found = []
    # fmt: off
    for (
        path, shot, frame, layer, take, size, modified, ended, trouble, readable, seconds, source, machine, settings,
        differs, width, height, brightness, noise, digest, early, memory_gib,
    ) in made.execute(f"{_GET} WHERE {_CAN_BE}", limits):
        if settings not in checked:
            checked[settings] = not settings or _is_settings(settings)
        if not checked[settings]:
            continue
        found.append(FrameRow(
            path, once(shot), frame, once(layer), once(take), size, modified, ended, once(trouble), bool(readable),
            seconds, once(source), once(machine), once(settings), once(differs), width, height,
            math.nan if brightness is None else brightness, math.nan if noise is None else noise,
            digest, bool(early), memory_gib,
        ))
    # fmt: on
    return found


def _is_settings(text: str) -> bool:
    try:
        FrameSettings.model_validate(json.loads(text))
    except (ValueError, RecursionError):
        return False
    return True


def _is_finish(row: tuple[Any, ...]) -> bool:
    numbers = len(row) == len(fields(FinishRow)) and all(isinstance(value, int | float) for value in row)
    return numbers and math.isfinite(row[0]) and abs(row[1]) < _LARGEST and 0 <= row[5] <= 1


def store_path(project_file: Path) -> Path:
    """Return where the store of a project is."""
    return project_file.with_name(project_file.stem + ENDING)
