"""How far each shot and each machine is, in figures. GUI thread."""

from collections.abc import Sequence

from PySide6.QtCore import Qt, Signal
from PySide6.QtWidgets import QAbstractItemView, QHeaderView, QTableWidget, QTableWidgetItem

from pemlo.gui.common.fonts import SMALL, bold, font
from pemlo.gui.common.plain import set_tip

COLUMNS = (
    ("shot", "The shots of the film"),
    ("in", "Frames that are in, of those that are rendered"),
    ("a frame", "What its frames took on their machines, mean"),
    ("left, h", "Machine-hours of reference that are left, and the interval that holds 9 in 10"),
    ("done", "When its last frame is done, the middle of the range"),
)
ROW_PX = 20


class ShotTable(QTableWidget):
    """The table of shots.

    Signals
    -------
    shot_wanted(str)
    """

    shot_wanted = Signal(str)

    def __init__(self) -> None:
        super().__init__(0, len(COLUMNS))
        self.setAccessibleName("Shots, how far they are")
        self.setEditTriggers(QAbstractItemView.EditTrigger.NoEditTriggers)
        self.setSelectionMode(QAbstractItemView.SelectionMode.NoSelection)
        self.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        self.setShowGrid(False)
        self.verticalHeader().hide()
        self.verticalHeader().setDefaultSectionSize(ROW_PX)
        self.setFont(font(SMALL))
        head = self.horizontalHeader()
        for number, (title, tip) in enumerate(COLUMNS):
            item = QTableWidgetItem(title)
            set_tip(item, tip)
            side = Qt.AlignmentFlag.AlignLeft if number == 0 else Qt.AlignmentFlag.AlignRight
            item.setTextAlignment(side | Qt.AlignmentFlag.AlignVCenter)
            self.setHorizontalHeaderItem(number, item)
            head.setSectionResizeMode(number, QHeaderView.ResizeMode.ResizeToContents)
        head.setSectionResizeMode(3, QHeaderView.ResizeMode.Stretch)
        head.setHighlightSections(False)
        self.cellClicked.connect(self._on_clicked)

    def show_rows(self, rows: Sequence[tuple[tuple[str, ...], str]], picked: Sequence[str]) -> None:
        """Show other figures: the cells of each row, and its tip."""
        self.setRowCount(len(rows))
        self.setMaximumHeight(self.horizontalHeader().sizeHint().height() + ROW_PX * len(rows) + 4)
        for number, (cells, tip) in enumerate(rows):
            for column, text in enumerate(cells):
                item = self.item(number, column)
                if item is None:
                    item = QTableWidgetItem()
                    side = Qt.AlignmentFlag.AlignLeft if column == 0 else Qt.AlignmentFlag.AlignRight
                    item.setTextAlignment(side | Qt.AlignmentFlag.AlignVCenter)
                    self.setItem(number, column, item)
                if item.text() != text:
                    item.setText(text)
                set_tip(item, tip)
                item.setFont(bold(SMALL) if cells[0] in picked else font(SMALL))

    def _on_clicked(self, row: int, _column: int) -> None:
        item = self.item(row, 0)
        if item is not None:
            self.shot_wanted.emit(item.text())
