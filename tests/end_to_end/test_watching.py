"""Watching in the real window: the small farm, broken frames, a plan of the rest, a folder that is away, reopening."""

import shutil

import numpy as np
import pytest
from PySide6.QtCore import QPoint, QPointF, Qt
from PySide6.QtGui import QGuiApplication
from PySide6.QtTest import QTest

from film import make_project, make_shot, well_timed
from pemlo.app import watcher as watching
from pemlo.app.document import Document
from pemlo.app.error_centre import ErrorCentre
from pemlo.app.preferences import Preferences
from pemlo.core.arrivals.states import FrameState
from pemlo.core.project.machines import Machine
from pemlo.gui.main_window import make_window
from pemlo.gui.start import _after_first_paint
from pemlo.gui.watch.farm_form import FarmWanted
from watching_window import Watched, film, settle_watch
from window import open_window, run_action, settle, without_advice

HOUR = 3600.0


@pytest.fixture(autouse=True)
def _quick(monkeypatch):
    without_advice(monkeypatch)
    monkeypatch.setattr(watching, "EVERY_MS", 100)


@pytest.fixture
def at_half(qtbot, monkeypatch, tmp_path):
    made = Watched(qtbot, monkeypatch, tmp_path, "black:010/5")
    made.go_to(made.played.at_share(0.5))
    return made


def middle(view, row, place):
    grid = view.grid
    return QPoint(
        round(view.left + grid.column(place) + grid.cell / 2 - 0.5), round(2 + row * grid.pitch + grid.pitch / 2)
    )


def test_nothing_is_watched_until_a_place_is_said(qtbot, tmp_path):
    window = open_window(qtbot, film())
    run_action(window, "watch")
    panel = window.watch
    assert panel.nothing.isVisible()
    assert not panel.stage.isVisible()
    assert window.rail.buttons[5]._stands == "nothing watched"
    panel.edits.watch_farm(f"{tmp_path}/nowhere/{{shot}}/{{frame}}.exr")
    qtbot.waitUntil(lambda: panel.found is not None)
    assert panel.stage.isVisible()
    assert any("There is no folder nowhere" in alarm.words for alarm in panel.found.alarms)
    window.document.history.undo()
    assert panel.nothing.isVisible()


def test_frames_come_in_and_the_finish_follows(qtbot, monkeypatch, tmp_path):
    made = Watched(qtbot, monkeypatch, tmp_path)
    widths = []
    for share in (0.1, 0.4, 0.8):
        made.go_to(made.played.at_share(share))
        finish = made.found.finish_h
        widths.append(finish.high - finish.low)
        assert f"{made.found.snapshot.done_count} of 70 frames in" in made.window.verdict.detail.text()
        assert made.window.rail.buttons[5]._stands == f"{made.found.snapshot.done_count} of 70 in"
    assert widths[0] > widths[-1]
    assert made.window.tape._now_h == pytest.approx(made.at / HOUR)
    assert len(made.window.watcher.last.finishes) >= 3
    made.go_to(made.played.at_share(1.0))
    assert made.window.verdict.headline.text() == "All frames are in."
    assert "before the deadline" in made.window.verdict.detail.text()
    assert made.window.news.told[-1].endswith("All 70 frames are in.")
    assert made.panel.side.title.text() == "Nothing is wrong"


def test_a_mark_reads_shows_its_picture_and_a_range_is_copied(at_half):
    view = at_half.panel.frames.view
    assert [row.shot for row in view.rows] == ["010", "020", "030"]
    QTest.mouseClick(view, Qt.MouseButton.LeftButton, pos=middle(view, 0, 2))
    settle_watch(at_half.qtbot, at_half.window)
    pane = at_half.panel.below.pictures
    at_half.qtbot.waitUntil(lambda: len(pane.pictures.shown) == 2)
    assert pane.pictures.shown[0][1] == "frame 3"
    assert "010, frame 3: in" in pane.words.text()
    assert "as its header says" in pane.words.text()
    QTest.mousePress(view, Qt.MouseButton.LeftButton, pos=middle(view, 1, 3))
    QTest.mouseMove(view, middle(view, 1, 8))
    QTest.mouseRelease(view, Qt.MouseButton.LeftButton, pos=middle(view, 1, 8))
    assert view.picked_frames == ("020", tuple(range(4, 10)))
    QTest.keyClick(view, Qt.Key.Key_C, Qt.KeyboardModifier.ControlModifier)
    assert QGuiApplication.clipboard().text() == "4-9"


