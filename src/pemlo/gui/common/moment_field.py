"""A field for a date and time: typed as people say it, or picked in a calendar. GUI thread."""

from collections.abc import Callable
from datetime import datetime

from PySide6.QtCore import QDate, QPoint, Qt, QTime
from PySide6.QtGui import QKeyEvent, QTextCharFormat
from PySide6.QtWidgets import (
    QCalendarWidget,
    QFrame,
    QHBoxLayout,
    QLineEdit,
    QTimeEdit,
    QToolButton,
    QVBoxLayout,
    QWidget,
)

from pemlo.core.project.due import say_date
from pemlo.gui.common.colours import colours
from pemlo.gui.common.labels import button, label
from pemlo.gui.common.plain import set_tip

DAYS_PX = 370  # in which each name of a day stands whole


class Calendar(QFrame):
    """A month to pick a day from, and a time of day."""

    def __init__(self, parent: QWidget, moment: datetime, take: Callable[[datetime], None]) -> None:
        super().__init__(parent, Qt.WindowType.Popup)
        self.setObjectName("calendar")
        self.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        self._take = take
        self.days = QCalendarWidget()
        self.days.setVerticalHeaderFormat(QCalendarWidget.VerticalHeaderFormat.ISOWeekNumbers)
        self.days.setFirstDayOfWeek(Qt.DayOfWeek(first_day()))
        self.days.setSelectedDate(QDate(moment.year, moment.month, moment.day))
        self.days.setAccessibleName("Day")
        self.days.setMinimumWidth(DAYS_PX)
        weekend = QTextCharFormat()
        weekend.setForeground(colours().second)
        for day in (Qt.DayOfWeek.Saturday, Qt.DayOfWeek.Sunday):
            self.days.setWeekdayTextFormat(day, weekend)
        for arrow in self.days.findChildren(QToolButton):
            set_tip(arrow, {"qt_calendar_prevmonth": "The month before", "qt_calendar_nextmonth": "The next month"}.get(
                arrow.objectName(), "Pick a month or a year"))  # fmt: skip
        self.time = QTimeEdit(QTime(moment.hour, moment.minute))
        self.time.setDisplayFormat("HH:mm")
        self.time.setButtonSymbols(QTimeEdit.ButtonSymbols.NoButtons)
        self.time.setAccessibleName("Time of day")
        self.days.activated.connect(lambda _: self._on_taken())
        column = QVBoxLayout(self)
        column.setContentsMargins(8, 8, 8, 8)
        column.addWidget(self.days)
        row = QHBoxLayout()
        row.addWidget(label("at", "second"))
        row.addWidget(self.time)
        row.addStretch(1)
        row.addWidget(button("Take", "Take this day and time (Enter)", self._on_taken, main=True))
        column.addLayout(row)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            self._on_taken()
        else:
            super().keyPressEvent(event)

    def _on_taken(self) -> None:
        day, time = self.days.selectedDate(), self.time.time()
        self.close()
        self._take(datetime(day.year(), day.month(), day.day(), time.hour(), time.minute()))  # noqa: DTZ001 - the film's zone is added when it is read


_first_day = [Qt.DayOfWeek.Monday.value]


def first_day() -> int:
    """Return the first day of the week, 1 for Monday to 7 for Sunday."""
    return _first_day[0]


def set_first_day(number: int) -> None:
    """Let calendars and painted weeks begin with another day."""
    _first_day[0] = number if number in (1, 6, 7) else 1


class MomentField(QLineEdit):
    """A line with a calendar behind its button, or Alt+Down.

    `moment` says with which moment the calendar opens.
    """

    def __init__(self, moment: Callable[[], datetime]) -> None:
        super().__init__()
        self._moment = moment
        self.calendar: Calendar | None = None
        self.open = QToolButton(self)
        self.open.setText("▾")
        self.open.setObjectName("opens")
        self.open.setCursor(Qt.CursorShape.ArrowCursor)
        self.open.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        self.open.setAccessibleName("Calendar")
        set_tip(self.open, "Pick it in a calendar (Alt+Down)")
        self.open.clicked.connect(lambda _=False: self.show_calendar())
        row = QHBoxLayout(self)
        row.setContentsMargins(0, 0, 3, 0)
        row.addStretch(1)
        row.addWidget(self.open)
        self.setTextMargins(0, 0, 20, 0)

    def show_calendar(self) -> None:
        """Open the calendar below the field."""
        self.calendar = Calendar(self, self._moment(), self._on_taken)
        self.calendar.move(self.mapToGlobal(QPoint(0, self.height())))
        self.calendar.show()
        self.calendar.days.setFocus()

    def _on_taken(self, moment: datetime) -> None:
        self.setText(say_date(moment))
        self.editingFinished.emit()

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.key() == Qt.Key.Key_Down and event.modifiers() & Qt.KeyboardModifier.AltModifier:
            self.show_calendar()
        else:
            super().keyPressEvent(event)
