"""Takes in files of any kind: projects, tables by what their header holds, pictures, folders of frames. GUI thread."""

from collections.abc import Callable, Sequence
from functools import cached_property
from pathlib import Path
from typing import TYPE_CHECKING

from pemlo.core.editing.edit import ENDINGS
from pemlo.core.errors import InputError
from pemlo.core.files.header import PICTURE_ENDINGS
from pemlo.core.persistence.table import header_of, read_table_file
from pemlo.gui.project_files import ENDING
from pemlo.gui.window import Window

LAUNCH_ONLY = {"pattern", "folder", "percentage"}  # what a table of a launch has, and one of the brief has not

if TYPE_CHECKING:
    from pemlo.gui.trials.dropped_pictures import DroppedPictures


class DroppedFiles:
    """What a window does with files that are dropped on it or brought in."""

    def __init__(self, window: Window, open_project: Callable[[Path], None]) -> None:
        self._window, self._open_project = window, open_project

    @cached_property
    def pictures(self) -> "DroppedPictures":
        """What takes pictures in as trials."""
        from pemlo.gui.trials.dropped_pictures import DroppedPictures  # noqa: PLC0415 - heavy to load

        window = self._window
        return DroppedPictures(window, window.document, window.jobs, window.preferences, window.report)

    def take(self, names: Sequence[str]) -> None:
        """Open a project, or bring in pictures and tables."""
        paths = [Path(name) for name in names]
        pictures = [path for path in paths if path.suffix.lower() in PICTURE_ENDINGS]
        if pictures:
            self.pictures.take(pictures, self._window.trials.shot)
        for path in paths:
            if not path.suffix:
                self._window.folder.take(path)
            elif path.suffix.lower() == ENDING:
                self._open_project(path)
            elif path.suffix.lower() in ENDINGS:
                self._window.edits.take(path)
            elif path not in pictures:
                self._take_table(path)

    def take_in_judge(self, names: Sequence[str]) -> None:
        """Show pictures side by side; anything else is taken as in the other stages."""
        if all(Path(name).suffix.lower() in PICTURE_ENDINGS for name in names):
            self._window.judge.choosing.show_files([Path(name) for name in names])
        else:
            self.take(names)

    def _take_table(self, path: Path) -> None:
        text = read_table_file(path)
        columns = header_of(text)
        if {"frame", "seconds"} <= columns:
            self._window.trials.edits.take_table(text, path)
        elif {"shot", "first", "last"} <= columns and not LAUNCH_ONLY & columns:
            self._window.brief.take_shots(text, path.name)
        elif "machine" in columns:
            self._window.brief.take_machines(text, path.name)
        elif {"shot"} <= columns:
            self._window.handover.launch.take_table(text, path.name)
            self._window.show_stage(6)
        else:
            raise InputError(
                f"{path.name} is neither a project nor a table of shots, trials or machines, nor a picture.",
                "A table needs the columns shot, first and last; or shot, frame and seconds; or machine.",
            )
