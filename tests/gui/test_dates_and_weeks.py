"""Dates picked in a calendar, weeks painted with the mouse and the keys, and the preferences that change both."""

from datetime import UTC, datetime

import pytest
from PySide6.QtCore import QDate, QPointF, Qt, QTime
from PySide6.QtTest import QTest

from film import make_project
from pemlo.app.appearance import Appearance
from pemlo.core.project.hours import parse_week
from pemlo.gui.brief.presenter import DUE_FIELDS
from pemlo.gui.brief.week_form import CELLS, WeekForm
from pemlo.gui.common.density import ROOMY_PX, row_px
from pemlo.gui.common.form import Form
from pemlo.gui.common.moment_field import MomentField, first_day, set_first_day
from pemlo.gui.common.theme import apply_theme
from pemlo.gui.preferences_form import PreferencesForm


@pytest.fixture(autouse=True)
def _usual_week():
    yield
    set_first_day(1)


@pytest.fixture
def week(qtbot):
    taken = []
    form = WeekForm(None, "desk", "Mon-Fri 19:00-08:00", taken.append)
    form.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose, on=False)  # that is done once the test has ended
    qtbot.addWidget(form)
    form.show()
    form.taken = taken
    return form


def stroke(form, row, first, last, to_row=None):
    """Drag over half hours of a day, or of several."""
    grid = form.grid
    begin, end = (
        grid.place_of(row, first).center().toPoint(),
        grid.place_of(row if to_row is None else to_row, last).center().toPoint(),
    )
    QTest.mousePress(grid, Qt.MouseButton.LeftButton, pos=begin)
    QTest.mouseMove(grid, end)
    QTest.mouseRelease(grid, Qt.MouseButton.LeftButton, pos=end)


def test_a_drag_frees_hours_and_one_that_begins_on_a_free_one_takes_them(week):
    stroke(week, 6, 0, CELLS - 1)
    assert week.words.text() == "Mon-Fri 19:00-08:00, Sun all day"
    stroke(week, 0, 38, 47)  # Monday from 19:00 was free
    assert week.grid.week[0] == ()
    QTest.mouseClick(week.go, Qt.MouseButton.LeftButton)
    assert parse_week(week.taken[0]) == week.grid.week


def test_a_drag_over_days_paints_each(week):
    week._show("never")
    stroke(week, 1, 18, 35, to_row=3)
    assert week.words.text() == "Tue-Thu 09:00-18:00"


def test_the_keys_paint_too(week):
    week._show("never")
    grid = week.grid
    grid.setFocus()
    for key in (Qt.Key.Key_Down, Qt.Key.Key_Right, Qt.Key.Key_Space, Qt.Key.Key_Right, Qt.Key.Key_Space):
        QTest.keyClick(grid, key)
    assert week.words.text() == "Tue 00:30-01:30"
    assert grid.accessibleDescription() == "Tue 00:30-01:30"
    QTest.keyClick(grid, Qt.Key.Key_Space)
    assert week.words.text() == "Tue 00:30-01:00"


def test_hours_that_cannot_be_are_said_and_not_taken(week):
    week.words.clear()
    QTest.keyClicks(week.words, "Mon 25:00-27:00")
    assert "not a span of hours" in week.wrong.text()
    QTest.mouseClick(week.go, Qt.MouseButton.LeftButton)
    assert week.taken == []
    week.words.clear()
    QTest.keyClicks(week.words, "Sun all day")
    assert week.wrong.text() == ""
    assert week.grid.week[6] == ((0, 1440),)


def test_a_week_that_begins_on_sunday_shows_it_first(week):
    set_first_day(7)
    assert [week.grid.day_of(row) for row in range(7)] == [6, 0, 1, 2, 3, 4, 5]
    week._show("never")
    stroke(week, 0, 0, 1)
    assert week.words.text() == "Sun 00:00-01:00"


def test_beside_the_grid_nothing_is_painted(week):
    before = week.grid.week
    QTest.mouseClick(week.grid, Qt.MouseButton.LeftButton, pos=QPointF(4, 4).toPoint())
    QTest.mouseClick(week.grid, Qt.MouseButton.LeftButton, pos=week.grid.rect().bottomRight())
    assert week.grid.week == before


NO_SCREEN = pytest.mark.qt_log_ignore("does not support")  # to raise a popup, or to give it the keyboard


@NO_SCREEN
def test_a_date_is_picked_in_the_calendar(qtbot):
    project, changed = make_project(), []
    form = Form(DUE_FIELDS, lambda _words, change: changed.append(change(project)))
    qtbot.addWidget(form)
    form.show_project(project)
    form.show()
    field = form.inputs["deadline"]
    assert field.text() == "Thu 24 Apr 2031 18:00"
    field.show_calendar()
    calendar = field.calendar
    assert calendar.days.selectedDate() == QDate(2031, 4, 24)
    calendar.days.setSelectedDate(QDate(2031, 4, 26))
    calendar.time.setTime(QTime(9, 30))
    QTest.keyClick(calendar.time, Qt.Key.Key_Return)
    assert field.text() == "Sat 26 Apr 2031 09:30"
    assert changed[-1].delivery.deadline == datetime(2031, 4, 26, 9, 30, tzinfo=UTC)


@NO_SCREEN
def test_the_calendar_opens_from_the_keyboard_and_esc_leaves_the_date(qtbot):
    field = MomentField(lambda: datetime(2031, 4, 24, 18, tzinfo=UTC))
    qtbot.addWidget(field)
    field.setText("Thu 24 Apr 2031 18:00")
    field.show()
    QTest.keyClick(field, Qt.Key.Key_Down, Qt.KeyboardModifier.AltModifier)
    assert field.calendar.isVisible()
    QTest.keyClick(field.calendar, Qt.Key.Key_Escape)
    assert field.text() == "Thu 24 Apr 2031 18:00"


def test_preferences_are_shown_at_once_and_the_size_of_text_at_the_next_start(qtbot, qapp):
    shown = []
    form = PreferencesForm(None, Appearance(), shown.append)
    qtbot.addWidget(form)
    form.show()
    form.density.setCurrentText("compact")
    form.density.activated.emit(form.density.currentIndex())
    assert shown[-1] == Appearance(compact=True)
    assert form.later.text() == ""
    form.text.setCurrentText("150 %")
    form.text.activated.emit(form.text.currentIndex())
    assert shown[-1].text_percent == 150
    assert "next time" in form.later.text()
    form.day.setCurrentText("Sunday")
    form.day.activated.emit(form.day.currentIndex())
    assert shown[-1].first_day == 7
    apply_theme(qapp, Appearance(compact=True))
    assert row_px() < ROOMY_PX
    apply_theme(qapp, Appearance())
    assert row_px() == ROOMY_PX
    set_first_day(99)  # a file of preferences may hold anything
    assert first_day() == 1


def test_a_cluster_is_taken_once_it_is_an_address_and_nothing_is_taken_of_what_is_none(qtbot, qapp):
    taken = []
    form = PreferencesForm(None, Appearance(), lambda _: None)
    qtbot.addWidget(form)
    form.show_cluster("dask://farm:8786", taken.append)
    form.show()
    for text in ("farm", "dask://farm:8787", ""):
        form.cluster.clear()
        qtbot.keyClicks(form.cluster, text)
        form.cluster.editingFinished.emit()
        assert ("is not a cluster" in form.no_cluster.text()) == (text == "farm")
    assert taken == ["dask://farm:8787", ""]
