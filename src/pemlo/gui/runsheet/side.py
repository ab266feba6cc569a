"""Beside the sheet: what it would take, what holds up the end, where the hours go. GUI thread."""

from collections.abc import Callable, Sequence
from typing import TYPE_CHECKING

from PySide6.QtCore import QPointF, QRectF, QSize, Qt
from PySide6.QtGui import QFontMetricsF, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QFrame, QScrollArea, QVBoxLayout, QWidget

from pemlo.app.run_facts import Facts
from pemlo.core.errors import PemloError
from pemlo.core.project.project import Project
from pemlo.core.units import HOUR_S, format_span, round_figures
from pemlo.gui.common.colours import colours
from pemlo.gui.common.enabling import enable
from pemlo.gui.common.fonts import SMALL, bold, font
from pemlo.gui.common.labels import Heading, button, label, rule
from pemlo.gui.runsheet import presenter
from pemlo.gui.runsheet.run_edits import RunEdits
from pemlo.gui.runsheet.takes_card import TakesCard
from pemlo.gui.table.model import Edit, TableModel
from pemlo.gui.table.view import TableView
from pemlo.words.takes import moves_words

if TYPE_CHECKING:
    from pemlo.core.forecast.best_order import TriedOrder
    from pemlo.core.forecast.finish import Finish
    from pemlo.core.forecast.kept_data import ShotKeeping


class SharesBar(QWidget):
    """Where the hours of the machines go, as one bar with its parts named below."""

    def __init__(self) -> None:
        super().__init__()
        self._shares: tuple[tuple[str, float], ...] = ()
        self.setFixedHeight(56)
        self.setAccessibleName("Where the clock hours go")

    def sizeHint(self) -> QSize:
        return QSize(250, 56)

    def show_shares(self, shares: Sequence[tuple[str, float]]) -> None:
        """Show the parts, in hours."""
        self._shares = tuple(shares)
        self.setAccessibleDescription("; ".join(f"{name} {_said(hours)}" for name, hours in shares))
        self.update()

    def paintEvent(self, _event: QPaintEvent) -> None:
        whole = sum(hours for _, hours in self._shares)
        if whole <= 0:
            return
        palette = colours()
        looks = (
            (palette.time, Qt.BrushStyle.SolidPattern),
            (palette.time, Qt.BrushStyle.Dense5Pattern),
            (palette.limit, Qt.BrushStyle.DiagCrossPattern),
            (palette.raised, Qt.BrushStyle.SolidPattern),
        )
        with QPainter(self) as painter:
            x, width = 0.5, self.width() - 1.0
            painter.setFont(font(SMALL))
            metrics = QFontMetricsF(painter.font())
            at, line = 0.0, 33.0
            for (name, hours), (colour, style) in zip(self._shares, looks, strict=True):
                box = QRectF(x, 2, width * hours / whole, 15)
                painter.fillRect(box, palette.raised)
                brush = painter.brush()
                brush.setColor(colour)
                brush.setStyle(style)
                painter.fillRect(box, brush)
                painter.setPen(QPen(palette.line, 1))
                painter.setBrush(Qt.BrushStyle.NoBrush)
                painter.drawRect(box)
                x += box.width()
                words = f"{name} {_said(hours)}"
                wide = metrics.horizontalAdvance(words) + 20
                if at + wide > width:
                    at, line = 0.0, line + 17
                swatch = QRectF(at + 0.5, line - 9, 9, 9)
                painter.fillRect(swatch, palette.raised)
                painter.fillRect(swatch, brush)
                painter.setPen(QPen(palette.second, 1))
                painter.drawRect(swatch)
                painter.setFont(bold(SMALL) if name == "frames" else font(SMALL))
                painter.setPen(palette.ink)
                painter.drawText(QPointF(at + 13, line), words)
                at += wide + 6


def _said(hours: float) -> str:
    return format_span(hours * HOUR_S) if 0 < hours < 1 else f"{round_figures(hours, 2)} h"


