"""Plans kept under a name, side by side: keep the one that stands, take another, drop one. GUI thread."""

from collections.abc import Callable, Sequence
from typing import TYPE_CHECKING

from PySide6.QtCore import Qt
from PySide6.QtWidgets import (
    QAbstractItemView,
    QDialog,
    QHBoxLayout,
    QHeaderView,
    QLineEdit,
    QTableWidget,
    QTableWidgetItem,
    QVBoxLayout,
    QWidget,
)

from pemlo.gui.common.enabling import enable
from pemlo.gui.common.labels import button, label
from pemlo.gui.trade.presenter import plan_cells

if TYPE_CHECKING:
    from pemlo.core.trade.plan_comparison import PlanRow

COLUMNS = ("plan", "machine-hours", "chance", "worst shot, error over its limit", "money", "disk")


class PlansDialog(QDialog):
    """The table.

    Parameters
    ----------
    ask : callable
        Takes a callable that is handed the rows, when they are known.
    keep, take, drop : callable
        Take the name of a plan; may report trouble themselves.
    """

    def __init__(
        self,
        parent: QWidget,
        ask: "Callable[[Callable[[tuple[PlanRow, ...]], None]], None]",
        keep: Callable[[str], None],
        take: Callable[[str], None],
        drop: Callable[[str], None],
    ) -> None:
        super().__init__(parent)
        self.setWindowTitle("Plans side by side")
        self._ask, self._do = ask, {"keep": keep, "take": take, "drop": drop}
        self._rows: tuple[PlanRow, ...] = ()
        self.table = QTableWidget(0, len(COLUMNS))
        self.table.setHorizontalHeaderLabels(list(COLUMNS))
        self.table.setAccessibleName("Plans")
        self.table.verticalHeader().hide()
        self.table.setShowGrid(False)
        self.table.setSelectionBehavior(QAbstractItemView.SelectionBehavior.SelectRows)
        self.table.setSelectionMode(QAbstractItemView.SelectionMode.SingleSelection)
        self.table.setEditTriggers(QAbstractItemView.EditTrigger.NoEditTriggers)
        self.table.horizontalHeader().setSectionResizeMode(QHeaderView.ResizeMode.ResizeToContents)
        self.table.horizontalHeader().setStretchLastSection(True)
        self.table.itemSelectionChanged.connect(self._refresh)
        self.name = QLineEdit()
        self.name.setPlaceholderText("a name")
        self.name.setAccessibleName("Name to keep the plan under")
        self.name.setMaxLength(60)
        self.name.textChanged.connect(lambda _: self._refresh())
        self.keep = button("Keep the plan as it is now", "Under this name; one of that name gives way", self._on_keep)
        self.take = button(
            "Take this plan", "Becomes the plan of every shot; one step to undo", self._on_take, main=True
        )
        self.drop = button("Drop it", "It is kept no longer", self._on_drop)
        self._lay_out()
        self.ask()

    def _lay_out(self) -> None:
        above, below = QHBoxLayout(), QHBoxLayout()
        above.addWidget(self.name, 1)
        above.addWidget(self.keep)
        below.addWidget(self.take)
        below.addWidget(self.drop)
        below.addStretch(1)
        below.addWidget(button("Close", "Back to the stage", self.accept))
        column = QVBoxLayout(self)
        column.setContentsMargins(20, 16, 20, 16)
        column.addLayout(above)
        column.addWidget(self.table, 1)
        column.addWidget(label("Hours with their 90 % interval, retakes counted.", "second", small=True))
        column.addLayout(below)
        self.resize(820, 340)

    def ask(self) -> None:
        """Ask for the rows anew."""
        self._refresh()
        self._ask(self.show_rows)

    def show_rows(self, rows: "Sequence[PlanRow]") -> None:
        """Show plans; numbers stand at the right of their columns."""
        self._rows = tuple(rows)
        self.table.setRowCount(len(self._rows))
        for place, row in enumerate(self._rows):
            for column, words in enumerate(plan_cells(row)):
                item = QTableWidgetItem(words)
                side = Qt.AlignmentFlag.AlignLeft if column == 0 else Qt.AlignmentFlag.AlignRight
                item.setTextAlignment(side | Qt.AlignmentFlag.AlignVCenter)
                self.table.setItem(place, column, item)
        self._refresh()

    def _picked(self) -> "PlanRow | None":
        rows = self.table.selectionModel().selectedRows()
        return self._rows[rows[0].row()] if rows and rows[0].row() < len(self._rows) else None

    def _refresh(self) -> None:
        picked = self._picked()
        kept = picked is not None and picked.kept
        for push_button in (self.take, self.drop):
            enable(push_button, "" if kept else "Pick a plan that you kept.")
        enable(self.keep, "" if self.name.text().strip() else "Type a name first.")

    def _on_keep(self) -> None:
        self._do["keep"](self.name.text().strip())
        self.name.clear()
        self.ask()

    def _on_take(self) -> None:
        self._on_picked("take")

    def _on_drop(self) -> None:
        self._on_picked("drop")

    def _on_picked(self, what: str) -> None:
        picked = self._picked()
        if picked is not None and picked.kept:
            self._do[what](picked.name)
            self.ask()
