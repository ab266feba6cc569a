"""Brings shots and machines in from tables: from files, pasted, or dropped. GUI thread."""

from pathlib import Path

from PySide6.QtWidgets import QFileDialog, QWidget

from pemlo.app.document import Document
from pemlo.app.table_reader import TableReader
from pemlo.core.persistence.csv_machines import READ as MACHINE_COLUMNS
from pemlo.core.persistence.csv_machines import read_machines
from pemlo.core.persistence.csv_shots import READ as SHOT_COLUMNS
from pemlo.core.persistence.csv_shots import over, read_shots, without_delivery
from pemlo.core.project.edits import replace_machines
from pemlo.core.project.machines import Machine
from pemlo.core.project.project import Project
from pemlo.core.project.shots import Shot
from pemlo.core.units import counted


class BroughtIn:
    """Reads tables, and puts what is in them into the film."""

    def __init__(self, parent: QWidget, document: Document, tables: TableReader) -> None:
        self._parent, self._document, self._tables = parent, document, tables

    def bring_in_shots(self) -> None:
        """Ask for a table, and bring in its shots."""
        path = self._ask_table("Bring in shots")
        if path is not None:
            self._tables.take_file(path, lambda: read_shots, self.put_shots, lambda *_: SHOT_COLUMNS)

    def bring_in_machines(self) -> None:
        """Ask for a table, and bring in its machines."""
        path = self._ask_table("Bring in machines")
        if path is not None:
            self._tables.take_file(path, lambda: read_machines, self.put_machines, lambda *_: MACHINE_COLUMNS)

    def _ask_table(self, title: str) -> Path | None:
        name, _ = QFileDialog.getOpenFileName(self._parent, title, "", "Tables (*.csv *.tsv *.txt);;All files (*)")
        return Path(name) if name else None

    def paste_shots(self, text: str) -> None:
        """Bring in shots that were pasted."""
        self._tables.take_pasted(text, lambda: read_shots, self.put_shots, lambda *_: SHOT_COLUMNS)

    def paste_machines(self, text: str) -> None:
        """Bring in machines that were pasted."""
        self._tables.take_pasted(text, lambda: read_machines, self.put_machines, lambda *_: MACHINE_COLUMNS)

    def put_shots(self, found: tuple[Shot, ...]) -> None:
        """Put shots in: those that are there by name get what the table says, others are added at the end."""

        def change(project: Project) -> Project:
            new, delivery = {shot.name: shot for shot in found}, project.delivery
            existing = tuple(over(shot, new.pop(shot.name)) if shot.name in new else shot for shot in project.shots)
            # What is the delivery's is not said of each.
            shots = without_delivery((*existing, *new.values()), delivery.width, delivery.height, delivery.fps)
            return project.replace(shots=shots)

        self._document.edit(f"Bring in {counted(len(found), 'shot')}", change)

    def put_machines(self, found: tuple[Machine, ...]) -> None:
        """Put machines in: those that are there by name are replaced, others added at the end."""

        def change(project: Project) -> Project:
            new = {machine.name: machine for machine in found}
            kept = tuple(new.pop(machine.name, machine) for machine in project.machines)
            return replace_machines(project, (*kept, *new.values()))

        self._document.edit(f"Bring in {counted(len(found), 'machine')}", change)
