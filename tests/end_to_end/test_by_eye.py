"""Stories of a director who has a stopwatch and their eyes: from an empty window to an adopted plan, no picture at all."""

import re

import pytest
from PySide6.QtCore import Qt
from PySide6.QtGui import QGuiApplication
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication, QFileDialog

from film import exact_seconds, make_project, make_shot
from pemlo.core.persistence.document import read_project
from pemlo.core.project.settings import FrameSettings
from pemlo.core.units import format_duration
from pemlo.gui.brief.where_seen import WhereSeen
from pemlo.gui.project_files import empty_project
from window import cell, index_of, open_window, pick_lines, run_action, save_now, settle, type_in_cell

SECONDS = {samples: exact_seconds(FrameSettings(samples=samples)) for samples in (32, 64, 128, 256)}


def say(qtbot, window, line):
    QTest.keyClicks(window.brief.start.line, line)
    QTest.mouseClick(window.brief.start.go, Qt.MouseButton.LeftButton)
    settle(qtbot, window)


def add_trial(qtbot, window, **typed):
    inputs = window.trials.entry.inputs
    for name, field in inputs.items():
        field.setText("")
        QTest.keyClicks(field, typed.get(name, ""))
    QTest.keyClick(inputs["seconds"], Qt.Key.Key_Return)
    settle(qtbot, window)


def mark(qtbot, window, row, action, note=""):
    pick_lines(window.trials.table, [row])
    run_action(window, action)
    if note:
        type_in_cell(qtbot, window.trials.table, row, "note", note)
    settle(qtbot, window)


def test_one_line_one_time_one_deadline_give_a_verdict(qtbot):
    """Two actions: a line typed, a button clicked."""
    window = open_window(qtbot, empty_project())
    assert window.brief.start.isVisible()
    assert not window.brief.start.go.isEnabled()
    say(qtbot, window, "75 frames, one frame 4:02, due friday 18:00")
    assert not window.brief.start.isVisible()
    assert re.match(r"(Makes|Likely done|In doubt for)", window.verdict.headline.text())
    hours = window.answer.forecast.hours
    # Common practice, no source: 4 min 02 s over 75 frames is 5 hours.
    assert hours.low < 75 * 242 / 3600 < hours.high
    assumed = window.brief._assumptions.text()
    assert "one trial only" in assumed
    assert "replaces that" in assumed
    run_action(window, "undo")
    assert window.brief.start.isVisible()


def test_the_line_is_read_while_it_is_typed_and_says_what_it_does_not_understand(qtbot):
    window = open_window(qtbot, empty_project())
    start = window.brief.start
    QTest.keyClicks(start.line, "3 shots of 100 frames, purple, due yesterday")
    words = [start.parts.itemAt(k).widget().text() for k in range(start.parts.count())]
    assert "3 shots of 100 frames, 300 frames, 12.5 s" in words
    assert "purple" in start.trouble.text()
    start.line.setText("0 shots of 5 frames")
    assert "0 shots are none" in start.trouble.text()
    QTest.keyClick(start.line, Qt.Key.Key_Return)
    assert window.document.project.shots == ()


def test_from_an_empty_window_to_an_adopted_plan_without_any_picture(qtbot, tmp_path):
    """Two times, a mark, the cheapest that passes, adopted, saved and opened again."""
    window = open_window(qtbot, empty_project())
    say(qtbot, window, "100 frames, 1920x1080, 256 samples, due monday 18:00")
    run_action(window, "trials")
    add_trial(qtbot, window, frame="50", samples="256", seconds=format_duration(SECONDS[256]))
    add_trial(qtbot, window, frame="50", samples="64", seconds=format_duration(SECONDS[64]))
    mark(qtbot, window, 1, "good", "shadow edge soft, fine")
    assert cell(window.trials.table, 1, "passes") == "● passes"
    assert "64 samples and better passes" in window.trials._marked.text()
    run_action(window, "trade")
    settle(qtbot, window)
    trade = window.trade
    qtbot.waitUntil(lambda: trade.stage.isVisibleTo(window), timeout=30_000)
    assert trade.boxes["samples"].isVisibleTo(window)
    assert trade.boxes["frame_step"].isVisibleTo(window)
    assert "error not measured" in trade.hours.alone.text()
    trade.plan_box.cheapest.click()
    settle(qtbot, window)
    assert "passes by its marks" in trade.plan_box.changes.text()
    assert trade.plan_box.take.isVisibleTo(window)
    assert trade.plan_box.take.visibleRegion().boundingRect().height() > 10, "Adopt is in view without scrolling"
    QTest.mouseClick(trade.plan_box.take, Qt.MouseButton.LeftButton)
    settle(qtbot, window)
    assert window.document.project.shots[0].settings.samples == 64
    by_hand = 100 * SECONDS[64] / 3600
    assert window.answer.forecast.hours.low < by_hand < window.answer.forecast.hours.high
    path = tmp_path / "film.pemlo"
    save_now(window.document, path)
    again = read_project(path)
    assert again == window.document.project
    assert again.trials[1].note == "shadow edge soft, fine"