def test_the_keys_move_and_space_plays(at_half):
    view, pane = at_half.panel.frames.view, at_half.panel.below.pictures
    QTest.mouseClick(view, Qt.MouseButton.LeftButton, pos=middle(view, 0, 0))
    for _ in range(3):
        QTest.keyClick(view, Qt.Key.Key_Right, Qt.KeyboardModifier.ShiftModifier)
    assert view.picked_frames == ("010", (1, 2, 3, 4))
    QTest.keyClick(view, Qt.Key.Key_Space)
    at_half.qtbot.waitUntil(lambda: pane.playing)
    seen = set()
    at_half.qtbot.waitUntil(lambda: seen.add(pane.pictures.shown[0][1]) or len(seen) == 4, timeout=5000)
    # While it plays the rest goes on rendering.
    at_half.go_to(at_half.played.at_share(0.6))
    assert pane.playing
    QTest.keyClick(view, Qt.Key.Key_Space)
    assert not pane.playing
    QTest.keyClick(view, Qt.Key.Key_Down)
    assert view.picked_frames[0] == "020"


def test_without_a_pick_the_whole_shot_plays_as_far_as_it_is_in(at_half):
    frames, pane = at_half.panel.frames, at_half.panel.below.pictures
    assert frames.view.picked is None
    assert frames.play_button.isEnabled()
    frames.play_button.click()
    at_half.qtbot.waitUntil(lambda: pane.playing)
    there = at_half.found.snapshot.of("010").rows_in
    assert pane.words.text().startswith("1-")
    seen = set()
    at_half.qtbot.waitUntil(lambda: seen.add(pane.pictures.shown[0][1]) or len(seen) > 4, timeout=5000)
    assert seen <= {f"frame {row.frame}" for row in there}
    frames.play_button.click()
    assert not pane.playing


def test_a_broken_frame_is_listed_shown_and_copied(at_half):
    side = at_half.panel.side
    alarm = next(one for one in at_half.found.alarms if one.kind == "frames")
    assert alarm.todo == "Render 5 again."
    side.alarms.picked.emit(alarm)
    assert at_half.panel.frames.view.picked_frames == ("010", (5,))
    side.alarms.copied.emit(alarm)
    assert QGuiApplication.clipboard().text() == "5"
    assert at_half.window.news.told == []  # what is there at the first look is no news


def test_frames_that_are_marked_again_count_as_missing_and_it_can_be_undone(at_half):
    there = at_half.found.snapshot.done_count
    at_half.panel.edits.render_again("010", (1, 2), at_half.played.project.start.fromtimestamp(
        at_half.played.project.start.timestamp() + at_half.at, at_half.played.project.start.tzinfo))  # fmt: skip
    at_half.qtbot.waitUntil(lambda: at_half.found.snapshot.done_count == there - 2, timeout=10_000)
    assert at_half.found.snapshot.of("010").of(FrameState.AGAIN) == (1, 2)
    # Undo before the next look has settled.
    at_half.window.document.history.undo()
    at_half.qtbot.waitUntil(lambda: at_half.found.snapshot.done_count == there, timeout=10_000)


def test_a_folder_that_goes_away_and_comes_back_loses_nothing(at_half, tmp_path):
    there = at_half.found.snapshot.done_count
    shutil.move(tmp_path / "r", tmp_path / "away")
    at_half.qtbot.waitUntil(
        lambda: any("nothing is lost" in alarm.words for alarm in at_half.found.alarms), timeout=10_000
    )
    assert at_half.found.snapshot.done_count == there
    shutil.move(tmp_path / "away", tmp_path / "r")
    at_half.qtbot.waitUntil(lambda: not any(alarm.kind == "folder" for alarm in at_half.found.alarms), timeout=10_000)


def test_what_came_is_there_when_the_film_is_opened_again(at_half, monkeypatch):
    there, moves = at_half.found.snapshot.done_count, len(at_half.window.watcher.last.finishes)
    at_half.window.document.history.set_clean()
    at_half.window.close()
    monkeypatch.setattr("pemlo.core.arrivals.folder_scanner.check_frame", lambda *_: pytest.fail("it was read before"))
    at_half.open()
    at_half.see()
    assert at_half.found.snapshot.done_count == there
    assert len(at_half.window.watcher.last.finishes) >= moves


