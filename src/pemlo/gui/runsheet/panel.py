"""The stage Run sheet: who renders when, what is kept, and what would be done sooner. GUI thread."""

from collections.abc import Callable

from PySide6.QtCore import QPoint, Qt, Signal
from PySide6.QtGui import QShowEvent
from PySide6.QtWidgets import QHBoxLayout, QMenu, QSplitter, QVBoxLayout, QWidget

from pemlo.app.document import Document
from pemlo.app.film_known import FilmForecast
from pemlo.app.film_work import RUN
from pemlo.app.jobs import Jobs
from pemlo.app.run_facts import RunFacts
from pemlo.app.selection import Selection
from pemlo.core.errors import PemloError
from pemlo.core.project.machine_hours import part_of_day
from pemlo.core.project.project import Project
from pemlo.core.project.running import ORDERS
from pemlo.gui.common.choice import Choice
from pemlo.gui.common.empty_state import lay_out_empty
from pemlo.gui.common.enabling import enable
from pemlo.gui.common.labels import Heading, button, label, rule
from pemlo.gui.runsheet import presenter
from pemlo.gui.runsheet.machine_bar import MachineBar
from pemlo.gui.runsheet.order_row import OrderRow
from pemlo.gui.runsheet.run_edits import RunEdits
from pemlo.gui.runsheet.sheet import Sheet
from pemlo.gui.runsheet.side import KeptBox, Side

ORDER_WORDS = {
    "film": "as in the film",
    "due": "earliest due first",
    "longest": "longest first",
    "shortest": "shortest first",
    "by hand": "by hand",
}
EMPTY = "Who renders when is known as soon as one frame was timed and there is a machine."


