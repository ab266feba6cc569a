"""Copies of unsaved work, so that a crash or a kill loses nothing. Lives on the GUI thread; writing is a job.

While there is unsaved work, a copy lies in the user's state folder, beside a lock that its process holds: the system
lets go of it however the process ends. A copy whose lock nobody holds is offered at the next start.
"""

import fcntl
import json
import os
import secrets
import threading
from collections.abc import Callable
from dataclasses import dataclass
from pathlib import Path
from typing import IO

import platformdirs
from PySide6.QtCore import QObject, QTimer

from pemlo.app.document import Document
from pemlo.app.jobs import Jobs
from pemlo.core.errors import PemloError
from pemlo.core.persistence.document import from_text, to_text
from pemlo.core.persistence.whole_files import write_whole
from pemlo.core.progress import Monitor
from pemlo.core.project.project import Project

DELAY_MS = 3000
KEY = "keep a copy"


@dataclass(frozen=True)
class Kept:
    """A copy that somebody's crash left behind."""

    file: Path
    project: Project
    path: Path | None

    def remove(self) -> None:
        """Remove the copy and its lock."""
        _remove(self.file)


def folder() -> Path:
    """Where the copies lie."""
    return Path(os.environ.get("PEMLO_STATE_FOLDER") or platformdirs.user_state_dir("pemlo", appauthor=False))


def left_behind() -> list[Kept]:
    """Return the readable copies of processes that are gone, newest first."""
    records = []
    for file in sorted(folder().glob("*.kept"), key=lambda one: -one.stat().st_mtime):
        if _is_held(_lock_of(file)):
            continue
        try:
            data = json.loads(file.read_text(encoding="utf-8"))
            path = Path(data["path"]) if data["path"] else None
            records.append(Kept(file, from_text(data["text"], file.name), path))
        except (OSError, ValueError, KeyError, TypeError, RecursionError, PemloError):
            continue  # a copy that cannot be read helps nobody, and is not offered
    return records


def _lock_of(file: Path) -> Path:
    return file.with_suffix(".lock")


def _is_held(lock: Path) -> bool:
    """Return whether a living process holds a lock."""
    try:
        with lock.open("r+b") as buffered_random:
            fcntl.flock(buffered_random, fcntl.LOCK_EX | fcntl.LOCK_NB)
    except FileNotFoundError:
        return False
    except OSError:
        return True
    return False


def _remove(file: Path) -> None:
    file.unlink(missing_ok=True)
    _lock_of(file).unlink(missing_ok=True)


class Recovery(QObject):
    """Keeps a copy of the open document while it has unsaved changes."""

    def __init__(self, document: Document, jobs: Jobs) -> None:
        super().__init__()
        self._document, self._jobs = document, jobs
        self.file = folder() / f"{os.getpid()}-{secrets.token_hex(4)}.kept"
        self._lock: IO[bytes] | None = None
        self._writing = threading.Lock()
        self._timer = QTimer(self)
        self._timer.setSingleShot(True)
        self._timer.setInterval(DELAY_MS)
        self._timer.timeout.connect(self.keep)
        document.history.moved.connect(self._on_history)
        document.kept.connect(self._forget_soon)
        document.replaced.connect(self._on_history)

    def keep(self, then: Callable[[], None] | None = None) -> None:
        """Write the copy now, and do something once it is there."""
        project, path = self._document.project, self._document.path

        def work(monitor: Monitor) -> None:
            text = json.dumps({"path": str(path.resolve()) if path else "", "text": to_text(project)})
            with self._writing:
                monitor.step(0.5, "Keeping a copy")  # if it was forgotten in the meantime, it ends here
                self.file.parent.mkdir(parents=True, exist_ok=True)
                self._hold()
                write_whole(text, self.file)

        self._jobs.submit(KEY, "Keeping a copy", work, lambda _: then() if then is not None else None)

    def _hold(self) -> None:
        """Take the lock that says that this process lives, before there is a copy."""
        if self._lock is None:
            self._lock = _lock_of(self.file).open("ab")
            fcntl.flock(self._lock, fcntl.LOCK_EX | fcntl.LOCK_NB)

    def forget(self) -> None:
        """Remove the copy: the work is safe, or was given up."""
        self._timer.stop()
        self._jobs.cancel(KEY)
        self._remove()

    def _forget_soon(self) -> None:
        """Remove the copy on another thread; what is asked for after it comes after it."""
        self._timer.stop()
        self._jobs.submit(KEY, "Removing the copy", lambda _: self._remove(), lambda _: None, brief=True)

    def _remove(self) -> None:
        with self._writing:  # what is being written is there first, and goes with the rest
            _remove(self.file)
            if self._lock is not None:
                self._lock.close()
                self._lock = None

    def _on_history(self) -> None:
        if self._document.unsaved:
            self._timer.start()
        else:
            self._forget_soon()
