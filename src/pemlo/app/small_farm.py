"""The small farm in a process of its own, to try watching with. GUI thread."""

import sys
from pathlib import Path

from PySide6.QtCore import QObject, QProcess, Signal

from pemlo.core.arrivals.farm_clock import PLACE
from pemlo.core.persistence.document import write_project
from pemlo.core.project.project import Project

FILM = "film.pemlo"
FRAMES = "frames"
_ENDS_MS = 2000


class SmallFarm(QObject):
    """Runs the farm.

    Signals
    -------
    changed()
        It began or ended.
    failed(str)
        It ended with trouble: what it said last.
    """

    changed = Signal()
    failed = Signal(str)

    def __init__(self) -> None:
        super().__init__()
        self._process: QProcess | None = None
        self._stopped = False
        self._folder: Path | None = None

    @property
    def running(self) -> bool:
        return self._process is not None and self._process.state() != QProcess.ProcessState.NotRunning

    def start(self, project: Project, folder: Path, speed: float, faults: str, seed: int) -> str:
        """Have a film rendered into a folder, and return the place of its frames.

        Raises
        ------
        FileError
            If nothing can be written there.
        """
        self.stop()
        folder.mkdir(parents=True, exist_ok=True)
        frames = _unused(folder)
        write_project(project, folder / FILM)
        self._folder = folder
        process = self._process = QProcess(self)
        self._stopped = False
        process.finished.connect(self._on_finished)
        process.setProgram(sys.executable)
        process.setArguments(
            ["-m", "pemlo", "farm", str(folder / FILM), "--into", str(frames), "--clock", f"{speed:g}",
             "--seed", str(seed), *(["--faults", faults] if faults.strip() else [])]
        )  # fmt: skip
        process.start()
        self.changed.emit()
        return f"{frames}/{PLACE}"

    def follow(self, project: Project) -> None:
        """Have it go on by another plan, if it runs."""
        if self.running and self._folder is not None:
            write_project(project, self._folder / FILM)

    def stop(self) -> None:
        """End it, if it runs."""
        if self._process is not None and self.running:
            self._stopped = True
            self._process.kill()
            self._process.waitForFinished(_ENDS_MS)
        self._process = None

    def _on_finished(self, code: int, _status: QProcess.ExitStatus) -> None:
        process = self._process
        if process is not None and code and not self._stopped:
            words = bytes(process.readAllStandardError().data()).decode("utf-8", "replace").strip()
            self.failed.emit(words.removeprefix("pemlo: ") or "The small farm ended before all frames were written.")
        self.changed.emit()


def _unused(folder: Path) -> Path:
    """Return a folder for frames in which nothing lies yet: what an earlier run wrote stays, and does not count."""
    number = 1
    while True:
        frames = folder / (FRAMES if number == 1 else f"{FRAMES} {number}")
        if not frames.exists() or not any(frames.iterdir()):
            return frames
        number += 1