def test_marks_on_four_typed_trials_of_two_shots_give_the_cheapest_plan_that_passes(qtbot):
    window = open_window(qtbot, make_project(shots=(make_shot("010"), make_shot("020"))))
    run_action(window, "trials")
    for shot, samples, action in (("010", 256, ""), ("010", 64, "good"), ("020", 128, "good"), ("020", 32, "bad")):
        window.pick((shot,))
        add_trial(qtbot, window, frame="50", samples=str(samples), seconds=format_duration(SECONDS[samples]))
        if action:
            mark(qtbot, window, len(window.trials.model.rows) - 1, action)
    assert "Look first at frame 50, 64 samples" in window.trials._marked.text()
    run_action(window, "trade")
    settle(qtbot, window)
    window.trade.plan_box.cheapest.click()
    settle(qtbot, window)
    window.trade.plan_box.take.click()
    settle(qtbot, window)
    planned = {shot.name: shot.settings.samples for shot in window.document.project.shots}
    assert planned == {"010": 64, "020": 128}
    by_hand = 100 * (SECONDS[64] + SECONDS[128]) / 3600
    assert window.answer.forecast.hours.middle == pytest.approx(by_hand, rel=0.1)
    # A contradiction is named, and nothing that was refused comes back.
    run_action(window, "trials")
    window.pick(("020",))
    mark(qtbot, window, 0, "bad")
    mark(qtbot, window, 1, "good")
    assert "contradict" in window.trials._contradiction.text() or "Look at both" in window.trials._contradiction.text()


def test_what_changed_since_a_plan_was_adopted_is_said(qtbot):
    window = open_window(qtbot, make_project(shots=(make_shot("010"), make_shot("020"))))
    run_action(window, "trials")
    for shot, samples in (("010", 256), ("010", 64), ("020", 64)):
        window.pick((shot,))
        add_trial(qtbot, window, frame="50", samples=str(samples), seconds=format_duration(SECONDS[samples]))
        if samples == 64:
            mark(qtbot, window, len(window.trials.model.rows) - 1, "good")
    run_action(window, "trade")
    settle(qtbot, window)
    trade = window.trade
    trade.plan_box.cheapest.click()
    settle(qtbot, window)
    trade.plan_box.take.click()
    settle(qtbot, window)
    assert trade.plan_box.take.text() == "Same as now"
    assert not trade.plan_box.since.isVisibleTo(window)
    window.pick(("010",))
    settle(qtbot, window)
    trade.boxes["samples"].back.click()
    settle(qtbot, window)
    assert "010 (samples)" in trade.plan_box.since.text()
    run_action(window, "undo")
    run_action(window, "undo")  # the plan is taken back: nothing has changed since
    settle(qtbot, window)
    assert not trade.plan_box.since.isVisibleTo(window)


def test_a_bargain_is_a_button_and_one_step_to_undo(qtbot):
    window = open_window(qtbot, make_project(shots=(make_shot("010"),)))
    run_action(window, "trials")
    add_trial(qtbot, window, frame="50", samples="256", seconds=format_duration(SECONDS[256]))
    add_trial(qtbot, window, frame="50", samples="64", seconds=format_duration(SECONDS[64]))
    run_action(window, "trade")
    settle(qtbot, window)
    bargains = window.trade.bargains
    qtbot.waitUntil(lambda: not bargains.waits_for_rest)
    assert bargains.shown
    assert all("saves" in words for words in bargains.shown)
    before = window.document.project
    QTest.mouseClick(bargains.buttons[0], Qt.MouseButton.LeftButton)
    settle(qtbot, window)
    assert window.document.project.shots[0].plan is not None
    run_action(window, "undo")
    assert window.document.project == before


