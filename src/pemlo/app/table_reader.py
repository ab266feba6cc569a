"""Reads tables that are brought in, dropped or pasted: files and long texts in the background. GUI thread."""

from collections import deque
from collections.abc import Callable
from pathlib import Path
from typing import Any

from PySide6.QtCore import QObject

from pemlo.app.jobs import Jobs
from pemlo.core.errors import PemloError
from pemlo.core.progress import Monitor

TABLE = "table"
PASTED = "What you pasted"
AT_ONCE = 20_000  # letters that are read while a hand waits: a hundredth of a second
Read = Callable[[str, str], Any]
Put = Callable[[Any], None]


class TableReader(QObject):
    """Reads tables one after another, and puts what each holds into the document before the next is read.

    So shots and their trials can be dropped together. What reads a table is asked for when its turn comes, on the GUI
    thread, with the film as it is then; it reads on another.

    Parameters
    ----------
    jobs : Jobs
    report : callable
        Is told what cannot be put in; what cannot be read is a failure of its job.
    """

    def __init__(self, jobs: Jobs, report: Callable[[PemloError], None]) -> None:
        super().__init__()
        self._jobs, self._report = jobs, report
        self._waiting: deque[tuple[str, Path | str, Callable[[], Read], Put]] = deque()
        self._reading = False
        jobs.failed.connect(self._on_ended)
        jobs.cancelled.connect(self._on_ended)

    def take_pasted(self, text: str, reader: Callable[[], Read], put: Put) -> None:
        """Read a text that was pasted, and put in what it holds."""
        if len(text) > AT_ONCE or self._reading:
            self._wait(PASTED, text, reader, put)
        else:
            self._guarded(lambda: put(reader()(text, PASTED)))

    def take_file(self, path: Path, reader: Callable[[], Read], put: Put) -> None:
        """Read a file, and put in what it holds."""
        self._wait(path.name, path, reader, put)

    def forget(self) -> None:
        """Read nothing any more: another film is here."""
        self._waiting.clear()
        self._jobs.cancel(TABLE)

    def _wait(self, name: str, source: Path | str, reader: Callable[[], Read], put: Put) -> None:
        self._waiting.append((name, source, reader, put))
        self._go_on()

    def _go_on(self) -> None:
        if self._reading or not self._waiting:
            return
        name, source, reader, put = self._waiting.popleft()
        read = reader()

        def work(monitor: Monitor) -> Any:  # noqa: ANN401 - whatever the table is of
            from pemlo.core.persistence.table import read_table_file  # noqa: PLC0415 - only where a table is read

            monitor.step(0.0, f"Reading {name}")
            return read(source if isinstance(source, str) else read_table_file(source), name)

        def done(found: Any) -> None:  # noqa: ANN401 - as above
            self._reading = False
            self._guarded(lambda: put(found))
            self._go_on()

        self._reading = True
        self._jobs.submit(TABLE, f"Reading {name}", work, done, waited_for=True)

    def _on_ended(self, key: str, _error: object = None) -> None:
        if key == TABLE and self._reading:
            self._reading = False
            self._go_on()

    def _guarded(self, act: Callable[[], None]) -> None:
        try:
            act()
        except PemloError as error:
            self._report(error)
