"""What arrived, kept in an SQLite file beside the project. It can be deleted: the folders say it all again. Files only.

Written ahead of the database itself (WAL): a program that is killed loses nothing that was committed.
"""

import sqlite3
from collections.abc import Iterable
from dataclasses import astuple, dataclass, fields
from pathlib import Path
from typing import Self

from pemlo.core.errors import FileError

VERSION = 2
ENDING = ".arrivals.sqlite"
_TABLES = """
CREATE TABLE IF NOT EXISTS frames (path TEXT PRIMARY KEY, shot TEXT, frame INTEGER, layer TEXT, take TEXT, size INTEGER,
 modified REAL, ended REAL, trouble TEXT, readable INTEGER, seconds REAL, source TEXT, machine TEXT, settings TEXT,
 differs TEXT, width INTEGER, height INTEGER, brightness REAL, noise REAL, digest TEXT, early INTEGER,
 memory_gib REAL) WITHOUT ROWID;
CREATE TABLE IF NOT EXISTS finishes (at REAL PRIMARY KEY, frames INTEGER, low REAL, middle REAL, high REAL,
 chance REAL);
"""


@dataclass(frozen=True, slots=True)
class FrameRow:
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


_COLUMNS = tuple(field.name for field in fields(FrameRow))
_PUT = f"INSERT OR REPLACE INTO frames ({', '.join(_COLUMNS)}) VALUES ({', '.join('?' * len(_COLUMNS))})"  # noqa: S608
_GET = f"SELECT {', '.join(_COLUMNS)} FROM frames"  # noqa: S608 - our own names


class Store:
    """The file. Used by one thread at a time.

    Raises
    ------
    FileError
        If it cannot be opened or written. One that is damaged, or of another version, is made anew.
    """

    def __init__(self, path: Path) -> None:
        self.path = path
        try:
            try:
                self._made = self._opened()
            except sqlite3.OperationalError:  # nothing is wrong with what is in it: it is locked, or may not be written
                raise
            except sqlite3.DatabaseError:
                self._remove()
                self._made = self._opened()
        except (sqlite3.Error, OSError) as error:
            raise FileError(
                f"{path.name} cannot be written: {error}.", "See that the folder of the project may be written to."
            ) from error

    def _opened(self) -> sqlite3.Connection:
        made = sqlite3.connect(self.path, check_same_thread=False, timeout=10.0)
        try:
            made.execute("PRAGMA journal_mode=WAL")
            made.execute("PRAGMA synchronous=NORMAL")
            version = made.execute("PRAGMA user_version").fetchone()[0]
            if version not in (0, VERSION):
                raise sqlite3.DatabaseError("another version")
            made.executescript(_TABLES)
            made.execute(f"PRAGMA user_version={VERSION}")
            made.execute("SELECT count(*) FROM finishes").fetchone()
        except sqlite3.Error:
            made.close()
            raise
        return made

    def _remove(self) -> None:
        for ending in ("", "-wal", "-shm"):
            Path(f"{self.path}{ending}").unlink(missing_ok=True)

    def __enter__(self) -> Self:
        return self

    def __exit__(self, *_: object) -> None:
        self.close()

    def frames(self) -> Iterable[FrameRow]:
        """Return all frames."""
        for row in self._made.execute(_GET):
            values = list(row)
            for at in (9, 20):
                values[at] = bool(values[at])
            yield FrameRow(*values)

    def put(self, rows: Iterable[FrameRow], gone: Iterable[str] = ()) -> None:
        """Keep frames in place of what was known of their files, and forget files that are gone.

        Raises
        ------
        FileError
            If it cannot be written: there is no room, or the folder is gone.
        """
        try:
            with self._made:
                self._made.executemany(_PUT, (astuple(row) for row in rows))
                self._made.executemany("DELETE FROM frames WHERE path = ?", ((path,) for path in gone))
        except sqlite3.Error as error:
            raise self._unwritable(error) from error

    def put_finish(self, one: FinishRow) -> None:
        """Keep when the film is expected to be done.

        Raises
        ------
        FileError
            As of `put`.
        """
        try:
            with self._made:
                self._made.execute("INSERT OR REPLACE INTO finishes VALUES (?, ?, ?, ?, ?, ?)", astuple(one))
        except sqlite3.Error as error:
            raise self._unwritable(error) from error

    def finishes(self) -> tuple[FinishRow, ...]:
        """Return how the finish moved, in the order of time."""
        return tuple(FinishRow(*row) for row in self._made.execute("SELECT * FROM finishes ORDER BY at"))

    def _unwritable(self, error: sqlite3.Error) -> FileError:
        return FileError(f"{self.path.name} cannot be written: {error}.", "What arrives is watched all the same.")

    def close(self) -> None:
        """Let go of the file."""
        self._made.close()


def store_path(project_file: Path) -> Path:
    """Return where the store of a project is."""
    return project_file.with_name(project_file.stem + ENDING)
