"""The middle of Hand-over: what the renderer is really set to, and what later work needs of files. GUI thread."""

from collections.abc import Callable, Mapping, Sequence
from pathlib import Path

from PySide6.QtCore import Signal
from PySide6.QtWidgets import QFileDialog, QHBoxLayout, QVBoxLayout, QWidget

from pemlo.app.document import Document
from pemlo.app.table_reader import TableReader
from pemlo.core.errors import InputError, PemloError
from pemlo.core.persistence.csv_launch import READ, colour, layer_names, read_launch
from pemlo.core.persistence.table import whole_number, yes_or_no
from pemlo.core.preflight.left_on import HOLDS
from pemlo.core.project.edits import set_handles, set_needs
from pemlo.core.project.launch import LaunchRow
from pemlo.core.project.project import Project
from pemlo.core.units import listed
from pemlo.gui.common.cells import NOTHING, read
from pemlo.gui.common.columns import Field
from pemlo.gui.common.form import Form
from pemlo.gui.common.labels import Heading, button, label
from pemlo.gui.handover.handover_edits import HandoverEdits
from pemlo.gui.handover.launch_columns import LAUNCH, LaunchCells, launch_rows, launch_words
from pemlo.gui.table.clipboard import Records
from pemlo.gui.table.model import TableModel
from pemlo.gui.table.tools import FilterField, Totals
from pemlo.gui.table.view import TableView


def _bits(text: str) -> int:
    return 0 if text.strip().lower() in ("", "any", NOTHING) else whole_number(text)


def _holds(text: str) -> str:
    return "" if text.strip().lower() in ("", "any", NOTHING) else colour(text)


def _handles(project: Project) -> str:
    """Say how many handles shots have, where all that move have as many."""
    counts = {shot.handles for shot in project.shots if not shot.still}
    return str(next(iter(counts), 0)) if len(counts) <= 1 else "differ"


NEEDS: tuple[Field, ...] = (
    Field("handles", "Handles", "Frames more at either end of every shot, in its hours too",
          _handles, lambda p, text: set_handles(p, read(whole_number, text, "handles"))),
    Field("bits", "Bits a value", "That later work needs; any where that is not said",
          lambda p: str(p.needs.bits or "any"), lambda p, text: set_needs(p, bits=read(_bits, text, "bits")),
          choices=("any", "8", "16", "32")),
    Field("alpha", "Alpha", "Whether later work needs it", lambda p: "yes" if p.needs.alpha else "no",
          lambda p, text: set_needs(p, alpha=read(yes_or_no, text, "alpha")), choices=("no", "yes")),
    Field("layers", "Layers", "That later work needs, with commas between",
          lambda p: ", ".join(p.needs.layers) or "none", lambda p, text: set_needs(p, layers=layer_names(text))),
    Field("colour", "Files hold", f"{HOLDS['scene-linear']}, or {HOLDS['display']}; any where that is not said",
          lambda p: p.needs.colour or "any", lambda p, text: set_needs(p, colour=read(_holds, text, "files hold")),
          choices=("any", "scene-linear", "display")),
    Field("movie", "Movie", "Its codec wants even sides", lambda p: "yes" if p.needs.movie else "no",
          lambda p, text: set_needs(p, movie=read(yes_or_no, text, "movie")), choices=("yes", "no")),
)  # fmt: skip


EMPTY = "Shots stand here as soon as the brief has some."


