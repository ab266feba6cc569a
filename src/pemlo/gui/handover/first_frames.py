"""Frames that were rendered with launch settings, to be held against the plan. GUI thread."""

from collections.abc import Callable, Sequence
from pathlib import Path
from typing import TYPE_CHECKING

from PySide6.QtWidgets import QFileDialog, QWidget

from pemlo.app.document import Document
from pemlo.app.launch_checker import LaunchChecker
from pemlo.app.selection import Selection
from pemlo.core.errors import InputError, PemloError
from pemlo.core.project.settings import FrameSettings
from pemlo.core.project.shots import Shot
from pemlo.core.trialrun.spending import renderable, way_named

if TYPE_CHECKING:
    from pemlo.core.trialrun.landed import Landed


class FirstFrames:
    """Chooses them, has them rendered, and hands them to the checks."""

    def __init__(
        self,
        parent: QWidget,
        document: Document,
        selection: Selection,
        checker: LaunchChecker,
        render: Callable[[str, int, FrameSettings], None],
        report: Callable[[PemloError], None],
    ) -> None:
        self._parent, self._document, self._selection = parent, document, selection
        self._checker, self._render, self._report = checker, render, report
        self._awaited: dict[str, tuple[int, FrameSettings]] = {}

    def ask(self) -> None:
        """Ask for frames that were rendered with launch settings: one of the picked shot, or some that name theirs."""
        pictures = "Pictures (*.exr *.png *.tif *.tiff *.jpg *.jpeg)"
        names, _ = QFileDialog.getOpenFileNames(self._parent, "First frames, rendered as launched", "", pictures)
        self.take([Path(name) for name in names])

    def take(self, paths: Sequence[Path]) -> None:
        """Hold frames against the plan: a single one is of the picked shot, others say their shots in their names."""
        from pemlo.core.preflight.first_frame import shots_of_files  # noqa: PLC0415 - heavy to load

        picked = self._picked_shots()
        if len(paths) == 1 and len(picked) == 1:
            self._checker.take_first_frame(picked[0].name, paths[0])
            return
        found, left = shots_of_files(self._document.project, paths)
        for shot, path in found.items():
            self._checker.take_first_frame(shot, path)
        if left:
            names = ", ".join(path.name for path in left[:5])
            hint = "Pick its shot, and choose it alone; or call it after its shot."
            self._report(InputError(f"Of which shot these are is not known: {names}.", hint))

    def render(self) -> None:
        """Have the first frames of the picked shots rendered as they are launched."""
        from pemlo.core.preflight.first_frame import frame_to_render  # noqa: PLC0415 - heavy to load

        picked = self._picked_shots()
        if not picked:
            self._report(InputError("No shot is picked.", "Click one on the strip or in the table."))
        for shot in picked:
            if not self._can_render(shot):
                hint = "Choose its first frame instead, or say in Trials how it is rendered: “My renderer…”."
                self._report(InputError(f"How a frame of {shot.name} is rendered is not said.", hint))
                continue
            frame, settings = frame_to_render(self._document.project, shot.name)
            self._awaited[shot.name] = frame, settings
            self._render(shot.name, frame, settings)

    def _picked_shots(self) -> list[Shot]:
        return [shot for shot in self._document.project.shots if shot.name in self._selection.shots]

    def _can_render(self, shot: Shot) -> bool:
        way = way_named(self._document.project, "")
        return way is not None and renderable(way, shot)

    def on_landed(self, found: "Landed") -> None:
        """Hold a frame against the plan if it is a first frame that was waited for."""
        task, trial = found.run.task, found.trial
        if self._awaited.get(task.shot) != (task.frame, task.settings):
            return
        del self._awaited[task.shot]
        if trial is None:
            self._report(InputError(f"The first frame of {task.shot}: {found.why}", "Fix its command, in Trials."))
        elif trial.picture:
            self._checker.take_first_frame(task.shot, Path(trial.picture))
