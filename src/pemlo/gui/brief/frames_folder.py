"""Shots from a folder of frames: looked for on another thread, then put into the film. GUI thread."""

import time
from collections.abc import Callable
from functools import partial
from pathlib import Path
from typing import TYPE_CHECKING

from PySide6.QtWidgets import QInputDialog, QWidget

from pemlo.app.document import Document
from pemlo.app.jobs import Jobs
from pemlo.core.errors import FileError, PemloError
from pemlo.core.progress import Monitor
from pemlo.core.project.edits import set_delivery, set_shot
from pemlo.core.project.project import Project
from pemlo.core.project.settings import USUAL_SAMPLES, ShotSettings
from pemlo.core.units import counted, format_duration
from pemlo.gui.common.problem_bar import Offer

if TYPE_CHECKING:
    from pemlo.core.files.found_shots import FoundShot, FoundShots

FOLDER = "folder of frames"
MOST_SAID = 3


class FramesFolder:
    """Takes a folder in as shots: those that are there by name get its range, others are added."""

    def __init__(
        self,
        document: Document,
        jobs: Jobs,
        report: Callable[[PemloError], None],
        tell: Offer,
        parent: QWidget,
    ) -> None:
        self._document, self._jobs, self._report = document, jobs, report
        self._tell, self._parent = tell, parent
        document.replaced.connect(lambda: jobs.cancel(FOLDER))

    def take(self, folder: Path) -> None:
        """Look for shots in a folder, and take them in."""

        def work(monitor: Monitor) -> "tuple[FoundShots, tuple[int, int] | None]":
            from pemlo.core.files.found_shots import found_shots  # noqa: PLC0415 - heavy to load
            from pemlo.core.files.loading import size_of  # noqa: PLC0415 - as above

            found = found_shots(folder, monitor)
            try:
                size = size_of(found.shots[0].picture)
            except PemloError:
                size = None  # a frame that is not whole yet says nothing of its size
            return found, size

        self._jobs.submit(
            FOLDER, f"Looking for frames in {folder.name}", work, lambda found: self._put(*found), waited_for=True
        )

    def _put(self, found_shots: "FoundShots", size: tuple[int, int] | None) -> None:
        def change(project: Project) -> Project:
            is_empty = not project.shots
            new = {shot.name: shot for shot in found_shots.shots}
            kept = [
                shot if (one := new.pop(shot.name, None)) is None
                else shot.replace(first=one.first, last=one.last, step=one.step, ranges=())
                for shot in project.shots
            ]  # fmt: skip
            asked = project.shots[-1].asked if project.shots else ShotSettings(samples=USUAL_SAMPLES)
            kept += [one.shot(asked) for one in new.values()]
            changed = project.replace(shots=tuple(kept))
            return changed if size is None or not is_empty else set_delivery(changed, width=size[0], height=size[1])

        try:
            self._document.edit(f"Take in {counted(len(found_shots.shots), 'shot')}", change)
        except PemloError as error:
            self._report(error)
            return
        if found_shots.left_out:
            self._report(FileError(" ".join(found_shots.left_out[:MOST_SAID])))
        self._ask_of(found_shots)

    def _ask_of(self, found_shots: "FoundShots") -> None:
        """Ask of a folder that still grows whether it is complete, and offer to watch what comes."""
        now = time.time()
        growing = [shot for shot in found_shots.shots if shot.grows(now)]
        if not growing:
            return
        one = max(growing, key=lambda each: each.written)
        ago = format_duration(max(now - one.written, 0.0))
        more = f" {counted(len(growing) - 1, 'other shot')} may be, too." if len(growing) > 1 else ""
        words = (
            f"{one.name} may still be rendering: its newest file came {ago} ago. Frames {one.first}-{one.last} were "
            f"taken; how many samples they have is not known.{more}"
        )
        self._tell(words, "", f"Say the last frame of {one.name}", partial(self._on_last, one))

    def ask_last(self, shot: "FoundShot") -> int | None:
        """Ask for the last frame of a shot; None if nobody says it."""
        last, said = QInputDialog.getInt(
            self._parent,
            f"The last frame of {shot.name}",
            "Its last frame, once all are rendered:",
            shot.last,
            shot.last,
        )
        return last if said else None

    def _on_last(self, shot: "FoundShot") -> None:
        last = self.ask_last(shot)
        if last is None:
            return
        fields: dict[str, object] = {"last": last, **({"place": shot.place} if shot.place else {})}
        try:
            self._document.edit(f"Watch {shot.name}", lambda project: set_shot(project, shot.name, **fields))
        except PemloError as error:
            self._report(error)
