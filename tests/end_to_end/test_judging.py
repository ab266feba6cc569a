"""Judging pictures in the real window: look, measure, play."""

import OpenImageIO as oiio
import pytest
from PySide6.QtCore import QPoint, QPointF, Qt
from PySide6.QtGui import QWheelEvent
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication, QFileDialog

from judging import SIZE, choose, colour_at, judge_window, line, near, pick_words, press, write_pictures
from pemlo.gui.judge.viewer.placement import Mode
from window import run_action, settle, without_advice


@pytest.fixture(scope="module")
def pictures(tmp_path_factory):
    return write_pictures(tmp_path_factory.mktemp("film"))


@pytest.fixture(autouse=True)
def _quick(monkeypatch):
    without_advice(monkeypatch)


@pytest.fixture
def window(qtbot, pictures):
    return judge_window(qtbot, pictures)


def test_the_reference_is_the_cleanest_and_numbers_are_measured(qtbot, window):
    judge = window.judge
    assert judge.pair.right.path.name == "n256.exr"
    choose(qtbot, window, "left", "16 samples")
    error = float(line(window, "error").split()[0])
    grain = float(line(window, "grain").split(",")[0])
    assert error == pytest.approx(grain, rel=0.1)
    assert line(window, "softening") == "none, not denoised"
    assert "dB" in line(window, "ꟻLIP, SSIM, PSNR")


def test_denoised_pictures_show_their_softening_and_what_they_are_worth(qtbot, window):
    choose(qtbot, window, "left", "16 samples, frame, seed 1")
    assert float(line(window, "softening").split()[0]) > 2
    words = window.judge.sheet.worth.text()
    assert "without" in words
    assert "softens the picture" in words


def test_ways_of_looking(qtbot, window):
    judge, canvas = window.judge, window.judge.canvas
    choose(qtbot, window, "left", "4 samples")
    press(window, Qt.Key.Key_1, qtbot)
    assert canvas.placement.zoom == 1.0
    left, right = (judge.reader.now.pixels[side][0] for side in ("left", "right"))
    middle = canvas.width() // 2, canvas.height() // 2
    x, y = SIZE[0] // 2 + 20, SIZE[1] // 2 + 10
    at = middle[0] + 20, middle[1] + 10

    def rgb(pixels):
        return tuple(int(pixels[y, x] >> shift & 0xFF) for shift in (16, 8, 0))

    canvas.placement.line = 0.95  # the left picture is everywhere but at the edge
    assert near(colour_at(canvas, *at), rgb(left), pixels=left, x=x, y=y)
    canvas.placement.line = 0.05
    assert near(colour_at(canvas, *at), rgb(right), pixels=right, x=x, y=y)
    press(window, Qt.Key.Key_X, qtbot)
    assert canvas.placement.mode is Mode.SWAP
    first = colour_at(canvas, *at)
    press(window, Qt.Key.Key_X, qtbot)
    assert colour_at(canvas, *at) != first
    press(window, Qt.Key.Key_D, qtbot)
    assert canvas.placement.mode is Mode.DIFFERENCE
    gentle = colour_at(canvas, *at)
    judge.controls.times.setCurrentText("×64")
    judge.controls.times.activated.emit(6)
    settle(qtbot, window)
    assert colour_at(canvas, *at) != gentle
    QTest.mouseClick(judge.controls.modes[Mode.BESIDE], Qt.MouseButton.LeftButton)
    assert [name for name, _ in canvas.placement.views()] == ["left", "right"]


