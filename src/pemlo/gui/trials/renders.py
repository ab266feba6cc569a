"""Which trials are rendered here: asked in a form or taken from advice, added to the document when done. GUI thread."""

import platform
import time
from collections.abc import Callable, Sequence
from pathlib import Path
from typing import Any

from PySide6.QtCore import QObject, Signal
from PySide6.QtWidgets import QWidget

from pemlo.app import picture_places
from pemlo.app.document import Document
from pemlo.app.renderings import Rendering
from pemlo.core.cost.next_trial import Advice
from pemlo.core.errors import FileError, InputError, PemloError
from pemlo.core.files.trial_pictures import SMALL
from pemlo.core.project.edits import add_trials
from pemlo.core.project.scenes import scene_of
from pemlo.core.project.settings import FrameSettings
from pemlo.core.project.shots import Shot
from pemlo.core.project.trials import Trial
from pemlo.gui.trials import render_words
from pemlo.gui.trials.render_form import RenderForm


class TrialRenders(QObject):
    """Asks for trials to be rendered, and takes in what was.

    Signals
    -------
    wanted(list of Rendering)
        Frames that are to be rendered.
    shot_wanted(str)
        Another shot should be shown.
    """

    wanted = Signal(object)
    shot_wanted = Signal(str)

    def __init__(self, document: Document, report: Callable[[PemloError], None], parent: QWidget) -> None:
        super().__init__()
        self._document, self._report, self._parent = document, report, parent
        self._count = 0

    def ask(
        self,
        of_shot: str,
        picked: Trial | None = None,
        of_frame: int | None = None,
        region: render_words.Region | None = None,
    ) -> None:
        """Ask which trials of a shot to render; the form begins with the picked trial, or with what is asked."""
        project = self._document.project
        shot = next((shot for shot in project.shots if shot.name == of_shot), None)
        if shot is None or not scene_of(shot):
            what = "No shot is shown." if shot is None else f"Shot {shot.name} has no scene to render."
            self._report(InputError(what, "Give the shot one in the brief, in the column scene."))
            return
        frame = picked.frame if picked else shot.middle
        settings: FrameSettings = picked or shot.settings
        frame = frame if of_frame is None else of_frame

        def count(typed: dict[str, str]) -> str:
            found = render_words.wanted(project, shot, typed)
            return f"{len(found)} frames, each a trial when it is done" if len(found) > 1 else "1 frame"

        def start(typed: dict[str, str]) -> None:
            self._render(shot, render_words.wanted(project, shot, typed))

        self.form = RenderForm(self._parent, shot.name, render_words.beginning(settings, frame, region), count, start)
        self.form.open()

    def take_advice(self, advice: Advice) -> None:
        """Render the trial that is advised next."""
        self.render_one(advice.shot, advice.frame, advice.settings)
        self.shot_wanted.emit(advice.shot)

    def render_one(self, shot: str, frame: int, settings: FrameSettings) -> None:
        """Render one trial."""
        self._render(self._document.project.shot(shot), (render_words.RenderRequest(frame, settings),))

    def _render(self, shot: Shot, wanted: Sequence[render_words.RenderRequest]) -> None:
        folder = picture_places.folder_for(self._document.path)
        try:
            folder.mkdir(parents=True, exist_ok=True)
        except OSError as error:
            words = f"There is no place for pictures: {folder} cannot be made ({error.strerror})."
            self._report(FileError(words, "Save the project to a folder that may be written to."))
            return
        self.wanted.emit([self._rendering(shot, render_request, folder) for render_request in wanted])

    def _rendering(self, shot: Shot, wanted: render_words.RenderRequest, folder: Path) -> Rendering:
        self._count += 1
        when = time.strftime("%Y%m%d-%H%M%S")
        name = f"{picture_places.file_name(shot.name)}-{wanted.frame:04d}-{when}-{self._count:03d}"
        return Rendering(
            shot.name,
            scene_of(shot),
            wanted.frame,
            self._document.project.size_of(shot),
            wanted.settings,
            folder / f"{name}.exr",
            folder / f"{name}{SMALL}",
            platform.node(),
            self._count,
            wanted.region,
        )

    def take_rendered(self, done: Rendering, header: dict[str, Any]) -> None:
        """Add the trial of a frame that was rendered."""
        project = self._document.project
        if all(shot.name != done.shot for shot in project.shots):
            return  # the shot was removed meanwhile
        trial = render_words.landed_trial(done.shot, done.settings, header, str(done.picture))
        self._document.edit(f"Render a trial of {trial.shot}", lambda project: add_trials(project, [trial]))
