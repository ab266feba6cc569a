"""A changed edit, held against the film before it is taken in: shots, hours, deadline. GUI thread."""

from collections.abc import Callable
from pathlib import Path
from typing import TYPE_CHECKING

from PySide6.QtCore import Qt
from PySide6.QtWidgets import (
    QAbstractItemView,
    QCheckBox,
    QDialog,
    QFileDialog,
    QHBoxLayout,
    QHeaderView,
    QTableWidget,
    QTableWidgetItem,
    QVBoxLayout,
    QWidget,
)

from pemlo.app.document import Document
from pemlo.app.jobs import Jobs
from pemlo.core.errors import PemloError
from pemlo.core.progress import Monitor
from pemlo.core.project.edits import set_handles
from pemlo.core.project.project import Project
from pemlo.gui.common.count_box import CountBox
from pemlo.gui.common.enabling import enable
from pemlo.gui.common.labels import button, label
from pemlo.gui.common.plain import set_tip

if TYPE_CHECKING:
    from pemlo.core.editing.changed_edit import EditChange
    from pemlo.core.editing.edit import Edit
    from pemlo.words.change_effect import ChangeEffect

READING, WEIGHING = "reading an edit", "weighing an edit"
COLUMNS = ("shot", "what", "in the film", "in the edit", "frames", "notes")
MOST_HANDLES = 1000
LEFT = Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter
RIGHT = Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter
SIGNS = {  # by shape, beside the word
    "new": "+", "gone": "×", "kept": "·", "longer": "▸", "shorter": "◂", "moved": "↔", "same": "",
}  # fmt: skip


class EditForm(QDialog):
    """The dialog; it blocks nothing, and nothing changes until the edit is taken.

    Parameters
    ----------
    parent : QWidget
    document : Document
    jobs : Jobs
    edit : Edit
    report : callable
        Hears of what was refused.
    """

    def __init__(
        self, parent: QWidget, document: Document, jobs: Jobs, edit: "Edit", report: Callable[[PemloError], None]
    ) -> None:
        super().__init__(parent)
        self.setWindowTitle(f"The edit {edit.name}")
        self._document, self._jobs, self._edit, self._report = document, jobs, edit, report
        self._change: EditChange | None = None
        self._set_handles: int | None = None
        self.words = label("", "title", wrap=True)
        self.notes = label("", "second", wrap=True)
        self.effect = label("", wrap=True)
        self.keep = QCheckBox("Keep shots that the edit does not have")
        set_tip(self.keep, "At the end of the film, with their trials")
        self.all = QCheckBox("Show shots that stay as they are")
        self.handles = CountBox("Handles", "Frames more at either end of each shot", 0, MOST_HANDLES)
        self.handles.show_value(max((shot.handles for shot in document.project.shots), default=0))
        self.table = QTableWidget(0, len(COLUMNS))
        self.table.setHorizontalHeaderLabels(list(COLUMNS))
        self.table.setAccessibleName("What the edit changes")
        self.table.setEditTriggers(QAbstractItemView.EditTrigger.NoEditTriggers)
        self.table.setShowGrid(False)
        self.table.verticalHeader().hide()
        self.table.horizontalHeader().setSectionResizeMode(QHeaderView.ResizeMode.ResizeToContents)
        self.table.horizontalHeader().setStretchLastSection(True)
        self.table.horizontalHeader().setDefaultAlignment(LEFT)
        self.go = button("Take the edit", "In one step that can be undone", self.take, main=True)
        self._lay_out()
        self.keep.toggled.connect(lambda _: self._hold())
        self.all.toggled.connect(lambda _: self._fill())
        self.handles.changed.connect(self._on_handles)
        # A slot of the dialog itself ends with it; the signal has other listeners, and is never cut off from all.
        document.changed.connect(self._on_changed)
        document.replaced.connect(self.reject)
        self._hold()

    def _lay_out(self) -> None:
        ticks = QHBoxLayout()
        ticks.addWidget(self.keep)
        ticks.addWidget(self.all)
        ticks.addStretch(1)
        ticks.addWidget(self.handles)
        below = QHBoxLayout()
        below.addStretch(1)
        below.addWidget(button("Cancel", "Leave the film as it is", self.reject))
        below.addWidget(self.go)
        column = QVBoxLayout(self)
        for one in (self.words, self.notes):
            column.addWidget(one)
        column.addWidget(self.table, 1)
        column.addLayout(ticks)
        column.addWidget(self.effect)
        column.addLayout(below)
        self.resize(760, 520)

    @property
    def taken(self) -> Project | None:
        """The film with the edit; None while that is not known."""
        if self._change is None:
            return None
        return self._with_handles(self._change.project)

    def _with_handles(self, project: Project) -> Project:
        """Return a film with the handles that were set here; each shot keeps its own where none were."""
        return project if self._set_handles is None else set_handles(project, self._set_handles)

    def _on_changed(self, _change: object) -> None:
        self._hold()

    def _hold(self) -> None:
        """Hold the edit against the film as it stands."""
        from pemlo.core.editing.changed_edit import edit_change  # noqa: PLC0415 - loaded with the edit

        try:
            self._change = edit_change(self._document.project, self._edit, keep_gone=self.keep.isChecked())
        except PemloError as error:
            self._change = None
            self.words.setText(str(error))
            enable(self.go, str(error))
            return
        self.words.setText(self._change.words)
        self.notes.setText(" ".join(self._change.notes))
        self.notes.setVisible(bool(self._change.notes))
        self._fill()
        self._weigh()

    def _fill(self) -> None:
        if self._change is None:
            return
        shown = self._change.shots if self.all.isChecked() else self._change.changed
        self.table.setRowCount(len(shown))
        for row, shot_change in enumerate(shown):
            before, after = (
                "" if part is None else f"{part[0]}-{part[1]}" for part in (shot_change.before, shot_change.after)
            )
            frames = f"{shot_change.frames:+d}".replace("-", "−") if shot_change.frames else ""
            what = f"{SIGNS[shot_change.fate]} {shot_change.fate}".strip()
            for column, words in enumerate(
                (shot_change.shot, what, before, after, frames, "; ".join(shot_change.notes))
            ):
                item = QTableWidgetItem(words)
                item.setTextAlignment(RIGHT if COLUMNS[column] == "frames" else LEFT)
                self.table.setItem(row, column, item)

    def _on_handles(self, count: int) -> None:
        self._set_handles = count
        self.handles.show_value(count)
        self._weigh()

    def _weigh(self) -> None:
        """Say what the edit does to hours and deadline, once that is known."""
        before, after = self._document.project, self.taken
        if after is None:
            return
        enable(self.go, "" if after != before else "This edit changes nothing of the film.")
        self.effect.setText("Working out what it does to hours and deadline…")

        def work(monitor: Monitor) -> "ChangeEffect":
            from pemlo.words.change_effect import change_effect  # noqa: PLC0415 - heavy to load

            monitor.step(0.0, "Weighing the edit")
            return change_effect(before, after)

        self._jobs.submit(WEIGHING, "Weighing the edit", work, self._say_effect, again=self._weigh)

    def _say_effect(self, change_effect: "ChangeEffect") -> None:
        self.effect.setText("\n".join(change_effect.lines))

    def take(self) -> None:
        """Take the edit in."""
        edit, keep = self._edit, self.keep.isChecked()
        from pemlo.core.editing.changed_edit import edit_change  # noqa: PLC0415 - loaded by now

        self._document.changed.disconnect(self._on_changed)
        try:
            self._document.edit(
                f"Take the edit {edit.name}",
                lambda project: self._with_handles(edit_change(project, edit, keep_gone=keep).project),
            )
        except PemloError as error:
            self._report(error)
            self._document.changed.connect(self._on_changed)
            return
        self.accept()

    def done(self, result: int) -> None:
        """Close, and leave no work behind."""
        self._jobs.cancel(WEIGHING)
        super().done(result)


