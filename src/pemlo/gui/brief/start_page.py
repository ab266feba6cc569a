"""What an empty film offers: one line, a table, an edit, a folder of frames, the demo, projects. GUI thread."""

from collections.abc import Callable
from datetime import datetime
from functools import partial
from pathlib import Path

from PySide6.QtCore import Qt, Signal
from PySide6.QtGui import QGuiApplication
from PySide6.QtWidgets import QFileDialog, QGridLayout, QHBoxLayout, QLineEdit, QVBoxLayout, QWidget

from pemlo.core.project.film_line import EXAMPLE, FilmLine, read_film_line, understood
from pemlo.core.project.project import Project
from pemlo.gui.common.enabling import enable
from pemlo.gui.common.labels import button, label, rule
from pemlo.gui.common.plain import set_tip
from pemlo.words.verdicts import say_moment

MOST_RECENT = 5
WIDEST = 760


class StartPage(QWidget):
    """Stands in the place of the empty table.

    Signals
    -------
    film_said(FilmLine)
        A film was said in one line, and is to be made.
    pasted(str)
        A table from the clipboard.
    table_wanted()
        A table is to be chosen.
    edit_wanted()
        An edit is to be chosen.
    folder_chosen(Path)
        A folder of frames.
    demo_wanted()
    project_wanted(Path or None)
        A project that was open before; None to choose another.
    shot_wanted()
        A first shot is to be typed into the table.
    """

    film_said = Signal(object)
    pasted = Signal(str)
    table_wanted = Signal()
    edit_wanted = Signal()
    folder_chosen = Signal(object)
    demo_wanted = Signal()
    project_wanted = Signal(object)
    shot_wanted = Signal()

    def __init__(self, project: Callable[[], Project]) -> None:
        super().__init__()
        self._project = project
        self.line = QLineEdit()
        self.line.setPlaceholderText(EXAMPLE)
        self.line.setAccessibleName("Your film in one line")
        set_tip(self.line, "Shots, frames, size, rate, samples, what one frame takes, when it is due; in any order")
        self.line.textChanged.connect(self._on_typed)
        self.line.returnPressed.connect(self._on_said)
        self.go = button("Make this film", "As it is understood below; everything can be changed later", self._on_said,
                         main=True)  # fmt: skip
        self.parts = QGridLayout()
        self.parts.setHorizontalSpacing(14)
        self.parts.setVerticalSpacing(2)
        self.parts.setColumnStretch(3, 1)
        self.trouble = label("", "limit", wrap=True)
        self.recent_title, self.recents = label("Opened lately", "second"), QVBoxLayout()
        self._recent: tuple[Path, ...] = ()
        self.said: FilmLine = FilmLine()
        self._lay_out()
        self._on_typed("")

    def _lay_out(self) -> None:
        inside = QWidget()
        inside.setMaximumWidth(WIDEST)
        column = QVBoxLayout(inside)
        column.setContentsMargins(0, 14, 0, 8)
        column.setSpacing(8)
        column.addWidget(label("Say your film in one line", "title"))
        row = QHBoxLayout()
        row.addWidget(self.line, 1)
        row.addWidget(self.go)
        column.addLayout(row)
        column.addLayout(self.parts)
        column.addWidget(self.trouble)
        column.addSpacing(8)
        column.addWidget(rule())
        column.addSpacing(4)
        column.addWidget(label("Or begin with what you have", "title"))
        for made, words in (
            (button("Paste a table", "From a table program", self._on_paste),
             "copied rows under their headers: shot, first, last, samples"),
            (button("Open a table…", "A CSV file of shots", self.table_wanted.emit),
             "a CSV file; it can be dropped on the window too"),
            (button("Open an edit…", "OpenTimelineIO, or a CMX 3600 edit list", self.edit_wanted.emit),
             "shots and their ranges as they are cut; set the rate of the film first"),
            (button("Folder of frames…", "Shots and ranges from the files' names", self._on_folder),
             "shots and their ranges are read from the names of the files"),
            (button("Type shots", "A first shot in the table", self.shot_wanted.emit), "row by row, in the table"),
            (button("Open the demo", "A film of ten shots with its trials", self.demo_wanted.emit),
             "The Tide Clock: ten shots with timed and rendered trials"),
            (button("Open a project…", "A Pemlo file", lambda: self.project_wanted.emit(None)), "saved before"),
        ):  # fmt: skip
            offer = QHBoxLayout()
            made.setMinimumWidth(150)
            offer.addWidget(made)
            offer.addWidget(label(words, "second"), 1)
            column.addLayout(offer)
        column.addSpacing(6)
        column.addWidget(self.recent_title)
        self.recents.setSpacing(0)
        column.addLayout(self.recents)
        column.addStretch(1)
        whole = QHBoxLayout(self)
        whole.setContentsMargins(0, 0, 0, 0)
        whole.addWidget(inside, 1)
        whole.addStretch(0)

    def show_recent(self, paths: tuple[Path, ...]) -> None:
        """Offer projects that were open before."""
        if paths == self._recent and self.recents.count():
            return
        self._recent = paths
        while (item := self.recents.takeAt(0)) is not None:
            widget = item.widget()
            if widget is not None:
                widget.hide()
                widget.deleteLater()
        for path in paths[:MOST_RECENT]:
            made = button(f"{path.stem}   {path.parent}", str(path), partial(self.project_wanted.emit, path), link=True)
            self.recents.addWidget(made, 0, Qt.AlignmentFlag.AlignLeft)
        self.recent_title.setVisible(bool(paths))

    def show_anew(self) -> None:
        """Read the line once more: what an empty film has may be another, and the time has gone on."""
        self._on_typed(self.line.text())

    def _on_typed(self, text: str) -> None:
        project = self._project()
        now = datetime.now(project.delivery.zone)
        self.said = read_film_line(text, now, project.delivery.timezone)
        shown = self.said if text.strip() else read_film_line(EXAMPLE, now, project.delivery.timezone)
        while (item := self.parts.takeAt(0)) is not None:
            widget = item.widget()
            if widget is not None:
                widget.hide()
                widget.deleteLater()
        for row, (name, words) in enumerate(understood(shown, lambda moment: say_moment(moment, project))):
            faint = not text.strip() or words.endswith("assumed") or words in {"not timed yet", "say how many frames"}
            at = row % 4, 2 * (row // 4)
            self.parts.addWidget(label(name, "second"), *at)
            self.parts.addWidget(label(words, "faint" if faint else ""), at[0], at[1] + 1)
        enable(self.go, "" if self.said.enough else "Say at least how many frames there are.")
        self.trouble.setText(self._trouble(text))
        self.trouble.setVisible(bool(self.trouble.text()))

    def _trouble(self, text: str) -> str:
        if not text.strip():
            return ""
        parts = [*self.said.problems]
        if self.said.left_over:
            parts.append(f"Not understood: “{self.said.left_over}”. It is left out.")
        return " ".join(parts)

    def _on_said(self) -> None:
        if self.said.enough:
            self.film_said.emit(self.said)

    def _on_paste(self) -> None:
        self.pasted.emit(QGuiApplication.clipboard().text())

    def _on_folder(self) -> None:
        name = QFileDialog.getExistingDirectory(self, "Choose a folder of frames")
        if name:
            self.folder_chosen.emit(Path(name))
