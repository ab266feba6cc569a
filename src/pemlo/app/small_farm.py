"""The small farm in a process of its own, to try watching with. GUI thread; files are written by jobs."""

from collections.abc import Callable
from pathlib import Path

from PySide6.QtCore import QObject, QProcess, Signal

from pemlo.app.jobs import Jobs
from pemlo.core.arrivals.farm_clock import PLACE, PREPARES
from pemlo.core.errors import FileError
from pemlo.core.persistence.document import write_project
from pemlo.core.persistence.whole_files import why_not_written
from pemlo.core.processes import FOLDER, command_of
from pemlo.core.project.project import Project

FILM = "film.pemlo"
FRAMES = "frames"
START, FOLLOW = "small farm", "film of the small farm"
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

    def __init__(self, jobs: Jobs) -> None:
        super().__init__()
        self._jobs = jobs
        self._process: QProcess | None = None
        self._stopped = False
        self._folder: Path | None = None
        self._prepares = ""
        jobs.failed.connect(self._on_not_begun)
        jobs.cancelled.connect(self._on_not_begun)

    @property
    def running(self) -> bool:
        """Whether it runs, or is about to."""
        return self._folder is not None

    @property
    def prepares(self) -> str:
        """What it renders before a shot's first frame, while its clock stands; empty while frames come."""
        return self._prepares if self.running else ""

    def start(
        self, project: Project, folder: Path, speed: float, faults: str, seed: int, begun: Callable[[str], None]
    ) -> None:
        """Have a film rendered into a folder; `begun` is called with the place of its frames.

        What cannot be written there is a failure of its job.
        """
        self.stop()
        folder = self._folder = folder.absolute()

        def prepare(_: object) -> Path:
            try:
                folder.mkdir(parents=True, exist_ok=True)
                frames = _unused(folder)
            except OSError as error:
                raise FileError(
                    f"The small farm cannot write into {folder.name}: {why_not_written(error)}.", "Name another folder."
                ) from error
            write_project(project, folder / FILM)
            return frames

        def go(frames: Path) -> None:
            self._begin(folder, frames, speed, faults, seed)
            begun(f"{frames}/{PLACE}")

        self._jobs.submit(START, "Preparing the small farm", prepare, go, brief=True)
        self.changed.emit()

    def _begin(self, folder: Path, frames: Path, speed: float, faults: str, seed: int) -> None:
        process = self._process = QProcess(self)
        self._prepares = ""
        self._stopped = False
        process.finished.connect(self._on_finished)
        process.readyReadStandardOutput.connect(self._on_said)
        program, *arguments = command_of(
            "pemlo", "farm", str(folder / FILM), "--into", str(frames), "--clock", f"{speed:g}", "--seed", str(seed),
            *([f"--faults={faults}"] if faults.strip() else []),
        )  # fmt: skip
        process.setWorkingDirectory(str(FOLDER))
        process.setProgram(program)
        process.setArguments(arguments)
        process.start()
        self.changed.emit()

    def follow(self, project: Project) -> None:
        """Have it go on by another plan, if it runs."""
        folder = self._folder
        if folder is not None:
            # Brief jobs run one after another: an older film never comes after a newer one.
            self._jobs.submit(
                FOLLOW, "Telling the small farm", lambda _: write_project(project, folder / FILM), _nothing, brief=True
            )

    def stop(self) -> None:
        """End it, if it runs."""
        self._folder = None
        for key in (START, FOLLOW):
            self._jobs.cancel(key)
        if self._process is not None and self._process.state() != QProcess.ProcessState.NotRunning:
            self._stopped = True
            self._process.kill()
            self._process.waitForFinished(_ENDS_MS)
        self._process = None

    def _on_said(self) -> None:
        process = self._process
        if process is None:
            return
        lines = bytes(process.readAllStandardOutput().data()).decode("utf-8", "replace").splitlines()
        said = [line for line in lines if line.strip()]
        if said:
            self._prepares = said[-1] if said[-1].startswith(PREPARES) else ""
            self.changed.emit()

    def _on_not_begun(self, key: str, _error: object = None) -> None:
        if key == START and self._folder is not None:
            self._folder = None
            self.changed.emit()

    def _on_finished(self, code: int, _status: QProcess.ExitStatus) -> None:
        process = self._process
        self._folder = None
        if process is not None and code and not self._stopped:
            words = bytes(process.readAllStandardError().data()).decode("utf-8", "replace").strip()
            self.failed.emit(words.removeprefix("pemlo: ") or "The small farm ended before all frames were written.")
        self.changed.emit()


def _nothing(_: object) -> None:
    """Take note of a film that was written: nothing follows from it."""


def _unused(folder: Path) -> Path:
    """Return a folder for frames in which nothing lies yet: what an earlier run wrote stays, and does not count."""
    number = 1
    while True:
        frames = folder / (FRAMES if number == 1 else f"{FRAMES} {number}")
        if not frames.exists() or not any(frames.iterdir()):
            return frames
        number += 1