def test_another_film_in_the_middle_of_a_look_is_not_shown_what_came(at_half):
    at_half.window.watcher.look()
    at_half.window.document.replace(film(), None)
    settle(at_half.qtbot, at_half.window)
    assert at_half.window.watcher.last is None
    assert at_half.panel.nothing.isVisible()
    assert "frames in" not in at_half.window.verdict.detail.text()


def test_pausing_stops_looks_and_going_on_catches_up(at_half):
    at_half.panel.sources.pause.click()
    there = at_half.found.snapshot.done_count
    at_half.at = at_half.played.at_share(0.7)
    at_half.played.play(at_half.at)
    QTest.qWait(400)
    assert at_half.found.snapshot.done_count == there
    at_half.panel.sources.pause.click()
    at_half.see()
    assert at_half.found.snapshot.done_count > there


def test_a_status_page_is_written_where_it_is_wanted(at_half, tmp_path):
    changed = at_half.window.document.project.watching.replace(status_folder="page")
    at_half.panel.edits.set_watching(changed)
    page = tmp_path / "page" / "status.html"
    at_half.qtbot.waitUntil(page.exists, timeout=10_000)
    text = page.read_text(encoding="utf-8")
    assert "Test film" in text
    assert f"{at_half.found.snapshot.done_count} of 70 frames in" in text
    assert "http" not in text.replace("http-equiv", "")


def test_a_status_page_that_cannot_be_written_is_said_and_frames_are_watched_all_the_same(at_half, tmp_path):
    (tmp_path / "taken").write_text("a file, and no folder", encoding="utf-8")
    changed = at_half.window.document.project.watching.replace(status_folder="taken/page")
    at_half.panel.edits.set_watching(changed)
    at_half.qtbot.waitUntil(lambda: any("status page" in alarm.words for alarm in at_half.found.alarms), timeout=10_000)
    there = at_half.found.snapshot.done_count
    at_half.go_to(at_half.played.at_share(0.7))
    assert at_half.found.snapshot.done_count > there


def test_below_it_is_said_what_the_verdict_rests_on(at_half):
    left = sum(len(one.missing) for one in at_half.found.snapshot.states)
    words = at_half.window.background._words.text()
    assert f"of {at_half.found.rest.frames} frames that are left on" in words
    assert at_half.found.rest.frames >= left
    assert f"and {at_half.found.snapshot.done_count} frames that are in" in words


def test_the_rest_is_planned_in_trade_and_taken_in_one_step(qtbot, monkeypatch, tmp_path):
    made = Watched(qtbot, monkeypatch, tmp_path, project=film("2031-04-21T13:00Z"))
    made.go_to(made.played.at_share(0.35))
    assert made.window.verdict.headline.text().startswith("Not on track")
    made.panel.plan.click()
    rest = made.window.rest_plans.open
    qtbot.waitUntil(lambda: rest.state.answer is not None and not rest.jobs.running, timeout=30_000)
    left = {shot.name: shot.frame_count for shot in rest.document.project.shots}
    assert left == {one.shot: len(one.missing) for one in made.found.snapshot.states if one.missing}
    assert not rest.take.isEnabled()
    names = tuple(name for name in left if name not in rest._rest.begun)
    rest.selection.pick(names)
    rest.document.edit("Fewer samples", lambda p: p.replace(shots=tuple(
        shot.replace(plan=shot.asked.replace(samples=64)) if shot.name in names else shot for shot in p.shots)))  # fmt: skip
    qtbot.waitUntil(lambda: not rest.jobs.running, timeout=30_000)
    assert made.window.document.project.shots[2].plan is None
    rest.take.click()
    settle_watch(qtbot, made.window)
    history = made.window.document.history
    assert history.undo_text() == "Take the plan of the remaining frames"
    assert {shot.name: shot.settings.samples for shot in made.window.document.project.shots}["030"] == 64
    history.undo()
    assert all(shot.plan is None for shot in made.window.document.project.shots)


