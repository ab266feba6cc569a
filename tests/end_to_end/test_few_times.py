"""Stories with nothing but a stopwatch: one time, four times, times that cannot all be right."""

import pytest
from PySide6.QtCore import Qt
from PySide6.QtTest import QTest

from film import make_project, make_shot
from window import cell, open_window, run_action, settle, type_in_cell


def film(qtbot):
    window = open_window(qtbot, make_project(shots=(make_shot("010", samples=256),)))
    run_action(window, "trials")
    window.load_stages()
    settle(qtbot, window)
    return window


def type_time(window, samples, time, size="50", frame="50"):
    entry = window.trials.entry.inputs
    for name, text in (("frame", frame), ("samples", samples), ("resolution_percent", size), ("seconds", time)):
        entry[name].clear()
        QTest.keyClicks(entry[name], text)
    QTest.keyClick(entry["seconds"], Qt.Key.Key_Return)


def test_one_time_asks_how_long_was_prepared(qtbot):
    window = film(qtbot)
    type_time(window, "16", "16.3")
    settle(qtbot, window)
    found = window.state.answer.forecast.shots[0].seconds
    assert found.low < 20
    assert found.high > 800
    assert "did the renderer say how long it prepared frame 50" in window.trials.card.why.text()
    type_in_cell(qtbot, window.trials.table, 0, "prepare", "3")
    settle(qtbot, window)
    told = window.state.answer.forecast.shots[0].seconds
    # Little of the time was preparing, so nearly all of it goes with samples and pixels.
    assert told.middle > 4 * found.middle
    assert told.high / told.middle < 0.2 * found.high / found.middle
    assert "how long it prepared" not in window.trials.card.why.text()


def test_times_that_cannot_all_be_right_get_no_verdict_until_one_is_timed_again(qtbot):
    window = film(qtbot)
    for samples, time in (("16", "16.3"), ("64", "40"), ("128", "2:30")):
        type_time(window, samples, time)
    settle(qtbot, window)
    assert window.verdict.headline.text() == "The trials of shot 010 do not agree with each other."
    assert "there is no verdict" in window.verdict.detail.text()
    assert window.state.answer.forecast.probability is None
    assert window.tape.reading() == "When it is done cannot be said: trials do not agree."
    assert {cell(window.trials.table, row, "off fit").split()[-1] for row in range(3)} == {"apart"}
    assert window.trials.card.why.text().startswith("Once more")
    type_in_cell(qtbot, window.trials.table, 2, "time", "1:13")
    settle(qtbot, window)
    assert window.verdict.headline.text().startswith("Makes")
    run_action(window, "undo")
    assert window.verdict.headline.text() == "The trials of shot 010 do not agree with each other.", (
        "it is known at once"
    )
    run_action(window, "redo")
    settle(qtbot, window)
    assert window.verdict.headline.text().startswith("Makes")
    assert window.document.project.trials[2].seconds == pytest.approx(73)


def test_a_part_of_a_frame_is_typed_in_the_table(qtbot):
    window = film(qtbot)
    type_time(window, "64", "9")
    settle(qtbot, window)
    whole = window.state.answer.forecast.shots[0].seconds
    type_in_cell(qtbot, window.trials.table, 0, "region", "12.5")
    settle(qtbot, window)
    assert cell(window.trials.table, 0, "region") == "12.5 %"
    part = window.state.answer.forecast.shots[0].seconds
    assert part.high > 2 * whole.high
    type_in_cell(qtbot, window.trials.table, 0, "region", "0")
    assert window.document.project.trials[0].region_percent == 12.5, "no part of nothing"


def test_no_plan_is_taken_from_times_that_do_not_agree(qtbot):
    window = film(qtbot)
    for samples, time in (("16", "16.3"), ("64", "40"), ("128", "2:30")):
        type_time(window, samples, time)
    settle(qtbot, window)
    run_action(window, "trade")
    settle(qtbot, window)
    box = window.trade.plan_box
    box.search.click()
    settle(qtbot, window)
    assert box.found.text().startswith("The trials of shot 010 do not agree")
    assert not box.take.isVisibleTo(window)
    box.adopted.emit()
    assert window.document.project.shots[0].plan is None