def test_zoom_keeps_the_place_under_the_cursor_and_pan_is_by_hand(qtbot, window):
    canvas = window.judge.canvas
    at = QPointF(canvas.width() * 0.6, canvas.height() * 0.4)
    before = canvas.placement.place(at)
    wheel = QWheelEvent(at, canvas.mapToGlobal(at), QPoint(), QPoint(0, 120), Qt.MouseButton.NoButton,
                        Qt.KeyboardModifier.NoModifier, Qt.ScrollPhase.NoScrollPhase, False)  # fmt: skip
    zoom = canvas.placement.zoom
    QApplication.sendEvent(canvas, wheel)
    assert canvas.placement.zoom > zoom
    assert canvas.placement.place(at).x() == pytest.approx(before.x(), abs=0.01)
    assert canvas.placement.place(at).y() == pytest.approx(before.y(), abs=0.01)
    start = QPoint(20, 40)
    held = canvas.placement.place(QPointF(start))
    QTest.mousePress(canvas, Qt.MouseButton.LeftButton, pos=start)
    QTest.mouseMove(canvas, QPoint(60, 70))
    QTest.mouseRelease(canvas, Qt.MouseButton.LeftButton, pos=QPoint(60, 70))
    assert canvas.placement.place(QPointF(60, 70)).x() == pytest.approx(held.x(), abs=0.1)
    press(window, Qt.Key.Key_F, qtbot)
    assert canvas.placement.zoom in (1.0, 2.0, 3.0, 4.0)