class EditReader:
    """Reads edits in the background, and shows them beside the film. GUI thread."""

    def __init__(self, parent: QWidget, document: Document, jobs: Jobs, report: Callable[[PemloError], None]) -> None:
        self._parent, self._document, self._jobs, self._report = parent, document, jobs, report
        self.form: EditForm | None = None
        document.replaced.connect(lambda: jobs.cancel(READING))

    def ask(self) -> None:
        """Ask for an edit, and hold it against the film."""
        name, _ = QFileDialog.getOpenFileName(
            self._parent, "Bring in an edit", "", "Edits (*.otio *.edl);;All files (*)"
        )
        if name:
            self.take(Path(name))

    def take(self, path: Path) -> None:
        """Read an edit, and hold it against the film."""
        fps = self._document.project.delivery.fps

        def work(monitor: Monitor) -> "Edit":
            from pemlo.core.editing.apart import read_edit_apart  # noqa: PLC0415 - heavy to load
            from pemlo.core.editing.changed_edit import edit_change  # noqa: F401, PLC0415 - heavy; asked for next

            monitor.step(0.0, f"Reading {path.name}")
            return read_edit_apart(path, fps)

        self._jobs.submit(READING, f"Reading {path.name}", work, self._show, again=lambda: self.take(path))

    def _show(self, edit: "Edit") -> None:
        if self.form is not None:
            self.form.reject()
        self.form = EditForm(self._parent, self._document, self._jobs, edit, self._report)
        self.form.finished.connect(self._forget)
        self.form.show()

    def _forget(self) -> None:
        if self.form is not None:
            self.form.deleteLater()
            self.form = None