class LaunchBox(QWidget):
    """The table and the form.

    Signals
    -------
    picked(tuple of str)
        Shots whose rows are selected.
    """

    picked = Signal(object)

    def __init__(
        self, document: Document, edits: HandoverEdits, report: Callable[[PemloError], None], tables: TableReader
    ) -> None:
        super().__init__()
        self._document, self._edits, self._report, self._tables = document, edits, report, tables
        self.model = TableModel(
            LAUNCH, document.edit, report, noun="row", key=lambda cells: (cells.row.shot, cells.place)
        )
        self.table = TableView(self.model, "Launch")
        self.table.acts.report, self.table.acts.can_remove = report, True
        self.table.acts.records = Records(LaunchRow, lambda cells: cells.row, self._put_copied)
        self.filter, self.totals = FilterField(self.table), Totals(self.table)
        self.table.empty_words = EMPTY
        self.heading = Heading(
            "The launch",
            self.filter,
            button("As planned", "Set every row to what the plan says", edits.take_plan, link=True),
            button("Table…", "Bring in launch.csv", self.bring_in, link=True),
            button("Frame…", "Read the picked shot's settings from a header", self.from_frame, link=True),
            button("Forget", "Check the plan itself, as if nothing was typed", edits.clear_launch, link=True),
        )
        self.said = label("", "second", small=True, wrap=True)
        half = len(NEEDS) // 2
        self.needs = tuple(Form(part, document.edit) for part in (NEEDS[:half], NEEDS[half:]))
        self.needs_title = label("What later work needs of files", "title")
        self.table.picked.connect(self._on_picked)
        self.table.pasted.connect(self._paste)
        self.table.removal_asked.connect(self._on_removal)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(4)
        column.addWidget(self.heading)
        column.addWidget(self.said)
        column.addWidget(self.table, 1)
        column.addWidget(self.totals)
        column.addSpacing(4)
        column.addWidget(self.needs_title)
        forms = QHBoxLayout()
        forms.setSpacing(18)
        for form in self.needs:
            forms.addWidget(form, 1)
        column.addLayout(forms)

    def show_project(self, project: Project) -> None:
        self.model.show_rows(launch_rows(project))
        self.said.setText(launch_words(project))
        for form in self.needs:
            form.show_project(project)

    def pick(self, names: Sequence[str]) -> None:
        self.table.pick(lambda cells: cells.row.shot in names)

    def _on_picked(self, rows: list[LaunchCells]) -> None:
        names = tuple(dict.fromkeys(cells.row.shot for cells in rows))
        if names:
            self.picked.emit(names)

    def _on_removal(self, rows: list[LaunchCells]) -> None:
        places = [cells.place for cells in rows if cells.place is not None]
        if places:
            self._edits.remove_rows(places)

    def _guarded(self, act: Callable[[], None]) -> None:
        try:
            act()
        except PemloError as error:
            self._report(error)

    def bring_in(self) -> None:
        """Ask for a table of the launch."""
        name, _ = QFileDialog.getOpenFileName(self, "Bring in a launch", "", "CSV (*.csv);;All files (*)")
        if name:
            self._tables.take_file(Path(name), self._reader, self._edits.take_launch, lambda *_: READ)

    def _paste(self, text: str) -> None:
        self._tables.take_pasted(text, self._reader, self._edits.take_launch, lambda *_: READ)

    def _put_copied(self, rows: tuple[LaunchRow, ...]) -> None:
        """Put copied rows in the place of those of the same shots."""
        project = self._document.project
        unknown = sorted({row.shot for row in rows} - {shot.name for shot in project.shots})
        if unknown:
            words = f"The brief has no {'shot' if len(unknown) == 1 else 'shots'} {listed(unknown)}."
            raise InputError(words, "Add them to the brief first, or copy other rows.")
        shots = {row.shot for row in rows}
        self._edits.take_launch((*(row for row in project.launch if row.shot not in shots), *rows))

    def _reader(self) -> Callable[[str, str, Mapping[str, str]], Sequence[LaunchRow]]:
        """Return what reads a launch of the film as it is now; on any thread."""
        project = self._document.project

        return lambda text, name, said: read_launch(text, project, name, said)

    def from_frame(self) -> None:
        """Ask for a frame whose header tells how the picked shot is rendered."""
        rows = self.table.selected()
        if len(rows) != 1:
            self._report(InputError("Pick one shot whose frame it is.", "Click it in the table first."))
            return
        shot = rows[0].row.shot
        name, _ = QFileDialog.getOpenFileName(self, f"A frame of {shot}", "", "Pictures (*.exr *.png *.tif *.tiff)")
        if name:
            self._guarded(lambda: self.take_header(shot, Path(name)))

    def take_header(self, shot: str, path: Path) -> None:
        """Take the launch of a shot from the header of a frame."""
        from pemlo.core.preflight.from_header import row_from_header  # noqa: PLC0415 - only where a header is read

        project = self._document.project
        row = row_from_header(project, shot, path)
        self._edits.take_launch((*(one for one in project.launch if one.shot != shot), row))
