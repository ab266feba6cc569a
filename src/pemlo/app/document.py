"""The open document and its history. Lives on the GUI thread; the project in it is frozen.

A change is computed and checked before anything is pushed, so that undo and redo only swap values and cannot fail.
"""

from collections.abc import Callable
from pathlib import Path

from PySide6.QtCore import QObject, Signal
from PySide6.QtGui import QUndoCommand, QUndoStack

from pemlo.core.persistence.document import read_project, write_project
from pemlo.core.plan.project import Project

Change = Callable[[Project], Project]


class _Swap(QUndoCommand):
    """Swaps one project for another; commands of one gesture merge."""

    def __init__(self, document: "Document", text: str, before: Project, after: Project, gesture: str) -> None:
        super().__init__(text)
        self._document, self._before, self.after, self.gesture = document, before, after, gesture

    def redo(self) -> None:
        self._document._show(self.after)  # noqa: SLF001 - the command is the document's own

    def undo(self) -> None:
        self._document._show(self._before)  # noqa: SLF001

    def id(self) -> int:
        return hash(self.gesture) & 0x7FFFFFFF if self.gesture else -1

    def mergeWith(self, other: QUndoCommand) -> bool:
        if not isinstance(other, _Swap) or other.gesture != self.gesture:
            return False
        self.after = other.after
        self.setObsolete(self.after == self._before)
        return True


class Document(QObject):
    """The project, where it is kept, and what can be undone.

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

    def __init__(self, project: Project, path: Path | None = None) -> None:
        super().__init__()
        self._project = project
        self._path = path
        self.history = QUndoStack(self)

    @property
    def project(self) -> Project:
        return self._project

    @property
    def path(self) -> Path | None:
        return self._path

    @property
    def unsaved(self) -> bool:
        return not self.history.isClean()

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
        if after != self._project:
            self.history.push(_Swap(self, text, self._project, after, gesture))

    def open(self, path: Path) -> None:
        """Read a project from a file and show it."""
        self.replace(read_project(path), path)

    def replace(self, project: Project, path: Path | None, *, unsaved: bool = False) -> None:
        """Show another project; its history begins anew."""
        self._project = project
        self._path = path
        self.history.clear()
        if unsaved:
            self.history.resetClean()
        self.replaced.emit()

    def save(self, path: Path) -> None:
        """Write the project to a file and remember it."""
        write_project(self._project, path)
        self._path = path
        self.history.setClean()
        self.kept.emit()

    def _show(self, project: Project) -> None:
        before, self._project = self._project, project
        names = {name for name in Project.model_fields if getattr(before, name) != getattr(project, name)}
        self.changed.emit(frozenset(names))
