"""Beside the frames: what is wrong, why the finish moves, and how far shots and machines are. GUI thread."""

from collections.abc import Sequence

from PySide6.QtCore import Qt, Signal
from PySide6.QtWidgets import QAbstractItemView, QHeaderView, QTableWidget, QTableWidgetItem, QVBoxLayout, QWidget

from pemlo.core.arrivals.live_forecast import LiveForecast
from pemlo.gui.common.fonts import SMALL, bold, font
from pemlo.gui.common.labels import label, rule
from pemlo.gui.common.plain import set_tip
from pemlo.gui.watch import presenter
from pemlo.gui.watch.alarm_list import AlarmList

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


WIDTH = 344


class WatchSide(QWidget):
    """The column."""

    def __init__(self) -> None:
        super().__init__()
        self.setFixedWidth(WIDTH)
        self.alarms, self.numbers = AlarmList(), ShotTable()
        self.title = label("What is wrong", "title")
        self.reasons = label("", "second", small=True, wrap=True)
        self.machines = label("", "second", small=True, wrap=True)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 14, 0)
        column.setSpacing(4)
        for widget, stretch in ((self.title, 0), (self.alarms, 3), (rule(), 0), (self.reasons, 0), (rule(), 0),
                                (self.numbers, 4), (rule(), 0), (self.machines, 0)):  # fmt: skip
            column.addWidget(widget, stretch)
        column.addStretch(1)

    def show_live_forecast(self, live: LiveForecast, picked: Sequence[str]) -> None:
        """Show what is said of the film."""
        self.title.setText("What is wrong" if live.alarms else "Nothing is wrong")
        self.alarms.setVisible(bool(live.alarms))
        self.alarms.show_alarms(live.alarms)
        self.reasons.setText(presenter.reason_words(live))
        set_tip(self.machines, "\n\n".join(presenter.machine_tip(machine) for machine in live.machines))
        self.machines.setText("\n".join(presenter.machine_words(machine) for machine in live.machines))
        rows = [(presenter.shot_cells(shot, live), presenter.shot_words(shot)) for shot in live.shots]
        self.numbers.show_rows(rows, picked)
