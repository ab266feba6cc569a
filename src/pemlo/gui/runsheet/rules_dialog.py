"""The rules of the run, what the picked shot has of its own in it, and named sets of settings. GUI thread."""

from collections.abc import Callable
from typing import TYPE_CHECKING

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QDialog, QHBoxLayout, QLineEdit, QVBoxLayout, QWidget

from pemlo.app.document import Change, Document
from pemlo.app.film_known import FilmForecast
from pemlo.app.jobs import Jobs
from pemlo.core.errors import InputError, PemloError
from pemlo.core.progress import Monitor
from pemlo.core.project.edits import apply_set, drop_set, keep_set
from pemlo.core.project.spelling import settings_words
from pemlo.core.units import counted, format_interval
from pemlo.gui.common.choice import Choice
from pemlo.gui.common.enabling import enable
from pemlo.gui.common.form import Form
from pemlo.gui.common.labels import button, label, rule
from pemlo.gui.runsheet.rule_fields import film_fields, shot_fields
from pemlo.words.verdicts import say_hours

if TYPE_CHECKING:
    from pemlo.core.forecast.preset_costs import PresetCost
    from pemlo.core.project.named_settings import NamedSettings

COSTS, PASSES = "costs of sets", "two passes"


class RulesDialog(QDialog):
    """Two forms and the sets."""

    def __init__(
        self,
        parent: QWidget,
        document: Document,
        jobs: Jobs,
        answer: Callable[[], FilmForecast | None],
        picked: Callable[[], tuple[str, ...]],
        report: Callable[[PemloError], None],
    ) -> None:
        super().__init__(parent)
        self._document, self._jobs, self._answer, self._picked, self._report = document, jobs, answer, picked, report
        self._costs: tuple[PresetCost, ...] = ()
        self.setWindowTitle("How frames are assigned")
        self.setModal(False)
        self.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        self.film = Form(film_fields(document.project), document.edit)
        self.shot: Form | None = None
        self.shot_title = label("", "title")
        self.shot_place = QVBoxLayout()
        self.sets = Choice("Set of settings", "Settings that are kept under a name")
        self.sets.currentIndexChanged.connect(lambda _: self._say_set())
        self.set_words, self.pass_words = label("", wrap=True), label("", "second", small=True, wrap=True)
        self.name = QLineEdit()
        self.name.setPlaceholderText("a name, such as review")
        self.name.setAccessibleName("Name of the set")
        self.name.returnPressed.connect(self._on_keep)
        self.keep = button("Keep its settings", "Keep the picked shot's settings under this name", self._on_keep)
        self.put = button("Put on the picked shots", "Plan the picked shots with this set", self._on_put, main=True)
        self.put_all = button("Put on all", "Plan all shots with this set", lambda: self._put(None))
        self.forget = button("Forget it", "Keep this set no longer", self._on_forget, link=True)
        self._lay_out()
        document.changed.connect(self._on_changed)
        self._refresh()

    def _lay_out(self) -> None:
        column = QVBoxLayout(self)
        column.setContentsMargins(18, 14, 18, 14)
        column.setSpacing(8)
        column.addWidget(label("How frames are assigned", "title"))
        column.addWidget(self.film)
        column.addWidget(rule())
        column.addWidget(self.shot_title)
        column.addLayout(self.shot_place)
        column.addWidget(rule())
        column.addWidget(label("Sets of settings", "title"))
        column.addWidget(self.sets)
        column.addWidget(self.set_words)
        column.addWidget(self.pass_words)
        for widgets in ((self.put, self.put_all, self.forget), (self.name, self.keep)):
            row = QHBoxLayout()
            for widget in widgets:
                row.addWidget(widget)
            row.addStretch(1)
            column.addLayout(row)
        column.addStretch(1)
        self.resize(520, 640)

    def _on_changed(self, _fields: object) -> None:
        self._refresh()

    def show_picked(self) -> None:
        """Show other shots that were picked."""
        self._show_shot()
        self._say_set()

    def _refresh(self) -> None:
        project = self._document.project
        names = [preset.name for preset in project.sets]
        box = self.film.inputs["first pass"]
        assert not isinstance(box, QLineEdit)
        choices = [box.itemText(k) for k in range(box.count())]
        if choices[1:] != names:
            box.blockSignals(True)
            box.clear()
            box.addItems(["none", *names])
            box.blockSignals(False)
        self.film.show_project(project)
        self._show_shot()
        self._show_sets(names)
        self._ask_costs()

    def _show_shot(self) -> None:
        project = self._document.project
        names = [name for name in self._picked() if any(shot.name == name for shot in project.shots)]
        if not names:
            self.shot_title.setText("Pick a shot to give it a date or a place in the order.")
            return
        title = f"Shot {names[0]}"
        if self.shot is None or self.shot_title.text() != title:
            if self.shot is not None:
                self.shot_place.removeWidget(self.shot)
                self.shot.deleteLater()
            self.shot = Form(shot_fields(names[0]), self._document.edit)
            self.shot_place.addWidget(self.shot)
            self.shot_title.setText(title)
        self.shot.show_project(project)

    def _show_sets(self, names: list[str]) -> None:
        if [self.sets.itemText(k) for k in range(self.sets.count())] != names:
            before = self.sets.currentText()
            self.sets.blockSignals(True)
            self.sets.clear()
            self.sets.addItems(names)
            self.sets.setCurrentIndex(names.index(before) if before in names else len(names) - 1)
            self.sets.blockSignals(False)
        self._say_set()

    def _say_set(self) -> None:
        project, name = self._document.project, self.sets.currentText()
        named_settings = next((preset for preset in project.sets if preset.name == name), None)
        for one in (self.put, self.put_all, self.forget):
            enable(one, "" if named_settings is not None else "No set of settings is kept yet.")
        self.put.setText(f"Put on {counted(max(len(self._picked()), 1), 'picked shot')}")
        if named_settings is None:
            self.pass_words.setText("")
            self.set_words.setText("None yet. Keep the settings of the picked shot under a name, such as preview.")
            return
        cost = next((preset_cost for preset_cost in self._costs if preset_cost.name == name), None)
        hours = (
            "what it costs is not known yet"
            if cost is None
            else f"{format_interval(cost.hours)} machine-hours for all shots"
        )
        self.set_words.setText(f"{settings_words(named_settings.settings)}: {hours}.")
        self._ask_passes(named_settings)

    def _ask_costs(self) -> None:
        answer, project = self._answer(), self._document.project
        if answer is None or not project.sets:
            return

        def work(monitor: Monitor) -> "tuple[PresetCost, ...]":
            from pemlo.core.forecast.preset_costs import preset_costs  # noqa: PLC0415 - heavy to load

            monitor.step(0.0, "Weighing sets of settings")
            return preset_costs(project, answer.fit, answer.draws)

        self._jobs.submit(COSTS, "Weighing sets of settings", work, self._on_costs, brief=True)

    def _ask_passes(self, named_settings: "NamedSettings") -> None:
        """Ask what a first pass with a set and a second one after it take."""
        answer, project = self._answer(), self._document.project
        if answer is None or answer.forecast.hours is None:
            return

        def work(monitor: Monitor) -> str:
            from pemlo.core.forecast.two_passes import passes_words, two_passes  # noqa: PLC0415 - heavy to load

            monitor.step(0.0, "Weighing two passes")
            found = two_passes(project, answer.fit, answer.draws, named_settings)
            done = found.first_done_h
            moment = say_hours(done, project)
            return passes_words(project, found, moment)

        self._jobs.submit(PASSES, "Weighing two passes", work, self.pass_words.setText, brief=True)

    def _on_costs(self, costs: "tuple[PresetCost, ...]") -> None:
        self._costs = costs
        self._say_set()

    def _edit(self, text: str, change: Change) -> None:
        try:
            self._document.edit(text, change)
        except InputError as error:
            self._report(error)

    def _on_keep(self) -> None:
        name, picked = self.name.text().strip(), self._picked()
        if not name or not picked:
            self.set_words.setText("Pick a shot, and write a name for its settings.")
            return
        self._edit(f"Keep settings as {name}", lambda p: keep_set(p, name, p.shot(picked[0]).settings))
        self.name.clear()
        self.sets.setCurrentText(name)

    def _on_put(self) -> None:
        self._put(self._picked())

    def _put(self, names: tuple[str, ...] | None) -> None:
        name = self.sets.currentText()
        shots = names if names is not None else tuple(shot.name for shot in self._document.project.shots)
        self._edit(f"Put {name} on {counted(len(shots), 'shot')}", lambda p: apply_set(p, name, shots))

    def _on_forget(self) -> None:
        name = self.sets.currentText()
        self._edit(f"Forget {name}", lambda p: drop_set(p, name))

    def done(self, result: int) -> None:
        self._jobs.cancel(COSTS)
        self._jobs.cancel(PASSES)
        super().done(result)
