"""Beside the sheet: what it would take, what holds up the end, where the hours go. GUI thread."""

from typing import TYPE_CHECKING

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QFrame, QScrollArea, QVBoxLayout

from pemlo.app.run_facts import Facts
from pemlo.core.forecast.takes_words import moves_words
from pemlo.core.project.project import Project
from pemlo.gui.common.labels import Heading, button, label, rule
from pemlo.gui.runsheet import presenter
from pemlo.gui.runsheet.run_edits import RunEdits
from pemlo.gui.runsheet.shares_bar import SharesBar
from pemlo.gui.runsheet.takes_card import TakesCard

if TYPE_CHECKING:
    from pemlo.core.forecast.best_order import TriedOrder
    from pemlo.core.forecast.finish import Finish

SIDE_PX = 288


class Side(QScrollArea):
    """The column."""

    def __init__(self, edits: RunEdits) -> None:
        super().__init__()
        self._edits = edits
        self._best: TriedOrder | None = None
        self.takes = TakesCard(edits)
        self.holds, self.moves, self.idle = label("", wrap=True), label("", wrap=True), label("", "second", wrap=True)
        self.dates = QVBoxLayout()
        self.dates.setSpacing(2)
        self.order_words = label("", "second", wrap=True)
        self.take_order = button("Hand them out so", "Take this order of the shots", self._on_take_order)
        self.shares, self.money = SharesBar(), label("", "second", wrap=True)
        inside = QFrame()
        inside.setObjectName("side")
        column = QVBoxLayout(inside)
        column.setContentsMargins(0, 0, 12, 0)
        column.setSpacing(6)
        column.addWidget(self.takes)
        column.addWidget(rule())
        for widget in (Heading("What holds up the end"), self.holds, self.moves, self.idle):
            column.addWidget(widget)
        column.addLayout(self.dates)
        column.addWidget(self.order_words)
        column.addWidget(self.take_order, 0, Qt.AlignmentFlag.AlignLeft)
        column.addWidget(rule())
        for other in (Heading("Where the clock hours go"), self.shares, self.money):
            column.addWidget(other)
        column.addStretch(1)
        self.setWidget(inside)
        self.setWidgetResizable(True)
        self.setFixedWidth(SIDE_PX)
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)

    def show_run(self, project: Project, found: "Finish") -> None:
        """Show what a run of all frames says."""
        self.takes.show_ways(presenter.ways(project))
        self.holds.setText(found.bottleneck)
        self.holds.setProperty("role", "limit" if found.never else "")
        self.holds.style().polish(self.holds)
        self.idle.setText(presenter.idle_words(found))
        self.idle.setVisible(bool(self.idle.text()))
        while (item := self.dates.takeAt(0)) is not None:
            if (old := item.widget()) is not None:
                old.deleteLater()
        for words, role in presenter.date_lines(project, found):
            self.dates.addWidget(label(words, "" if role == "ink" else role, wrap=True))
        self.shares.show_shares([(one.name, one.hours) for one in presenter.time_shares(found)])
        self.money.setText(presenter.money_words(found, project.delivery.currency))
        self.money.setVisible(bool(self.money.text()))

    def show_facts(self, project: Project, facts: Facts, found: "Finish | None", *, current: bool) -> None:
        """Show what was found of a run so far; `current` if it is of the film as it stands."""
        wanted = project.delivery.confidence
        currency = project.delivery.currency
        self.takes.show_way(
            facts.way, wanted, lambda hours: presenter.moment_words(project, hours), currency, current=current
        )
        self.moves.setText("" if facts.moves is None or found is None else moves_words(facts.moves, found.film.p50))
        self.moves.setVisible(bool(self.moves.text()))
        words, self._best = ("", None) if facts.orders is None else presenter.order_words(facts.orders)
        self.order_words.setText(words)
        self.order_words.setVisible(bool(words))
        self.take_order.setVisible(self._best is not None and current)

    def _on_take_order(self) -> None:
        if self._best is not None:
            self._edits.set_order(self._best.order, self._best.queue)
