"""A small picture for each shot of the strip, from its trials; found on another thread. GUI thread."""

from pathlib import Path

from PySide6.QtCore import QObject, Signal
from PySide6.QtGui import QImage

from pemlo.app import picture_places
from pemlo.app.document import Document
from pemlo.app.file_facts import FileFacts
from pemlo.app.jobs import Jobs
from pemlo.core.project.project import Project
from pemlo.core.project.trials import Trial
from pemlo.gui.common.pictures import SmallPicture, small_picture

STRIP = "pictures of the strip"


class StripPictures(QObject):
    """Knows the small picture of a shot, once it was found.

    Signals
    -------
    changed()
    """

    changed = Signal()

    def __init__(self, document: Document, jobs: Jobs) -> None:
        super().__init__()
        self._document = document
        self._small = FileFacts(jobs, STRIP, lambda path, before: small_picture(self._small_of(path), before))
        self._small.changed.connect(self.changed)
        self._of: tuple[tuple[Trial, ...], dict[str, Path]] = ((), {})
        document.replaced.connect(self._small.forget)

    def _small_of(self, picture: Path) -> Path | None:
        return picture_places.small_of(picture, self._document.path)

    def of(self, project: Project, shot: str) -> QImage | None:
        """Return the small picture of a shot; None while it has none, or it is not known."""
        if self._of[0] != project.trials:  # quick: they are the same trials mostly
            self._of = project.trials, self._cleanest(project)
        path = self._of[1].get(shot)
        found: SmallPicture | None = None if path is None else self._small.of(path)
        return None if found is None else found.image

    def _cleanest(self, project: Project) -> dict[str, Path]:
        best: dict[str, tuple[float, Path]] = {}
        for trial in project.trials:
            path = picture_places.named_picture(trial, self._document.path)
            work = trial.samples * trial.resolution_percent**2
            if path is not None and work > best.get(trial.shot, (-1.0, path))[0]:
                best[trial.shot] = work, path
        return {shot: path for shot, (_, path) in best.items()}
