"""Copies of unsaved work, so that a crash or a kill loses nothing. Lives on the GUI thread; writing is a job.

While there is unsaved work, a copy lies in the user's state folder, named for the process. A copy whose process is
gone is offered at the next start.
"""

import json
import os
from dataclasses import dataclass
from pathlib import Path

import platformdirs
from PySide6.QtCore import QObject, QTimer

from pemlo.app.document import Document
from pemlo.app.jobs import Jobs
from pemlo.core.errors import PemloError
from pemlo.core.persistence.document import from_text, to_text, write_whole
from pemlo.core.plan.project import Project

DELAY_MS = 3000
KEY = "keep a copy"


@dataclass(frozen=True)
class Kept:
    """A copy that somebody's crash left behind."""

    file: Path
    project: Project
    path: Path | None


def folder() -> Path:
    """Where the copies lie."""
    return Path(os.environ.get("PEMLO_STATE_FOLDER") or platformdirs.user_state_dir("pemlo", appauthor=False))


def left_behind() -> list[Kept]:
    """Return the readable copies of processes that are gone, newest first."""
    found = []
    for file in sorted(folder().glob("*.kept"), key=lambda one: -one.stat().st_mtime):
        if _alive(file.stem):
            continue
        try:
            data = json.loads(file.read_text(encoding="utf-8"))
            path = Path(data["path"]) if data["path"] else None
            found.append(Kept(file, from_text(data["text"], file.name), path))
        except (OSError, ValueError, KeyError, TypeError, PemloError):
            continue  # a copy that cannot be read helps nobody, and is not offered
    return found


def _alive(stem: str) -> bool:
    try:
        os.kill(int(stem.split("-", 1)[0]), 0)
    except (ValueError, ProcessLookupError):
        return False
    except PermissionError:
        return True
    return True


class Recovery(QObject):
    """Keeps a copy of the open document while it has unsaved changes."""

    def __init__(self, document: Document, jobs: Jobs) -> None:
        super().__init__()
        self._document, self._jobs = document, jobs
        self.file = folder() / f"{os.getpid()}-{id(self):x}.kept"
        self._timer = QTimer(self)
        self._timer.setSingleShot(True)
        self._timer.setInterval(DELAY_MS)
        self._timer.timeout.connect(self.keep)
        document.history.indexChanged.connect(self._on_history)
        document.kept.connect(self.forget)
        document.replaced.connect(self._on_history)

    def keep(self) -> None:
        """Write the copy now."""
        project, path = self._document.project, self._document.path

        def work(monitor: object) -> None:  # noqa: ARG001 - short, and whole or not at all
            self.file.parent.mkdir(parents=True, exist_ok=True)
            text = json.dumps({"path": str(path.resolve()) if path else "", "text": to_text(project)})
            write_whole(text, self.file)

        self._jobs.submit(KEY, "Keeping a copy", work, lambda _: None)

    def forget(self) -> None:
        """Remove the copy: the work is safe, or was given up."""
        self._timer.stop()
        self._jobs.cancel(KEY)
        self.file.unlink(missing_ok=True)

    def _on_history(self) -> None:
        if self._document.unsaved:
            self._timer.start()
        else:
            self.forget()