class RunSheetPanel(QWidget):
    """The panel.

    Signals
    -------
    trials_wanted()
        Something must be timed first.
    shot_wanted(str)
    picks_changed()
        Other shots are picked.
    """

    trials_wanted = Signal()
    shot_wanted = Signal(str)
    picks_changed = Signal()

    def __init__(
        self, document: Document, jobs: Jobs, selection: Selection, report: Callable[[PemloError], None]
    ) -> None:
        super().__init__()
        self._document, self._jobs, self._selection, self._report = document, jobs, selection, report
        self._answer: FilmForecast | None = None
        self.edits = RunEdits(document, report)
        self.facts = RunFacts(jobs)
        self.facts.changed.connect(self._show_facts)
        self.sheet, self.order, self.bar = Sheet(), OrderRow(), MachineBar(self.edits)
        self.side = Side(self.edits)
        self._lay_out(report)
        self._connect()
        document.replaced.connect(self._on_replaced)
        jobs.stopped.connect(self._on_not_run)

    def _lay_out(self, report: Callable[[PemloError], None]) -> None:
        self.whole = button("Whole", "Show all of the time (0)", self.sheet.show_whole, link=True)
        self.closer = button("Closer", "Come closer (+, or Ctrl and the wheel)", lambda: self.sheet.zoom(2), link=True)
        self.farther = button("Farther", "Go farther away (-)", lambda: self.sheet.zoom(0.5), link=True)
        self.rules = button(
            "Rules…", "How frames are assigned, dates of shots, sets of settings", self.show_rules, link=True
        )
        self.heading = Heading("Who renders when", self.rules, self.closer, self.farther, self.whole)
        self.rule_choice = Choice("Order", "In which order shots are assigned", list(ORDER_WORDS.values()))
        self.first = button("Picked first", "Hand out the picked shots before all others", self._put_first, link=True)
        order = QHBoxLayout()
        order.setSpacing(8)
        order.addWidget(label("Order", "second", small=True))
        order.addWidget(self.rule_choice)
        order.addWidget(self.order, 1)
        order.addWidget(self.first)
        self.kept = KeptBox(self.edits, self._document.edit, report)
        upper = QWidget()
        above = QVBoxLayout(upper)
        above.setContentsMargins(0, 0, 0, 4)
        above.setSpacing(5)
        above.addWidget(self.heading)
        above.addLayout(order)
        above.addWidget(self.sheet, 1)
        above.addWidget(self.bar)
        self.split = QSplitter(Qt.Orientation.Vertical)
        self.split.setChildrenCollapsible(False)
        self.split.addWidget(upper)
        self.split.addWidget(self.kept)
        self.split.setStretchFactor(0, 3)
        self.split.setStretchFactor(1, 2)
        self.stage = QWidget()
        row = QHBoxLayout(self.stage)
        row.setContentsMargins(18, 10, 0, 8)
        row.setSpacing(12)
        row.addWidget(self.split, 1)
        row.addWidget(rule(upright=True))
        row.addWidget(self.side)
        self.nothing, self.empty = QWidget(), label(EMPTY, wrap=True)
        begin = button("Time a frame", "Open Trials", self.trials_wanted.emit, main=True)
        lay_out_empty(self.nothing, self.empty, begin, "machines")
        whole = QVBoxLayout(self)
        whole.setContentsMargins(0, 0, 0, 0)
        whole.addWidget(self.stage)
        whole.addWidget(self.nothing)

    def _connect(self) -> None:
        edits = self.edits
        self.sheet.machine_picked.connect(self._pick_machine)
        self.sheet.shot_picked.connect(self.shot_wanted)
        self.sheet.end_dragged.connect(lambda name, at, side, to, done: edits.drag_end(name, at, side, to, done=done))
        self.sheet.part_opened.connect(edits.open_part)
        self.sheet.fold_wanted.connect(self.sheet.fold)
        self.sheet.menu_wanted.connect(self._show_menu)
        self.order.reordered.connect(lambda names, done: edits.reorder(names, done=done))
        self.order.shot_picked.connect(self.shot_wanted)
        self.rule_choice.activated.connect(self._on_rule)
        self.side.takes.wanted.connect(self.facts.ask_way)

    # What every stage can do

    def show_project(self, project: Project, answer: FilmForecast | None) -> None:
        """Show a project, and the forecast that goes with it if there is one."""
        if answer is not None:
            self._answer = answer
        self._refresh(project)

    def pick(self, names: tuple[str, ...]) -> None:
        """Make other shots stand out."""
        self.sheet.pick(names)
        self.order.pick(names)
        enable(self.first, "" if names else "Pick a shot first.")
        self.picks_changed.emit()

    def showEvent(self, event: QShowEvent) -> None:
        super().showEvent(event)
        self._refresh(self._document.project)

    def _on_replaced(self) -> None:
        self._answer = None
        self.facts.forget()
        self.edits.forget()
        self.sheet.show_run(None, stale=False)
        self.kept.show_kept(())

    def _on_not_run(self, key: str) -> None:
        if key == RUN:
            self._refresh(self._document.project)

    @property
    def _is_run(self) -> bool:
        """Whether the run that is known is of the film as it stands."""
        answer = self._answer
        return answer is not None and answer.finish is not None and answer.project is self._document.project

    def _refresh(self, project: Project) -> None:
        if not self.isVisible():
            return
        answer = self._answer
        forecast = None if answer is None else answer.forecast
        known = forecast is not None and forecast.probability is not None and bool(project.machines)
        self.stage.setVisible(known)
        self.nothing.setVisible(not known)
        if not known or answer is None or forecast is None:
            return
        finish = answer.finish
        if finish is not None:
            self.sheet.show_run(finish, stale=not self._is_run)
        else:
            self.sheet.show_run(self.sheet.found, stale=True)
        self.sheet.show_project(project, forecast)
        self._show_heading()
        if self.sheet.picked_machine not in {machine.name for machine in project.machines}:
            self._pick_machine(project.machines[0].name)
        self.bar.show_machine(project, self.sheet.picked_machine)
        self.rule_choice.setCurrentIndex(ORDERS.index(project.running.order))
        self.order.show_order(self._queue(project), [shot.name for shot in project.shots])
        if self._is_run and finish is not None:
            self.facts.ask(answer)
            self.side.show_run(project, finish)
        self._show_facts()

    def _show_heading(self) -> None:
        finish = self.sheet.found
        if self._answer is not None and self._answer.not_run:
            self.heading.say(self._answer.not_run)
            return
        if finish is None:
            stopped = RUN in self._jobs.not_done
            self.heading.say("the run was stopped: ask for it again below" if stopped else "every frame is being run …")
            return
        stale = not self._is_run
        self.heading.say("an older run; the new one is on its way …" if stale else presenter.run_words(finish))

    def _queue(self, project: Project) -> tuple[str, ...]:
        """Return the shots in the order in which they are handed out."""
        return presenter.order_of_shots(project, None if self._answer is None else self._answer.forecast)

    def _show_facts(self) -> None:
        current = self._is_run and self.facts.of is self._answer
        self.side.show_facts(self._document.project, self.facts.facts, self.sheet.found, current=current)
        if self.facts.facts.kept is not None:
            self.kept.show_kept(self.facts.facts.kept)

    # Hands

    def _pick_machine(self, name: str) -> None:
        self.sheet.pick_machine(name)
        self.bar.show_machine(self._document.project, name)

    def _on_rule(self, number: int) -> None:
        order = ORDERS[number]
        queue = self._queue(self._document.project) if order == "by hand" else ()
        self.edits.set_order(order, queue)

    def _put_first(self) -> None:
        self.edits.first(self._selection.shots, self._queue(self._document.project))

    def show_rules(self) -> None:
        """Show how frames are handed out, what the picked shot has of its own, and sets of settings."""
        from pemlo.gui.runsheet.rules_dialog import RulesDialog  # noqa: PLC0415 - only when asked for

        self.dialog = RulesDialog(
            self, self._document, self._jobs, lambda: self._answer, lambda: self._selection.shots, self._report
        )
        self.picks_changed.connect(self.dialog.show_picked)
        self.dialog.show()

    def menu_for(self, name: str, at_h: float) -> QMenu:
        """Return the menu of a machine at an hour."""
        project, edits = self._document.project, self.edits
        machine = next(one for one in project.machines if one.name == name)
        row = next(row for row in self.sheet.rows if row.machine == name)
        moment = presenter.moment_of(project, at_h)
        menu = QMenu(self)
        part = "day" if moment is None else part_of_day(moment)[2]
        if any(begin <= at_h < end for begin, end in row.spans):
            menu.addAction(f"Close {name} here", lambda: edits.close_stretch(name, at_h))
        else:
            menu.addAction(f"Open this {part}", lambda: edits.open_part(name, at_h))
        if machine.exceptions:
            menu.addAction("Usual hours", lambda: edits.usual_hours(name))
        more = menu.addMenu("Frames in parallel")
        for count in (1, 2, 4, 8):
            more.addAction(str(count)).triggered.connect(lambda _=False, count=count: edits.set_at_once(name, count))
        menu.addAction("Switch off" if machine.count else "Switch on", lambda: edits.switch(name))
        return menu

    def _show_menu(self, name: str, at_h: float, where: QPoint) -> None:
        menu = self.menu_for(name, at_h)
        menu.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        menu.popup(where)
