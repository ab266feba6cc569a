"""What can be done with machines in the brief. GUI thread."""

from collections.abc import Callable, Sequence

from pemlo.app.document import Document
from pemlo.core.errors import InputError, PemloError
from pemlo.core.project.edits import replace_machines, unused_name
from pemlo.core.project.machines import Machine
from pemlo.core.project.project import Project
from pemlo.core.units import counted, listed
from pemlo.gui.brief.presenter import MachineRow
from pemlo.gui.brief.week_form import WeekForm
from pemlo.gui.table.view import TableView


class MachineEdits:
    """Edits of the machines of a document, as its table has them picked."""

    def __init__(self, document: Document, report: Callable[[PemloError], None], view: TableView) -> None:
        self._document, self._report, self._view = document, report, view

    def add(self) -> None:
        """Add a machine that is always free."""
        project = self._document.project
        name = unused_name((machine.name for machine in project.machines), "machine")
        self._replace(f"Add {name}", [*project.machines, Machine(name=name)])

    def duplicate(self, rows: Sequence[MachineRow]) -> None:
        """Add machines once more, under other names."""
        machines = list(self._document.project.machines)
        for row in rows:
            name = unused_name((machine.name for machine in machines), row.machine.name)
            machines.append(row.machine.replace(name=name))
        self._replace(f"Duplicate {counted(len(rows), 'machine')}", machines)

    def remove(self, rows: Sequence[MachineRow]) -> None:
        """Take machines out of the film."""
        gone = {row.machine.name for row in rows}
        left = [machine for machine in self._document.project.machines if machine.name not in gone]
        self._replace(f"Remove {', '.join(sorted(gone))}", left)

    def measure(self) -> None:
        """Take the machines' speeds, and what frames at once are worth on them, from trials."""
        from pemlo.core.cost.machine_speeds import with_measured_machines  # noqa: PLC0415 - heavy to load

        self._edit("Speeds from trials", with_measured_machines)

    def paint_hours(self) -> None:
        """Paint the week of the picked machines, of all of them if none is picked."""
        table = self._view.table
        rows: list[MachineRow] = self._view.selected() or list(table.rows)
        if not rows:
            self._report(InputError("There is no machine yet.", "Add one first."))
            return
        number = [column.title for column in table.columns].index("hours")

        def take(hours: str) -> None:
            try:
                table.change(number, rows, hours)
            except PemloError as error:
                self._report(error)

        self.week = WeekForm(self._view, listed([row.machine.name for row in rows]), rows[0].machine.hours, take)
        self.week.open()

    def _replace(self, words: str, machines: Sequence[Machine]) -> None:
        self._edit(words, lambda project: replace_machines(project, machines))

    def _edit(self, words: str, change: Callable[[Project], Project]) -> None:
        try:
            self._document.edit(words, change)
        except PemloError as error:
            self._report(error)
