"""Beside the frames: what is wrong, why the finish moves, and how far shots and machines are. GUI thread."""

from collections.abc import Sequence

from PySide6.QtWidgets import QHBoxLayout, QVBoxLayout, QWidget

from pemlo.core.arrivals.live_forecast import LiveForecast
from pemlo.gui.common.fonts import SMALL, font
from pemlo.gui.common.labels import label, rule
from pemlo.gui.common.plain import set_tip
from pemlo.gui.table.model import TableModel
from pemlo.gui.table.tools import FilterField, GroupChoice
from pemlo.gui.table.view import TableView
from pemlo.gui.watch import presenter
from pemlo.gui.watch.alarm_list import AlarmList

WIDTH = 384


class WatchSide(QWidget):
    """The column."""

    def __init__(self) -> None:
        super().__init__()
        self.setFixedWidth(WIDTH)
        self.alarms = AlarmList()
        self.model: TableModel[presenter.LiveRow] = TableModel(
            presenter.LIVE_COLUMNS, lambda *_: None, lambda _: None, noun="shot", key=lambda row: row.shot.shot
        )
        self.numbers = TableView(self.model, "Shots, how far they are")
        self.numbers.setFont(font(SMALL))
        self.filter, self.groups = FilterField(self.numbers), GroupChoice(self.numbers)
        tools = QHBoxLayout()
        tools.addWidget(self.filter)
        tools.addWidget(self.groups)
        tools.addStretch(1)
        self.title = label("What is wrong", "title")
        self.reasons = label("", "second", small=True, wrap=True)
        self.machines = label("", "second", small=True, wrap=True)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 14, 0)
        column.setSpacing(4)
        for widget, stretch in ((self.title, 0), (self.alarms, 3), (rule(), 0), (self.reasons, 0), (rule(), 0)):
            column.addWidget(widget, stretch)
        column.addLayout(tools)
        for widget, stretch in ((self.numbers, 4), (rule(), 0), (self.machines, 0)):
            column.addWidget(widget, stretch)
        column.addStretch(1)

    def show_live_forecast(self, live: LiveForecast, picked: Sequence[str]) -> None:
        """Show what is said of the film."""
        self.title.setText("What is wrong" if live.alarms else "Nothing is wrong")
        self.alarms.setVisible(bool(live.alarms))
        self.alarms.show_alarms(live.alarms)
        self.reasons.setText(presenter.reason_words(live))
        set_tip(
            self.machines,
            "\n\n".join(presenter.machine_tip(machine) for machine in presenter.telling_machines(live.machines)),
        )
        self.machines.setText("\n".join(presenter.machine_lines(live.machines)))
        self.model.show_rows(presenter.live_rows(live))
        self.numbers.pick(lambda row: row.shot.shot in picked)
