"""The brief as widgets: shots and machines as tables that are edited in place, what is due as a form. GUI thread."""

from collections.abc import Callable
from pathlib import Path

from PySide6.QtCore import Qt, Signal
from PySide6.QtWidgets import QFileDialog, QHBoxLayout, QScrollArea, QSplitter, QVBoxLayout, QWidget

from pemlo.app.document import Document
from pemlo.app.film_known import FilmForecast
from pemlo.app.table_reader import TableReader
from pemlo.core.errors import InputError, PemloError
from pemlo.core.persistence.csv_machines import READ as MACHINE_COLUMNS
from pemlo.core.persistence.csv_machines import read_machines
from pemlo.core.persistence.csv_shots import READ as SHOT_COLUMNS
from pemlo.core.persistence.csv_shots import over, read_shots, without_delivery
from pemlo.core.project.edits import add_shots, move_shot, remove_shots, replace_machines, unused_name
from pemlo.core.project.film_line import FilmLine, film_of
from pemlo.core.project.layers import in_layers
from pemlo.core.project.machines import Machine
from pemlo.core.project.project import Project
from pemlo.core.project.settings import ShotSettings
from pemlo.core.project.shots import Shot
from pemlo.core.units import counted
from pemlo.gui.brief import presenter
from pemlo.gui.brief.layers_form import LayersForm
from pemlo.gui.brief.machine_edits import MachineEdits
from pemlo.gui.brief.start_page import StartPage
from pemlo.gui.common.form import Form
from pemlo.gui.common.labels import Heading, button, label
from pemlo.gui.table.acts import Act
from pemlo.gui.table.clipboard import Records
from pemlo.gui.table.model import TableModel
from pemlo.gui.table.tools import FilterField, GroupChoice, Totals
from pemlo.gui.table.view import TableView


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


FORM_PX = 322
MOST_ASSUMPTIONS = 5
FIRST_SHOT = Shot(name="010", first=1, last=100, asked=ShotSettings(samples=128))


