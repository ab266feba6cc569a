"""Takes in files of any kind: projects, tables by what their header holds, pictures, folders of frames. GUI thread."""

from collections.abc import Callable, Mapping, Sequence
from functools import cached_property
from pathlib import Path
from typing import TYPE_CHECKING, Any

from pemlo.core.editing.edit import ENDINGS
from pemlo.core.errors import InputError
from pemlo.core.files.header import PICTURE_ENDINGS
from pemlo.core.persistence.column_names import key_of, matched
from pemlo.core.persistence.table import titles_of
from pemlo.core.project.launch import LaunchRow
from pemlo.gui.saving import ENDING
from pemlo.gui.stages import HAND_OVER
from pemlo.gui.window import Window

LAUNCH_ONLY = {"pattern", "folder", "percentage"}  # what a table of a launch has, and one of the brief has not

if TYPE_CHECKING:
    from pemlo.core.persistence.table import CsvColumn
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
        """Take a table in as what its header says that it is."""
        from pemlo.core.persistence.csv_launch import read_launch  # noqa: PLC0415 - only where a table is read
        from pemlo.core.persistence.csv_machines import read_machines  # noqa: PLC0415 - as above
        from pemlo.core.persistence.csv_shots import read_shots  # noqa: PLC0415 - as above
        from pemlo.gui.trials.trial_edits import read_table  # noqa: PLC0415 - as above

        window = self._window
        kinds: dict[str, Callable[[Any], None]] = {
            "trials": window.trials.edits.put,
            "shots": window.brief.brought_in.put_shots,
            "machines": window.brief.brought_in.put_machines,
            "launch": self._put_launch,
        }

        def reader() -> Callable[[str, str, Mapping[str, str]], tuple[str, Any]]:
            project = window.document.project

            def read(text: str, name: str, said: Mapping[str, str]) -> tuple[str, Any]:
                kind = _kind_of(text, name, said)
                if kind == "trials":
                    return kind, read_table(text, project, path, said)
                if kind == "launch":
                    return kind, read_launch(text, project, name, said)
                return kind, (read_shots if kind == "shots" else read_machines)(text, name, said)

            return read

        def columns(text: str, said: Mapping[str, str]) -> "tuple[CsvColumn, ...]":
            return _kinds()[_kind_of(text, path.name, said)]

        window.tables.take_file(path, reader, lambda found: kinds[found[0]](found[1]), columns)

    def _put_launch(self, rows: Sequence[LaunchRow]) -> None:
        self._window.handover.edits.take_launch(rows)
        self._window.show_stage(HAND_OVER)


def _kinds() -> "dict[str, tuple[CsvColumn, ...]]":
    """Return the columns of each kind of table, the kind that needs most first."""
    from pemlo.core.persistence import (  # noqa: PLC0415 - only where a table is read
        csv_launch,
        csv_machines,
        csv_shots,
        csv_trials,
    )

    return {
        "trials": csv_trials.READ,
        "shots": csv_shots.READ,
        "machines": csv_machines.READ,
        "launch": csv_launch.READ,
    }


def _kind_of(text: str, name: str, said: Mapping[str, str]) -> str:
    """Return what a table is of.

    Raises
    ------
    InputError
        If its header does not say that.
    """
    titles = titles_of(text)
    names = {
        kind: set(matched(titles, {column.name for column in columns}, said)) for kind, columns in _kinds().items()
    }
    if {"frame", "seconds"} <= names["trials"]:
        return "trials"
    ranged = {"first", "last"} <= names["shots"] or "frames" in names["shots"]
    if ranged and "shot" in names["shots"] and not LAUNCH_ONLY & {key_of(title) for title in titles}:
        return "shots"
    if "machine" in {key_of(title) for title in titles} or {"machine", "count"} <= names["machines"]:
        return "machines"
    if "shot" in names["launch"]:
        return "launch"
    raise InputError(
        f"{name} is neither a project nor a table of shots, trials or machines, nor a picture.",
        "A table needs the columns shot, first and last; or shot, frame and seconds; or machine.",
    )
