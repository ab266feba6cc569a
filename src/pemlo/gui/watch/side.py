"""Beside the frames: what is wrong, why the finish moves, and how far shots and machines are. GUI thread."""

from collections.abc import Sequence

from PySide6.QtWidgets import QVBoxLayout, QWidget

from pemlo.core.arrivals.live_forecast import LiveForecast
from pemlo.gui.common.labels import label, rule
from pemlo.gui.common.plain import set_tip
from pemlo.gui.watch import presenter
from pemlo.gui.watch.alarm_list import AlarmList
from pemlo.gui.watch.numbers import ShotTable

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

    def show_live_forecast(self, found: LiveForecast, picked: Sequence[str]) -> None:
        """Show what is said of the film."""
        self.title.setText("What is wrong" if found.alarms else "Nothing is wrong")
        self.alarms.setVisible(bool(found.alarms))
        self.alarms.show_alarms(found.alarms)
        self.reasons.setText(presenter.reason_words(found))
        set_tip(self.machines, "\n\n".join(presenter.machine_tip(machine) for machine in found.machines))
        self.machines.setText("\n".join(presenter.machine_words(machine) for machine in found.machines))
        rows = [(presenter.shot_cells(shot, found), presenter.shot_words(shot)) for shot in found.shots]
        self.numbers.show_rows(rows, picked)
