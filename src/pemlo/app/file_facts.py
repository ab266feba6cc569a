"""Knows what is to be known of files; a slow share is asked on another thread, and holds nothing up. GUI thread.

Who asks gets what is known by now. If that is nothing, or old, the disk is asked, and `changed` tells when there is
something new; so a picture that is written anew is noticed too.
"""

import time
from collections.abc import Callable, Iterable
from pathlib import Path
from typing import Any

from PySide6.QtCore import QObject, Signal

from pemlo.app.jobs import Jobs
from pemlo.core.progress import Monitor

FILES = "files"  # the job that asks when files were written
OLD_S = 2.0  # files are asked for again after this, if anybody wants to know


class FileFacts(QObject):
    """One fact of each file.

    Parameters
    ----------
    jobs : Jobs
    key : str
        Of the job that asks.
    find : callable
        Finds the fact of a file on another thread, given what was known before; None if it has none.

    Signals
    -------
    changed()
        Something new is known.
    """

    changed = Signal()

    def __init__(self, jobs: Jobs, key: str, find: Callable[[Path, Any], Any]) -> None:
        super().__init__()
        self._jobs, self._key, self._find = jobs, key, find
        self._known: dict[Path, Any] = {}
        self._asked_at: dict[Path, float] = {}
        self._wanted: dict[Path, None] = {}
        self._asking: dict[Path, None] = {}

    def of(self, path: Path) -> Any:  # noqa: ANN401 - whatever `find` finds
        """Return what is known of a file; None for none, or if it is not known yet."""
        if time.monotonic() - self._asked_at.get(path, -OLD_S) >= OLD_S:
            self._want((path,))
        return self._known.get(path)

    def known(self, paths: Iterable[Path]) -> bool:
        """Whether all files have been asked for; those that were not are."""
        missing = [path for path in paths if path not in self._known]
        self._want(missing)
        return not missing

    def ask_anew(self, paths: Iterable[Path]) -> None:
        """Forget what is known of some files: they may have been written just now."""
        for path in paths:
            self._known.pop(path, None)
            self._asked_at.pop(path, None)

    def forget(self) -> None:
        """Forget all files."""
        self._jobs.cancel(self._key)
        self._known, self._asked_at, self._wanted, self._asking = {}, {}, {}, {}

    def _want(self, paths: Iterable[Path]) -> None:
        asking = self._asking if self._key in self._jobs.running else {}
        self._wanted |= {path: None for path in paths if path not in asking}
        if self._wanted and not asking:
            self._ask()

    def _ask(self) -> None:
        wanted, before = self._wanted, dict(self._known)
        self._asking, self._wanted = wanted, {}

        def work(monitor: Monitor) -> dict[Path, Any]:
            found = {}
            for number, path in enumerate(wanted):
                monitor.step(number / len(wanted), f"Looking for {path.name}")
                found[path] = self._find(path, before.get(path))
            return found

        self._jobs.submit(self._key, "Looking for files", work, self._take, brief=True)

    def _take(self, found: dict[Path, Any]) -> None:
        new = any(path not in self._known or self._known[path] != fact for path, fact in found.items())
        now = time.monotonic()
        self._known |= found
        self._asked_at |= dict.fromkeys(found, now)
        self._want(())  # what was wanted meanwhile
        if new:
            self.changed.emit()
