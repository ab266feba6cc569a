"""The open document and its history. Lives on the GUI thread; the project in it is frozen.

A change is computed and checked before anything is pushed, so that undo and redo only swap values and cannot fail.
"""

from collections.abc import Callable
from dataclasses import dataclass
from datetime import UTC, datetime, timedelta
from pathlib import Path

from PySide6.QtCore import QObject, Signal

from pemlo.app.history import DoneStep, History
from pemlo.core.errors import FileError
from pemlo.core.files.fingerprint import fingerprint
from pemlo.core.persistence.document import read_project, write_project
from pemlo.core.persistence.picture_names import with_short_names, with_whole_names
from pemlo.core.project.project import Project
from pemlo.core.project.start import with_start_now

Change = Callable[[Project], Project]


def clock_now() -> datetime:
    """Return what time it is."""
    return datetime.now(UTC)


class ChangedOnDiskError(FileError):
    """Somebody else wrote the file since it was opened."""

    def __init__(self, path: Path) -> None:
        hint = "Save under another name to keep both, or write over it."
        FileError.__init__(self, f"{path.name} was changed by somebody else since you opened it.", hint, "changed")


class Document(QObject):
    """The project, where it is kept, and what can be undone.

    Names of pictures are absolute in it, in every state that can be undone: saving elsewhere loses none.

    Signals
    -------
    changed(frozenset of str)
        Names of the project's fields that changed.
    replaced()
        Another project was opened; everything is new.
    """

    changed = Signal(object)
    replaced = Signal()
    kept = Signal()

    def __init__(self, project: Project, path: Path | None = None, now: Callable[[], datetime] = clock_now) -> None:
        super().__init__()
        self.now = now
        self._project = with_start_now(_with_pictures(project, path), now())
        self._path = path
        self._read = "" if path is None else fingerprint(path)
        self.history: History[Project] = History(self._show)

    @property
    def project(self) -> Project:
        return self._project

    @property
    def path(self) -> Path | None:
        return self._path

    @property
    def unsaved(self) -> bool:
        return not self.history.is_clean()

    def edit(self, text: str, change: Change, gesture: str = "") -> None:
        """Make a change that can be undone.

        Parameters
        ----------
        text : str
            What the change is called: ``Set deadline``.
        change : callable
            Pure; takes the project and returns another.
        gesture : str
            Changes of the same gesture in a row are one step of the history.

        Raises
        ------
        InputError
            If the change is not allowed; nothing has happened then.
        """
        after = change(self._project)
        if after.trials != self._project.trials:
            after = _with_pictures(after, self._path)
        if after != self._project:
            after = with_start_now(after, self.now())
            self.history.push(DoneStep(text, self._project, after, gesture))

    def follow_clock(self, least: timedelta) -> None:
        """Let the start of a film that begins now go on, if it is older than that: no change that anybody made."""
        moved = with_start_now(self._project, self.now(), least)
        if moved is not self._project:
            self._show(moved)

    def open(self, path: Path) -> None:
        """Read a project from a file and show it."""
        self.replace(read_project(path), path)

    def replace(self, project: Project, path: Path | None, *, unsaved: bool = False) -> None:
        """Show another project; its history begins anew."""
        self._project = with_start_now(_with_pictures(project, path), self.now())
        self._path = path
        self._read = "" if path is None else fingerprint(path)
        self.history.clear()
        if unsaved:
            self.history.reset_clean()
        self.replaced.emit()

    def to_save(self, path: Path, *, over: bool = False) -> "Save":
        """Return what saving the project as it stands to a file takes; it is done on another thread.

        Parameters
        ----------
        path : Path
        over : bool
            Whether to write over what somebody else wrote into this project's file since it was opened.
        """
        return Save(self._project, path, "" if over or path != self._path else self._read)

    def on_saved(self, save: "Save", mark: str) -> None:
        """Remember that a project was saved, and the mark of its file."""
        self._path, self._read = save.path, mark
        if self._project is save.project:
            self.history.set_clean()
        else:  # it was changed while it was written: no state that can be undone is known to be the file's
            self.history.reset_clean()
        self.kept.emit()

    def _show(self, project: Project) -> None:
        before, self._project = self._project, project
        names = {name for name in Project.model_fields if getattr(before, name) != getattr(project, name)}
        self.changed.emit(frozenset(names))


@dataclass(frozen=True)
class Save:
    """One saving of a project.

    Attributes
    ----------
    project : Project
    path : Path
    read : str
        The mark of what may be in the file before; anything, if empty.
    """

    project: Project
    path: Path
    read: str

    def write(self) -> str:
        """Write it, on any thread; return the mark of what is in the file then.

        Raises
        ------
        ChangedOnDiskError, FileError
            Nothing is written then.
        """
        if self.read and fingerprint(self.path) not in ("", self.read):
            raise ChangedOnDiskError(self.path)
        write_project(with_short_names(self.project, self.path.parent), self.path)
        return fingerprint(self.path)


def _with_pictures(project: Project, path: Path | None) -> Project:
    return project if path is None else with_whole_names(project, path.parent)