def test_the_line_is_dragged_and_turned(qtbot, window):
    canvas = window.judge.canvas
    start = QPoint(canvas.width() // 2, 30)
    QTest.mousePress(canvas, Qt.MouseButton.LeftButton, pos=start)
    QTest.mouseMove(canvas, QPoint(120, 30))
    QTest.mouseRelease(canvas, Qt.MouseButton.LeftButton, pos=QPoint(120, 30))
    assert canvas.placement.line == pytest.approx(120 / canvas.width(), abs=0.01)
    press(window, Qt.Key.Key_T, qtbot)
    assert not canvas.placement.upright


def test_values_under_the_cursor_are_those_of_the_files(qtbot, window):
    judge = window.judge
    values = judge.reader.values_at((7, 9))
    for side in ("left", "right"):
        with_oiio = oiio.ImageBuf(str(getattr(judge.pair, side).path)).getpixel(7, 9)[:3]
        assert values[side][0] == pytest.approx(with_oiio, rel=1e-5)
    canvas = judge.canvas
    QTest.mouseMove(canvas, QPoint(canvas.width() // 2, canvas.height() // 2))
    qtbot.waitUntil(lambda: "levels" in judge.controls.values.text())


def test_a_region_has_its_own_numbers_and_becomes_the_next_ladder(qtbot, window):
    judge, canvas = window.judge, window.judge.canvas
    choose(qtbot, window, "left", "4 samples")
    press(window, Qt.Key.Key_1, qtbot)
    one, other = (
        canvas.placement.point(QPointF(*place), canvas.placement.views()[0][1]).toPoint()
        for place in ((20, 30), (84, 94))
    )
    judge.controls.region.click()  # no key needs to be held
    QTest.mousePress(canvas, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier, one)
    QTest.mouseMove(canvas, other)
    QTest.mouseRelease(canvas, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier, other)
    judge.controls.region.click()
    assert not canvas.drawing_region
    settle(qtbot, window)
    assert judge.sheet.region_lines.shown
    assert "px at" in judge.sheet.region_heading.text()
    left, top, right, bottom = canvas.region
    assert abs(left - 20) <= 1
    assert abs(bottom - 94) <= 2
    wanted = []
    judge.region_wanted.disconnect()
    judge.region_wanted.connect(wanted.append)
    QTest.mouseClick(judge.sheet.to_trials, Qt.MouseButton.LeftButton)
    shot, frame, region = wanted[0]
    assert (shot, frame) == ("010", 10)
    width, height = window.document.project.size_of(window.document.project.shot("010"))
    assert region == tuple(
        round(edge * full / size)
        for edge, full, size in zip((left, top, right, bottom), (width, height) * 2, SIZE * 2, strict=True)
    )
    QTest.mouseClick(canvas, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.ShiftModifier, one)
    assert canvas.region is None
    assert not judge.sheet.region_lines.isVisible()


def test_the_worst_spots_one_after_another(qtbot, window):
    judge = window.judge
    choose(qtbot, window, "left", "4 samples")
    press(window, Qt.Key.Key_W, qtbot)
    first = judge.canvas.spot
    assert first[1].startswith("worst spot")
    press(window, Qt.Key.Key_W, qtbot)
    assert judge.canvas.spot[1].startswith("spot 2")
    assert float(judge.canvas.spot[1].split()[-1]) <= float(first[1].split()[-1])
    plain = judge.canvas.grab().toImage()
    press(window, Qt.Key.Key_M, qtbot)
    assert judge.canvas.grab().toImage() != plain
    press(window, Qt.Key.Key_M, qtbot)
    assert "does not tell its light apart" in judge.controls.lacking.text()
    assert judge.canvas.grab().toImage() == plain
    press(window, Qt.Key.Key_M, qtbot)
    assert judge.controls.map.currentText() == "no map"


def test_exposure_and_channels(qtbot, window):
    judge = window.judge
    choose(qtbot, window, "left", "4 samples")
    before = line(window, "grain")
    judge.controls.exposure.setCurrentText("exposure -2.0")
    judge.controls.exposure.activated.emit(judge.controls.exposure.currentIndex())
    settle(qtbot, window)
    assert line(window, "grain") != before
    assert judge.findings.found.measured.grain.mean > 0
    judge.controls.part.setCurrentText("variance")
    judge.controls.part.activated.emit(0)
    settle(qtbot, window)
    assert not judge.reader.now.loaded["left"].is_light
    judge.controls.part.setCurrentText("red")
    judge.controls.part.activated.emit(0)
    settle(qtbot, window)
    grey = judge.reader.now.pixels["left"][0]
    assert ((grey >> 16 & 0xFF) == (grey & 0xFF)).all()


def test_the_seat_is_kept_with_the_project_and_changes_what_is_seen(qtbot, window):
    form = window.judge.sheet.conditions
    choose(qtbot, window, "left", "4 samples")
    flip, grain = line(window, "ꟻLIP, SSIM, PSNR").split(",")[0], window.judge.findings.found.measured.grain.mean
    pick_words(qtbot, window, form.viewing, "phone in the hand")
    assert window.document.project.delivery.seen_from == "phone in the hand"
    assert line(window, "ꟻLIP, SSIM, PSNR").split(",")[0] != flip
    run_action(window, "undo")
    settle(qtbot, window)
    assert form.viewing.currentText() == "desk"
    form.viewing_chosen.emit("300")
    form.as_seen.setChecked(True)
    settle(qtbot, window)
    assert form.viewing.currentText() == "300 px a degree"
    assert window.judge.findings.found.measured.grain.mean < 0.5 * grain


def test_files_can_be_said_to_hold_codes_and_a_view_can_be_chosen(qtbot, window, tmp_path, monkeypatch):
    import PyOpenColorIO as ocio
    from PySide6.QtWidgets import QInputDialog

    judge, form = window.judge, window.judge.sheet.conditions
    choose(qtbot, window, "left", "4 samples")
    before = judge.reader.values_at((5, 5))["left"]
    pick_words(qtbot, window, form.holds, "display levels")
    assert judge.reader.values_at((5, 5))["left"][0][2] < before[0][2]  # codes taken for light were too bright
    pick_words(qtbot, window, form.holds, "by format")
    config = ocio.Config()
    config.addColorSpace(ocio.ColorSpace(name="light"))
    config.setRole(ocio.ROLE_SCENE_LINEAR, "light")
    config.addDisplayView("screen", "as it is", "light")
    path = tmp_path / "our.ocio"
    path.write_text(config.serialize())
    monkeypatch.setattr(QFileDialog, "getOpenFileName", lambda *_: (str(path), ""))
    monkeypatch.setattr(QInputDialog, "getItem", lambda *_, **__: ("screen / as it is", True))
    pick_words(qtbot, window, form.display, "a view…")
    light, codes = judge.reader.values_at((5, 5))["left"]
    assert codes == pytest.approx([255 * min(max(value, 0), 1) for value in light], abs=0.1)
    assert form.display.currentText() == "screen / as it is"
    path.write_text("no configuration")
    monkeypatch.setattr(QFileDialog, "getOpenFileName", lambda *_: (str(tmp_path / "none.ocio"), ""))
    pick_words(qtbot, window, form.display, "a view…")
    assert "colour configuration" in window.problems.words
    assert form.display.currentText() == "screen / as it is"


def test_a_sequence_plays_steps_and_shows_its_flicker(qtbot, window, pictures):
    judge = window.judge
    judge.choosing.show_pair(judge.row.take_file(pictures / "run.0002.exr"), None)
    settle(qtbot, window)
    player = judge.player
    assert list(player.runs) == ["left"]
    assert player.missing() == (4,)
    assert "missing: 4" in judge.play_bar.words.text()
    qtbot.waitUntil(lambda: player.ahead == (6, 6), timeout=20_000)
    player.fps = 100.0
    assert player.frame == 2  # the one that was chosen
    press(window, Qt.Key.Key_Period, qtbot)
    assert player.frame == 3
    QTest.mouseMove(judge.canvas, QPoint(judge.canvas.width() // 2, judge.canvas.height() // 2))
    assert "levels" not in judge.controls.values.text()  # values were read of another frame
    judge.controls.exposure.setCurrentText("exposure +1.0")
    judge.controls.exposure.activated.emit(judge.controls.exposure.currentIndex())
    qtbot.waitUntil(lambda: player.ahead == (6, 6), timeout=20_000)
    press(window, Qt.Key.Key_Space, qtbot)
    assert player.playing
    qtbot.waitUntil(lambda: player.tally.due > 30, timeout=10_000)
    press(window, Qt.Key.Key_Space, qtbot)
    assert not player.playing
    assert player.tally.dropped < player.tally.due
    judge.play_bar.range.setText("2-3")
    judge.play_bar.range.editingFinished.emit()
    assert (player.first, player.last) == (2, 3)
    QTest.mouseClick(judge.play_bar.flicker, Qt.MouseButton.LeftButton)
    settle(qtbot, window)
    values = {frame: one.value for frame, one in player.flicker["left"].items()}
    assert list(values) == [2]  # 4 is missing: only 2 lies between two neighbours
    assert 2 / 8 < values[2] < 6 / 8  # of blocks of 8 x 8 px
    assert judge.play_bar.plot.isVisible()
    assert "every second frame, left: held" in judge.play_bar.words.text()
    assert player.stepping["left"][0] < 2  # nothing moves: only noise is left, and most of that is taken out


def test_a_damaged_picture_is_told_and_nothing_is_lost(qtbot, window, tmp_path):
    bad = tmp_path / "bad.exr"
    bad.write_text("this is no picture")
    judge = window.judge
    trials = window.document.project.trials
    judge.choosing.show_pair(judge.row.take_file(bad), None)
    settle(qtbot, window)
    assert "bad.exr" in window.problems.words
    assert window.document.project.trials == trials
    choose(qtbot, window, "left", "4 samples")
    assert line(window, "error")


def test_pictures_dropped_here_are_looked_at_and_become_no_trials(qtbot, window, pictures):
    trials = window.document.project.trials
    window.dropped.take_in_judge([str(pictures / "n4.exr"), str(pictures / "d1.exr")])
    settle(qtbot, window)
    assert [one.path.name for one in (window.judge.pair.left, window.judge.pair.right)] == ["n4.exr", "d1.exr"]
    assert window.document.project.trials == trials
    assert float(line(window, "error").split()[0]) > 1  # against the right picture
    window.judge.commands.mark_good()
    assert "no trial" in window.problems.words


def test_a_shot_without_pictures_says_what_to_do(qtbot, window):
    window.pick(("020",))
    settle(qtbot, window)
    assert window.judge.empty.isVisible()
    assert "Render trials in Trials" in window.judge.empty.text()
    window.judge.commands.mark_good()
    assert window.problems.isVisible()