class BriefPanel(QWidget):
    """The stage.

    Signals
    -------
    picked(tuple of str)
        Shots picked in the table.
    where_wanted()
        It is to be chosen where the film is watched.
    """

    picked = Signal(object)
    where_wanted = Signal()

    def __init__(self, document: Document, report: Callable[[PemloError], None], tables: TableReader) -> None:
        super().__init__()
        self._document, self._report = document, report
        self.brought_in = BroughtIn(self, document, tables)
        self._answer: FilmForecast | None = None
        self.shots_model: TableModel[presenter.ShotRow] = TableModel(
            presenter.SHOT_COLUMNS, document.edit, report, noun="shot", key=lambda row: row.shot.name
        )
        self.machines_model: TableModel[presenter.MachineRow] = TableModel(
            presenter.MACHINE_COLUMNS, document.edit, report, noun="machine", key=lambda row: row.machine.name
        )
        self.shots = TableView(self.shots_model, "Shots")
        self.machines = TableView(self.machines_model, "Machines")
        self.machine_edits = MachineEdits(document, report, self.machines)
        self.filter, self.groups = FilterField(self.shots), GroupChoice(self.shots)
        self.totals = Totals(self.shots, presenter.shots_counted)
        self.machine_filter, self.machine_totals = FilterField(self.machines), Totals(self.machines)
        self._let_tables_be_worked_in(report)
        self.start = StartPage(lambda: document.project)
        self.start.film_said.connect(self._on_film_said)
        self.start.pasted.connect(self.brought_in.paste_shots)
        self.start.table_wanted.connect(self.brought_in.bring_in_shots)
        self.start.shot_wanted.connect(self.add_shot)
        self.machines.empty_words = "Add a machine with “Add machine” above, paste rows, or drop a table."
        self.form = Form(presenter.DUE_FIELDS, document.edit)
        self._shots_heading = Heading(
            "Shots",
            self.filter,
            self.groups,
            button("Add shot", "Add a shot after the picked one, with its settings", self.add_shot, link=True),
            button(
                "Layers…", "Part the picked shot into layers that are rendered by themselves", self.part_shot, link=True
            ),
            button("Bring in…", "Read shots from a CSV file", self.brought_in.bring_in_shots, link=True),
        )
        self._machines_heading = Heading(
            "Machines",
            self.machine_filter,
            button(
                "Speeds from trials",
                "From one frame that was timed on several machines, or alone and beside others on one",
                self.machine_edits.measure,
                link=True,
            ),
            button("Hours…", "Paint when the picked machines may render", self.machine_edits.paint_hours, link=True),
            button("Add machine", "Add a machine that is always free", self.machine_edits.add, link=True),
            button("Bring in…", "Read machines from a CSV file", self.brought_in.bring_in_machines, link=True),
        )
        self._assumptions_title = label("Assumptions", "title")
        self._assumptions = label("", "second", small=True, wrap=True)
        self._assumptions.setAccessibleName("What no trial shows")
        self._lay_out()
        self.shots.picked.connect(self._on_picked)
        self.shots.removal_asked.connect(self._on_shots_removed)
        self.machines.removal_asked.connect(self.machine_edits.remove)
        self.shots.pasted.connect(self.brought_in.paste_shots)
        self.machines.pasted.connect(self.brought_in.paste_machines)
        self.shots.duplicates_asked.connect(self._on_shots_doubled)
        self.machines.duplicates_asked.connect(self.machine_edits.duplicate)

    def _let_tables_be_worked_in(self, report: Callable[[PemloError], None]) -> None:
        for table in (self.shots, self.machines):
            table.acts.report = report
            table.acts.can_remove = table.acts.can_duplicate = True
        self.shots.acts.records = Records(Shot, lambda row: row.shot, self._put_copied_shots)
        self.machines.acts.records = Records(Machine, lambda row: row.machine, self.brought_in.put_machines)
        alone = lambda: len(self.picked_shots()) == 1  # noqa: E731 - of the three below
        self.machines.acts.more = (Act("Paint hours…", "", self.machine_edits.paint_hours, lambda: True),)
        self.shots.acts.more = (
            Act("Part into layers…", "", self.part_shot, alone),
            Act("Move earlier", "Alt+Up", lambda: self.move_picked(-1), alone),
            Act("Move later", "Alt+Down", lambda: self.move_picked(1), alone),
        )

    def _lay_out(self) -> None:
        self.tables = QSplitter(Qt.Orientation.Vertical)
        self.tables.setObjectName("brief tables")
        for heading, table, above in (
            (self._shots_heading, self.shots, 0),
            (self._machines_heading, self.machines, 8),
        ):
            part = QWidget()
            column = QVBoxLayout(part)
            column.setContentsMargins(0, above, 0, 4)
            column.setSpacing(2)
            column.addWidget(heading)
            column.addWidget(table)
            column.addWidget(self.totals if table is self.shots else self.machine_totals)
            if table is self.shots:
                column.addWidget(self.start)
            self.tables.addWidget(part)
        self._machines_part = part
        self.tables.setStretchFactor(0, 5)
        self.tables.setStretchFactor(1, 2)
        self.tables.setSizes([340, 215])
        side = QWidget()
        column = QVBoxLayout(side)
        column.setContentsMargins(0, 3, 12, 8)
        column.setSpacing(8)
        column.addWidget(label("What is due", "title"))
        column.addWidget(self.form)
        self.where = button(
            "Where it is watched…", "Which size loses nothing there, and what it saves; another rate",
            self.where_wanted.emit, link=True,
        )  # fmt: skip
        column.addWidget(self.where, 0, Qt.AlignmentFlag.AlignLeft)
        column.addSpacing(6)
        column.addWidget(self._assumptions_title)
        column.addWidget(self._assumptions)
        column.addStretch(1)
        scroll = QScrollArea()
        scroll.setWidget(side)
        scroll.setWidgetResizable(True)
        scroll.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        scroll.setFixedWidth(FORM_PX)
        row = QHBoxLayout(self)
        row.setContentsMargins(18, 10, 6, 0)
        row.setSpacing(18)
        row.addWidget(self.tables, 1)
        row.addWidget(scroll)

    def show_project(self, project: Project, answer: FilmForecast | None) -> None:
        """Show a project, and the forecast that goes with it if there is one."""
        self._answer = answer
        self.shots_model.show_rows(presenter.shot_rows(project, answer.forecast if answer else None))
        self.machines_model.show_rows(presenter.machine_rows(project))
        self._machines_heading.say(presenter.machines_line(project))
        self.form.show_project(project)
        for widget in (self.shots, self.totals, self._shots_heading, self._machines_part):
            widget.setVisible(bool(project.shots))
        self.start.setVisible(not project.shots)
        if not project.shots:
            self.start.show_anew()
        assumed = presenter.assumption_lines(project) if project.shots else ()
        self._assumptions.setText("\n\n".join(assumed[:MOST_ASSUMPTIONS]))
        self._assumptions_title.setVisible(bool(assumed))
        self._assumptions.setVisible(bool(assumed))

    def _on_film_said(self, said: FilmLine) -> None:
        self._guarded(lambda: self._document.edit("Say the film", lambda project: film_of(said, project)))
        self.start.line.clear()

    def pick(self, names: tuple[str, ...]) -> None:
        self.shots.pick(lambda row: row.shot.name in names)

    @property
    def first_field(self) -> QWidget:
        """What has the keys first: the table, or in an empty film the line that makes one."""
        return self.shots if self._document.project.shots else self.start.line

    def picked_shots(self) -> list[str]:
        """Return the names of the shots that are picked in the table, in the order shown."""
        return [row.shot.name for row in self.shots.selected()]

    def _place_after_picked(self) -> int:
        """Return the place in the film after the last shot that is picked, its end if none is."""
        picked = set(self.picked_shots())
        places = [place for place, shot in enumerate(self._document.project.shots, 1) if shot.name in picked]
        return max(places, default=len(self._document.project.shots))

    def add_shot(self) -> None:
        project = self._document.project
        place = self._place_after_picked()
        like = project.shots[place - 1] if place else FIRST_SHOT
        name = unused_name((shot.name for shot in project.shots), like.name)
        shot = like.replace(name=name, plan=None, extra_columns=())
        self._guarded(lambda: self._document.edit(f"Add shot {name}", lambda p: add_shots(p, [shot], place)))

    def part_shot(self) -> None:
        """Ask into which layers the picked shot is parted."""
        names = self.picked_shots()
        if len(names) != 1:
            self._report(InputError("Pick one shot to part into layers.", "Click it in the table first."))
            return
        name = names[0]

        def part(layers: list[str]) -> bool:
            try:
                self._document.edit(f"Part {name} into layers", lambda project: in_layers(project, name, layers))
            except PemloError as error:
                self._report(error)
                return False
            return True

        has_trials = bool(self._document.project.trials_of(name))
        self.layers = LayersForm(self, name, has_trials, part)
        self.layers.open()

    def move_picked(self, by: int) -> None:
        """Move the picked shot earlier or later in the film."""
        names = self.picked_shots()
        if len(names) == 1:
            name = names[0]
            self._document.edit(f"Move shot {name}", lambda project: move_shot(project, name, by))
            self.pick((name,))

    def _put_copied_shots(self, shots: tuple[Shot, ...]) -> None:
        """Put copied shots in: in the place of those of the same names, the others after the picked one."""
        place = self._place_after_picked()

        def change(project: Project) -> Project:
            new = {shot.name: shot for shot in shots}
            kept = [new.pop(shot.name, shot) for shot in project.shots]
            return project.replace(shots=(*kept[:place], *new.values(), *kept[place:]))

        self._document.edit(f"Paste {counted(len(shots), 'shot')}", change)

    def _on_shots_doubled(self, rows: list[presenter.ShotRow]) -> None:
        """Put each picked shot once more after the last of them, with its settings and without its trials."""
        taken = [shot.name for shot in self._document.project.shots]
        shots = []
        for row in rows:
            name = unused_name(taken, row.shot.name)
            taken.append(name)
            shots.append(row.shot.replace(name=name))
        what, place = counted(len(shots), "shot"), self._place_after_picked()
        self._guarded(lambda: self._document.edit(f"Duplicate {what}", lambda p: add_shots(p, shots, place)))

    def _guarded(self, act: Callable[[], object]) -> None:
        try:
            act()
        except PemloError as error:
            self._report(error)

    def _on_picked(self, rows: list[presenter.ShotRow]) -> None:
        names = {row.shot.name for row in rows}
        if names:  # in the order of the film, however the table is sorted
            self.picked.emit(tuple(shot.name for shot in self._document.project.shots if shot.name in names))

    def _on_shots_removed(self, rows: list[presenter.ShotRow]) -> None:
        names = [row.shot.name for row in rows]
        what = f"shot {names[0]}" if len(names) == 1 else f"{len(names)} shots"
        self._guarded(lambda: self._document.edit(f"Remove {what}", lambda p: remove_shots(p, names)))
