"""Reads tables that are brought in, dropped or pasted: files and long texts in the background. GUI thread."""

from collections import deque
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass
from functools import partial
from pathlib import Path
from typing import TYPE_CHECKING, Any

from PySide6.QtCore import QObject, Signal

from pemlo.app.jobs import Jobs
from pemlo.core.errors import PemloError
from pemlo.core.progress import Monitor

if TYPE_CHECKING:
    from pemlo.core.persistence.table import CsvColumn

TABLE = "table"
PASTED = "What you pasted"
AT_ONCE = 20_000  # letters that are read while a hand waits: a hundredth of a second
Said = Mapping[str, str]  # what a person said that titles mean
Read = Callable[[str, str, Said], Any]
Columns = Callable[[str, Said], "Sequence[CsvColumn]"]  # that a text's kind of table can have; loaded where it is read
Put = Callable[[Any], None]


@dataclass(frozen=True)
class Unmatched:
    """A table whose titles are not all columns: which are missing and which were not used, and what reads it again.

    Attributes
    ----------
    name, text : str
    columns : tuple of CsvColumn
    missing : tuple of str
        Columns that it needs; empty if it was read without the others.
    not_used : tuple of str
        Titles.
    again : callable
        Reads it again, with what titles are said to mean then.
    """

    name: str
    text: str
    columns: "tuple[CsvColumn, ...]"
    missing: tuple[str, ...]
    not_used: tuple[str, ...]
    again: Callable[[], None]


@dataclass(frozen=True)
class _Found:
    """What a table held, if it could be read, and what of it is no column."""

    held: Any
    columns: "tuple[CsvColumn, ...]"
    missing: tuple[str, ...]
    not_used: tuple[str, ...]


@dataclass(frozen=True)
class _Asked:
    name: str
    source: Path | str
    reader: Callable[[], Read]
    put: Put
    columns: Columns | None


class TableReader(QObject):
    """Reads tables one after another, and puts what each holds into the document before the next is read.

    So shots and their trials can be dropped together. What reads a table is asked for when its turn comes, on the GUI
    thread, with the film as it is then; it reads on another.

    Parameters
    ----------
    jobs : Jobs
    report : callable
        Is told what cannot be put in; what cannot be read is a failure of its job.
    said : callable
        Returns what a person said that titles mean.

    Signals
    -------
    unmatched(Unmatched)
        A table was not read, or not all of it was used.
    """

    unmatched = Signal(object)

    def __init__(self, jobs: Jobs, report: Callable[[PemloError], None], said: Callable[[], Said] = dict) -> None:
        super().__init__()
        self._jobs, self._report, self._said = jobs, report, said
        self._waiting: deque[_Asked] = deque()
        self._reading = False
        jobs.failed.connect(self._on_ended)
        jobs.cancelled.connect(self._on_ended)

    def take_pasted(
        self, text: str, reader: Callable[[], Read], put: Put, columns: Columns | None = None, name: str = PASTED
    ) -> None:
        """Read a text that was pasted, and put in what it holds."""
        asked = _Asked(name, text, reader, put, columns)
        if len(text) > AT_ONCE or self._reading:
            self._wait(asked)
        else:
            self._guarded(lambda: self._put(asked, text, _read(asked, reader(), text, self._said())))

    def take_file(self, path: Path, reader: Callable[[], Read], put: Put, columns: Columns | None = None) -> None:
        """Read a file, and put in what it holds."""
        self._wait(_Asked(path.name, path, reader, put, columns))

    def forget(self) -> None:
        """Read nothing any more: another film is here."""
        self._waiting.clear()
        self._jobs.cancel(TABLE)

    def _wait(self, asked: _Asked) -> None:
        self._waiting.append(asked)
        self._go_on()

    def _go_on(self) -> None:
        if self._reading or not self._waiting:
            return
        asked = self._waiting.popleft()
        read, said = asked.reader(), self._said()

        def work(monitor: Monitor) -> tuple[str, _Found]:
            from pemlo.core.persistence.table import read_table_file  # noqa: PLC0415 - only where a table is read

            monitor.step(0.0, f"Reading {asked.name}")
            text = asked.source if isinstance(asked.source, str) else read_table_file(asked.source)
            return text, _read(asked, read, text, said)

        def done(found: tuple[str, _Found]) -> None:
            self._reading = False
            self._guarded(lambda: self._put(asked, *found))
            self._go_on()

        self._reading = True
        self._jobs.submit(TABLE, f"Reading {asked.name}", work, done, waited_for=True)

    def _put(self, asked: _Asked, text: str, found: _Found) -> None:
        if not found.missing:
            asked.put(found.held)
        if found.missing or found.not_used:
            again = partial(self.take_pasted, text, asked.reader, asked.put, asked.columns, asked.name)
            self.unmatched.emit(Unmatched(asked.name, text, found.columns, found.missing, found.not_used, again))

    def _on_ended(self, key: str, _error: object = None) -> None:
        if key == TABLE and self._reading:
            self._reading = False
            self._go_on()

    def _guarded(self, act: Callable[[], None]) -> None:
        try:
            act()
        except PemloError as error:
            self._report(error)


def _read(asked: _Asked, read: Read, text: str, said: Said) -> _Found:
    """Read a table, on any thread; one that lacks columns which it needs is not read."""
    from pemlo.core.persistence.table import missing_columns, unused_titles  # noqa: PLC0415 - only where one is read

    columns = () if asked.columns is None else tuple(asked.columns(text, said))
    if not columns:
        return _Found(read(text, asked.name, said), (), (), ())
    missing, not_used = missing_columns(text, columns, said), unused_titles(text, columns, said)
    held = None if missing and not_used else read(text, asked.name, said)
    return _Found(held, columns, missing if not_used else (), not_used)