def test_a_shot_that_has_begun_may_change_midway_where_that_is_said(qtbot, monkeypatch, tmp_path):
    made = Watched(qtbot, monkeypatch, tmp_path)
    made.go_to(made.played.at_share(0.2))
    made.panel.plan.click()
    rest = made.window.rest_plans.open
    assert rest.document.project.shot("010").pins
    assert "010" in rest.said.text()
    rest.midway.click()
    rest = made.window.rest_plans.open
    assert not rest.document.project.shot("010").pins
    assert made.window.document.project.watching.changes_midway
    qtbot.waitUntil(lambda: not rest.jobs.running, timeout=30_000)
    made.window.rest_plans.close()


def test_the_small_farm_is_launched_watched_mended_planned_anew_and_ends(qtbot, tmp_path):
    window = open_window(qtbot, film("2031-04-22T20:00Z"))
    run_action(window, "watch")
    panel = window.watch
    panel.sources.begin_farm(FarmWanted(tmp_path / "farm", 1500.0, "black:010/4", 3))
    assert window.farm.running
    qtbot.waitUntil(lambda: panel.found is not None and panel.found.snapshot.done_count > 5, timeout=60_000)
    qtbot.waitUntil(lambda: panel.found.snapshot.of("010").of(FrameState.BROKEN) == (4,), timeout=30_000)
    alarm = next(one for one in panel.found.alarms if one.kind == "frames" and one.frames == (4,))
    panel.side.alarms.again.emit(alarm)
    # Another plan while it renders: the farm goes on by it.
    window.document.edit("Fewer samples", lambda p: p.replace(shots=(
        *p.shots[:2], p.shots[2].replace(plan=p.shots[2].asked.replace(samples=32)))))  # fmt: skip
    qtbot.waitUntil(lambda: panel.found is not None and panel.found.done, timeout=90_000)
    qtbot.waitUntil(lambda: not window.farm.running, timeout=20_000)
    snapshot = panel.found.snapshot
    assert snapshot.of("010").why == {}
    settings = {snapshot.frames.rendered_with[k].samples for k in snapshot.frames.settings[snapshot.frames.shot == 2]}
    assert settings == {32}
    assert not any(one.kind == "frames" for one in panel.found.alarms)
    assert np.isfinite(snapshot.frames.seconds).all()
    # Nothing is missing and nothing left: what would do nothing cannot be pressed.
    assert not panel.plan.isEnabled()
    assert not panel.frames.copy_button.isEnabled()
    QGuiApplication.clipboard().setText("as it was")
    panel.frames.copy()
    assert QGuiApplication.clipboard().text() == "as it was"


def test_the_small_farm_stops_with_the_window_and_at_a_click(qtbot, tmp_path):
    window = open_window(qtbot, film())
    run_action(window, "watch")
    window.watch.sources.begin_farm(FarmWanted(tmp_path / "farm", 10.0, "", 0))
    assert window.watch.sources.farm_link.text() == "Stop the small farm"
    # For as long as its first pictures take nothing comes: it says why.
    qtbot.waitUntil(
        lambda: "rendering the small pictures of 010, shot 1 of" in window.watch.said.text(), timeout=60_000
    )
    window.watch.sources.farm_link.click()
    assert not window.farm.running
    assert "small pictures" not in window.watch.said.text()
    assert window.problems.words == ""


def test_marks_of_a_row_are_where_they_are_drawn(at_half):
    view = at_half.panel.frames.view
    for place in (0, 7, 29):
        assert view.frame_at(QPointF(middle(view, 0, place))) == (0, place)
    assert view.frame_at(QPointF(2, 5)) is None
    assert view.frame_at(QPointF(view.width() - 2, 5)) is None


def test_a_film_that_is_named_on_the_command_line_is_watched_at_once(qtbot, tmp_path, monkeypatch):
    """It was read before anybody watched, and nobody ever looked."""
    without_advice(monkeypatch)
    project = make_project(
        (make_shot("010", 3),), well_timed("010", (1, 3)), (Machine(name="desk"),), width=48, height=32
    )
    project = project.replace(watching=project.watching.replace(place="r/{shot}.{frame:04}.exr"))
    window = make_window(Document(project, tmp_path / "job.pemlo"), ErrorCentre(), Preferences())
    qtbot.addWidget(window, before_close_func=lambda w: w.document.history.set_clean())
    window.show()
    assert window.watcher.last is None
    _after_first_paint(window)
    qtbot.waitUntil(lambda: window.watcher.last is not None, timeout=20_000)
    settle(qtbot, window)