def test_two_ways_are_compared_copied_kept_and_written(qtbot, tmp_path, monkeypatch):
    window = open_window(qtbot, make_project(shots=(make_shot("010", 75),)))
    run_action(window, "trials")
    add_trial(qtbot, window, frame="40", samples="256", seconds="32:08")
    add_trial(qtbot, window, frame="40", samples="32", seconds="4:02")
    run_action(window, "trade")
    settle(qtbot, window)
    card = window.trade.hours.ways
    for box, words in ((card.first, "256 samples: 32"), (card.second, "32 samples: 4")):
        name = next(box.itemText(k) for k in range(box.count()) if words in box.itemText(k))
        box.setCurrentText(name)
        box.activated.emit(box.currentIndex())
    settle(qtbot, window)
    # Common practice, no source: 87.4 % saved; over 75 frames 35.1 h saved.
    assert (
        card.timed.text() == "As timed: 32 m 08 s against 4 m 02 s over 75 frames: 87 % and 35.1 machine-hours saved."
    )
    # One number, said twice on one screen, is the same.
    hours = re.search(r"takes (.+?) machine-hours", window.trade.hours.alone.text())
    assert hours is not None
    (row,) = (line for line in card.text.splitlines() if line.startswith("machine-hours of 010"))
    assert hours[1] in row
    card.copy.click()
    assert QGuiApplication.clipboard().text() == card.text
    card.keep.click()
    settle(qtbot, window)
    assert [kept.text for kept in window.document.project.cards] == [card.text]
    # A kept one is looked at, and dropped; undo brings it back.
    text = card.text
    card.kept.setCurrentIndex(1)
    card.kept.activated.emit(1)
    assert card.drop.isVisible()
    card.drop.click()
    settle(qtbot, window)
    assert window.document.project.cards == ()
    assert not card.drop.isVisible()
    window.document.history.undo()
    settle(qtbot, window)
    assert [kept.text for kept in window.document.project.cards] == [text]
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *_: (str(tmp_path / "ways.txt"), ""))
    card.write.click()
    assert (tmp_path / "ways.txt").read_text().strip() == card.text
    card.second.setCurrentText("typed")
    card.typed.setText("samples=0")
    card.second.activated.emit(card.second.currentIndex())
    assert card.found is None
    assert not card.copy.isEnabled()
    for words, name in (("denoise=soft", "soft"), ("way=quick engine", "way quick engine"), ("switches=haze", "haze")):
        card.typed.setText(words)
        card.second.activated.emit(card.second.currentIndex())
        assert f"What “{name}” costs is not known. Time a frame with it" in card.sentence.text()


def test_a_way_that_was_never_timed_is_tried_on_paper(qtbot):
    window = open_window(qtbot, make_project(shots=(make_shot("010"),)))
    run_action(window, "trials")
    add_trial(qtbot, window, frame="50", samples="256", seconds=format_duration(SECONDS[256]))
    run_action(window, "trade")
    settle(qtbot, window)
    paper = window.trade.paper
    QTest.keyClicks(paper.settings, "denoise=frame, samples=64")
    QTest.keyClicks(paper.takes, "a third")
    QTest.mouseClick(paper.go, Qt.MouseButton.LeftButton)
    settle(qtbot, window)
    guess = window.document.project.trials[-1]
    assert guess.assumed
    assert guess.seconds == pytest.approx(SECONDS[256] / 3, rel=0.01)
    assert paper.settings.text() == ""
    assert "frame" in window.trade.boxes["denoise"].slider.accessibleDescription() or window.trade.boxes[
        "denoise"
    ].isVisibleTo(window)
    run_action(window, "trials")
    settle(qtbot, window)
    assert cell(window.trials.table, 1, "off fit") == "a guess"
    assert "is a guess" in window.trials._unknown.text()
    run_action(window, "trade")
    QTest.keyClicks(paper.settings, "colour=red")
    QTest.keyClicks(paper.takes, "half")
    QTest.mouseClick(paper.go, Qt.MouseButton.LeftButton)
    assert "no lever colour" in window.problems.words
    assert paper.settings.text() == "colour=red", "nothing that was typed is lost"


def test_a_still_background_is_rendered_once_and_a_moving_character_every_frame(qtbot):
    window = open_window(qtbot, make_project(shots=(make_shot("010", 100),)))
    pick_lines(window.brief.shots, [0])
    run_action(window, "layers")
    form = window.brief.layers
    form.names.setText("background, character")
    QTest.mouseClick(form.go, Qt.MouseButton.LeftButton)
    settle(qtbot, window)
    assert [shot.name for shot in window.document.project.shots] == ["010 background", "010 character"]
    type_in_still(qtbot, window)
    run_action(window, "trials")
    for shot, factor in (("010 background", 1.0), ("010 character", 0.5)):
        window.pick((shot,))
        for samples in (256, 64):
            seconds = format_duration(factor * SECONDS[samples])
            add_trial(qtbot, window, frame="50", samples=str(samples), seconds=seconds)
    by_hand = (SECONDS[256] + 100 * 0.5 * SECONDS[256]) / 3600
    assert window.answer.forecast.hours.middle == pytest.approx(by_hand, rel=0.1)
    assert [shot.frames for shot in window.answer.forecast.shots] == [1, 100]
    assert window.brief.totals.text().startswith("1 shot (2 layers) · frames 100 · ")