class KeptBox(QWidget):
    """The table, and what can be done with its picked row."""

    def __init__(self, edits: RunEdits, edit: Edit, report: Callable[[PemloError], None]) -> None:
        super().__init__()
        self._edits = edits
        self.model = TableModel(presenter.KEPT_COLUMNS, edit, report, noun="shot", key=lambda row: row.shot)
        self.table = TableView(self.model, "Cached between frames")
        self.keep_it = button("Keep", "Plan the picked shot with what it could keep", self._on_keep, link=True)
        self.keep_none = button("Cache nothing", "Cache nothing of the picked shot", self._on_keep_none, link=True)
        self.heading = Heading("Cached between frames", self.keep_it, self.keep_none)
        self.table.picked.connect(lambda _: self._show_buttons())
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 6, 0, 0)
        column.setSpacing(4)
        column.addWidget(self.heading)
        column.addWidget(self.table, 1)
        self._show_buttons()

    def show_kept(self, rows: "Sequence[ShotKeeping]") -> None:
        """Show what was found of the shots; none while nothing was."""
        self.model.show_rows(rows)
        wrong = sum(row.state == "wrong" for row in rows)
        self.heading.say(
            f"{wrong} kept wrongly: the pictures would be wrong" if wrong else "what each machine fills once"
        )
        self._show_buttons()

    def _picked(self) -> "ShotKeeping | None":
        rows = self.table.selected()
        return rows[0] if rows else None

    def _show_buttons(self) -> None:
        keeping = self._picked()
        state = "" if keeping is None else keeping.state
        none = "Pick a shot below."
        enable(self.keep_it, "" if state == "could be kept" else "Nothing more of it can be cached." if state else none)
        enable(self.keep_none, "" if state in ("kept", "wrong") else "Nothing of it is cached." if state else none)

    def _on_keep(self) -> None:
        if (keeping := self._picked()) is not None:
            self._edits.keep(keeping.shot, keeping.keep)

    def _on_keep_none(self) -> None:
        if (keeping := self._picked()) is not None:
            self._edits.keep_nothing(keeping.shot)


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

    def show_run(self, project: Project, finish: "Finish") -> None:
        """Show what a run of all frames says."""
        self.takes.show_ways(presenter.ways(project))
        self.holds.setText(finish.bottleneck)
        self.holds.setProperty("role", "limit" if finish.never else "")
        self.holds.style().polish(self.holds)
        self.idle.setText(presenter.idle_words(finish))
        self.idle.setVisible(bool(self.idle.text()))
        while (item := self.dates.takeAt(0)) is not None:
            if (old := item.widget()) is not None:
                old.deleteLater()
        for words, role in presenter.date_lines(project, finish):
            self.dates.addWidget(label(words, "" if role == "ink" else role, wrap=True))
        self.shares.show_shares([(time_share.name, time_share.hours) for time_share in presenter.time_shares(finish)])
        self.money.setText(presenter.money_words(finish, project.delivery.currency))
        self.money.setVisible(bool(self.money.text()))

    def show_facts(self, project: Project, facts: Facts, finish: "Finish | None", *, current: bool) -> None:
        """Show what was found of a run so far; `current` if it is of the film as it stands."""
        wanted = project.delivery.confidence
        currency = project.delivery.currency
        self.takes.show_way(
            facts.way, wanted, lambda hours: presenter.moment_words(project, hours), currency, current=current
        )
        self.moves.setText(
            "" if facts.moves is None or finish is None else moves_words(facts.moves, finish.film.middle)
        )
        self.moves.setVisible(bool(self.moves.text()))
        words, self._best = ("", None) if facts.orders is None else presenter.order_words(facts.orders)
        self.order_words.setText(words)
        self.order_words.setVisible(bool(words))
        self.take_order.setVisible(self._best is not None and current)

    def _on_take_order(self) -> None:
        if self._best is not None:
            self._edits.set_order(self._best.order, self._best.queue)
