"""A start that has passed, opened in the window."""

from datetime import UTC, datetime, timedelta

import pytest

from film import make_project
from pemlo.core.project.edits import set_delivery
from pemlo.gui.brief.presenter import DUE_FIELDS
from pemlo.gui.gone_start import this_minute
from pemlo.gui.project_files import empty_project
from window import open_window, settle


def yesterday():
    start = this_minute() - timedelta(hours=18)
    return set_delivery(make_project().replace(start=start), deadline=start + timedelta(days=4))


def test_a_project_of_yesterday_offers_to_start_now(qtbot, tmp_path):
    window = open_window(qtbot, yesterday(), tmp_path / "film.pemlo")
    assert "was 18 h 00 m ago" in window.problems.words
    settle(qtbot, window)
    before = window.answer.forecast.hours_available
    window.problems.acts[-1].click()
    settle(qtbot, window)
    gone = datetime.now(UTC) - window.document.project.start
    assert gone < timedelta(minutes=2)
    assert window.document.history.undo_text() == "Start now"
    assert window.problems.words == ""
    assert before - window.answer.forecast.hours_available == pytest.approx(18, abs=0.1)
    window.gone_start.look()
    assert window.problems.words == ""


def test_it_is_told_once_of_each_start_and_again_when_time_goes_on(qtbot):
    window = open_window(qtbot, make_project())
    assert window.problems.words == ""
    window.gone_start.now = lambda: window.document.project.start + timedelta(hours=20)
    window.gone_start.look()
    assert "was 20 h 00 m ago" in window.problems.words
    window.problems.clear()
    window.gone_start.look()
    assert window.problems.words == ""


def test_a_new_film_starts_this_minute():
    assert abs(datetime.now(UTC) - empty_project().start) < timedelta(minutes=2)


def test_the_start_of_a_new_film_goes_on_until_it_is_typed(qtbot):
    began = this_minute() - timedelta(hours=2)
    project = set_delivery(make_project().replace(start=began, starts_now=True), deadline=began + timedelta(days=4))
    window = open_window(qtbot, project)
    document = window.document
    assert document.project.start >= this_minute() - timedelta(minutes=1)
    assert window.problems.words == ""
    assert not document.unsaved
    # Nobody does anything for an hour: it goes on by itself, and there is nothing to undo.
    document.now = lambda: datetime.now(UTC) + timedelta(hours=1)
    window.gone_start.look()
    assert document.project.start > this_minute() + timedelta(minutes=58)
    assert not document.unsaved
    assert not document.history.can_undo()
    # An edit brings it along.
    document.now = lambda: datetime.now(UTC) + timedelta(hours=3)
    document.edit("Call it so", lambda film: film.replace(title="So"))
    assert document.project.start > this_minute() + timedelta(hours=2, minutes=58)
    start = next(field for field in DUE_FIELDS if field.name == "start")
    assert start.text(document.project) == "now"
    document.edit("Set start", lambda film: start.edit(film, f"{this_minute() + timedelta(days=1):%Y-%m-%d %H:%M}"))
    typed = document.project.start
    document.now = lambda: datetime.now(UTC) + timedelta(days=2)
    document.edit("Call it so", lambda film: film.replace(title="Else"))
    assert document.project.start == typed
    document.edit("Set start", lambda film: start.edit(film, "now"))
    assert document.project.start > typed