def type_in_still(qtbot, window):
    model = window.brief.shots_model
    assert model.setData(index_of(window.brief.shots, 0, "still"), "yes")
    settle(qtbot, window)


def test_a_size_for_phones_says_what_it_saves_and_is_used(qtbot):
    project = make_project(shots=(make_shot("010"),), width=3840, height=2160)
    window = open_window(qtbot, project)
    run_action(window, "trials")
    add_trial(qtbot, window, frame="50", samples="256", seconds="8:00")
    before = window.answer.forecast.hours.middle
    run_action(window, "brief")
    QTest.mouseClick(window.brief.where, Qt.MouseButton.LeftButton)
    (dialog,) = [one for one in QApplication.topLevelWidgets() if isinstance(one, WhereSeen)]
    settle(qtbot, window)
    assert "1568×882" in dialog.words.text()
    assert re.search(r"\d", dialog.savings[0].text())
    QTest.mouseClick(dialog.use, Qt.MouseButton.LeftButton)
    settle(qtbot, window)
    shot = window.document.project.shots[0]
    assert shot.asked.resolution_percent == pytest.approx(100 * 1568 / 3840, abs=1e-3)
    assert window.answer.forecast.hours.middle < 0.6 * before
    dialog.own.setText("nonsense")
    dialog._on_own()
    assert "is no screen" in dialog.words.text()
    dialog.rate.setCurrentText("60")
    dialog.rate.activated.emit(0)
    assert "100 frames become 250" in dialog.rate_words.text()
    QTest.mouseClick(dialog.change, Qt.MouseButton.LeftButton)
    settle(qtbot, window)
    assert window.document.project.shots[0].frame_count == 250
    dialog.close()


def test_a_square_says_its_hours_and_is_added(qtbot):
    project = make_project(shots=(make_shot("010"),))
    window = open_window(qtbot, project)
    run_action(window, "trials")
    add_trial(qtbot, window, frame="50", samples="256", seconds="8:00")
    run_action(window, "brief")
    QTest.mouseClick(window.brief.where, Qt.MouseButton.LeftButton)
    (dialog,) = [one for one in QApplication.topLevelWidgets() if isinstance(one, WhereSeen)]
    settle(qtbot, window)
    words = dialog.shape_words.text()
    assert words.startswith("square: 1080×1080 px. Cropped from the film: no render, 1080×1080 px, 56 % of the frame.")
    hours = float(re.search(r"Rendered anew: ([\d.]+)", words)[1])
    assert 0.5 < hours / (100 * 480 / 3600) < 0.85  # 56 % of the pixels; how much is fixed is not known
    dialog.shape.setCurrentText("upright")
    dialog.shape.activated.emit(1)
    settle(qtbot, window)
    assert "1080×1920" in dialog.shape_words.text()
    QTest.mouseClick(dialog.reframe, Qt.MouseButton.LeftButton)
    settle(qtbot, window)
    assert [shot.name for shot in window.document.project.shots] == ["010", "010 upright"]
    window.document.history.undo()
    assert [shot.name for shot in window.document.project.shots] == ["010"]
    dialog.close()


def test_a_folder_of_frames_becomes_shots(qtbot, tmp_path):
    for number in range(1001, 1031):
        (tmp_path / f"corridor.{number}.exr").write_bytes(b"")
    window = open_window(qtbot, empty_project())
    window.dropped.take([str(tmp_path)])
    settle(qtbot, window)
    (shot,) = window.document.project.shots
    assert (shot.name, shot.first, shot.last) == ("corridor", 1001, 1030)
    empty = tmp_path / "empty"
    empty.mkdir()
    window.dropped.take([str(empty)])
    settle(qtbot, window)
    assert "holds no frames" in window.problems.words


def test_columns_show_long_names_and_frames_of_four_digits(qtbot):
    shots = tuple(make_shot(f"corridor of mirrors {k}", 100).replace(first=1001, last=1100) for k in range(200))
    window = open_window(qtbot, make_project(shots=shots))
    table = window.brief.shots
    for title in ("shot", "frames", "moves"):
        index = index_of(table, 199, title)
        words = table.fontMetrics().horizontalAdvance(index.data())
        assert table.columnWidth(index.column()) >= words + 8, title
