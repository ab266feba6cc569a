"""Runs the checks of a launch whenever something changes. Lives on the GUI thread; the disk is asked by a job."""

from collections.abc import Callable
from dataclasses import dataclass, replace
from pathlib import Path
from typing import TYPE_CHECKING

from PySide6.QtCore import QObject, QTimer, Signal

from pemlo.app.document import Document
from pemlo.app.film_known import FilmForecast
from pemlo.app.jobs import Jobs
from pemlo.app.picture_places import base_folder
from pemlo.core.progress import Monitor
from pemlo.core.project.project import Project

if TYPE_CHECKING:
    from pemlo.core.preflight.check_context import CheckContext
    from pemlo.core.preflight.finding import Finding
    from pemlo.core.preflight.first_frame import FirstFrame

CHECKS = "launch checks"
REST_MS = 120  # several changes in a row are checked once
LOOKS_MS = 20_000  # folders change without anybody telling


@dataclass(frozen=True)
class CheckedLaunch:
    """What the checks found of one state of the document, and which shots are ready."""

    project: Project
    here: "CheckContext"
    findings: "tuple[Finding, ...]"
    ready: tuple[str, ...]


class LaunchChecker(QObject):
    """Asks for the checks while somebody looks.

    Signals
    -------
    checked(CheckedLaunch)
    """

    checked = Signal(object)

    def __init__(self, document: Document, jobs: Jobs, answer: Callable[[], FilmForecast | None]) -> None:
        super().__init__()
        self._document, self._jobs, self._answer = document, jobs, answer
        self.last: CheckedLaunch | None = None
        self.first_frames: dict[str, Path] = {}
        self._measured: dict[tuple[object, ...], list[Finding]] = {}
        self._on = False
        self._rest, self._again = QTimer(self), QTimer(self)
        self._rest.setSingleShot(True)
        self._rest.setInterval(REST_MS)
        self._again.setInterval(LOOKS_MS)
        self._rest.timeout.connect(self._ask)
        self._again.timeout.connect(self._ask)
        document.changed.connect(lambda _: self.ask())
        document.replaced.connect(self._on_replaced)

    def look(self, *, on: bool) -> None:
        """Check from now on, or no more: nobody looks."""
        if on == self._on:
            return
        self._on = on
        if on:
            self._again.start()
            self.ask()
        else:
            self._again.stop()
            self._rest.stop()

    def ask(self) -> None:
        """Check what is there now, once no more changes come."""
        if self._on:
            self._rest.start()

    @property
    def rests(self) -> bool:
        """Whether what was found is of the document as it stands."""
        return self.last is not None and self.last.project is self._document.project and not self._rest.isActive()

    def take_first_frame(self, shot: str, path: Path) -> None:
        """Hold a frame that was rendered with launch settings against the plan, from now on."""
        self.first_frames[shot] = path
        self.ask()

    def close(self) -> None:
        """Check nothing any more."""
        self.look(on=False)

    def _on_replaced(self) -> None:
        self.last = None
        self.first_frames.clear()
        self._measured.clear()
        self.ask()

    def _ask(self) -> None:
        project, answer = self._document.project, self._answer()
        root, frames, measured = base_folder(self._document.path), dict(self.first_frames), dict(self._measured)
        self._jobs.submit(
            CHECKS,
            "Checking the launch",
            lambda monitor: _check(project, answer, root, frames, measured, monitor),
            self._on_checked,
            quiet=True,
        )

    def _on_checked(self, found: "tuple[CheckedLaunch, dict[tuple[object, ...], list[Finding]]]") -> None:
        self.last, self._measured = found
        self.checked.emit(self.last)


def _check(
    project: Project,
    answer: FilmForecast | None,
    root: Path,
    frames: dict[str, Path],
    measured: "dict[tuple[object, ...], list[Finding]]",
    monitor: Monitor,
) -> "tuple[CheckedLaunch, dict[tuple[object, ...], list[Finding]]]":
    """Run all checks; what was measured of a first frame is measured again only if something of it changed."""
    from pemlo.core.preflight.all_checks import in_order, ready_shots, run_checks  # noqa: PLC0415 - heavy to load
    from pemlo.core.preflight.check_context import situation_of  # noqa: PLC0415 - as above
    from pemlo.core.preflight.disk_facts import folder_facts  # noqa: PLC0415 - as above
    from pemlo.core.preflight.with_forecast import with_forecast  # noqa: PLC0415 - as above

    monitor.step(0.0, "Checking the launch")
    here = situation_of(project)
    if answer is not None:
        here = with_forecast(here, answer.fit, answer.forecast.probability)
    monitor.step(0.3, "Looking into folders")
    here = replace(here, folders=folder_facts(here, root))
    monitor.step(0.6, "Checking the launch")
    found = list(run_checks(here))
    kept: dict[tuple[object, ...], list[Finding]] = {}
    names = {shot.name for shot in project.shots}
    existing = {name: path for name, path in frames.items() if name in names}
    first = None if answer is None or not existing else _first_frame(project, answer, root)
    for name, path in existing.items():
        if first is None:
            break
        monitor.step(0.7, f"Looking at the first frame of {name}")
        key = (name, path, _written(path), project.shot(name), project.trials_of(name), project.needs, project.delivery)
        kept[key] = measured[key] if key in measured else first.findings(name, path)
        found += kept[key]
    findings = in_order(found)
    return CheckedLaunch(project, here, findings, ready_shots(here, findings)), kept


def _written(path: Path) -> float:
    try:
        return path.stat().st_mtime
    except OSError:
        return 0.0


def _first_frame(project: Project, answer: FilmForecast, root: Path) -> "FirstFrame":
    from pemlo.core.preflight.first_frame import FirstFrame  # noqa: PLC0415 - heavy to load

    return FirstFrame(project, answer.fit, root)
