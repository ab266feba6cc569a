"""What each shot keeps between frames, or could, with a way to change it. GUI thread."""

from collections.abc import Callable, Sequence
from typing import TYPE_CHECKING

from PySide6.QtWidgets import QVBoxLayout, QWidget

from pemlo.core.errors import PemloError
from pemlo.gui.common.labels import Heading, button
from pemlo.gui.common.table_model import Edit, TableModel
from pemlo.gui.common.table_view import TableView
from pemlo.gui.runsheet import presenter
from pemlo.gui.runsheet.run_edits import RunEdits

if TYPE_CHECKING:
    from pemlo.core.forecast.kept_data import ShotKeeping


class KeptBox(QWidget):
    """The table, and what can be done with its picked row."""

    def __init__(self, edits: RunEdits, edit: Edit, report: Callable[[PemloError], None]) -> None:
        super().__init__()
        self._edits = edits
        self.model = TableModel(presenter.KEPT_COLUMNS, edit, report)
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
        rows = self.table.selected_rows()
        return self.model.rows[rows[0]] if rows and rows[0] < len(self.model.rows) else None

    def _show_buttons(self) -> None:
        one = self._picked()
        self.keep_it.setEnabled(one is not None and one.state == "could be kept")
        self.keep_none.setEnabled(one is not None and one.state in ("kept", "wrong"))

    def _on_keep(self) -> None:
        if (one := self._picked()) is not None:
            self._edits.keep(one.shot, one.keep)

    def _on_keep_none(self) -> None:
        if (one := self._picked()) is not None:
            self._edits.keep_nothing(one.shot)
