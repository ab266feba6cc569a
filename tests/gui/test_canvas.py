"""The painted pictures: what is where, at which size, under which hands."""

import numpy as np
import pytest
from PySide6.QtCore import QPoint, QPointF, Qt
from PySide6.QtGui import QImage, QWheelEvent
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication

from pemlo.core.appraisal.noise_sources import SourceMap
from pemlo.core.measure.tiles import TileMap
from pemlo.gui.common.colours import SURROUND
from pemlo.gui.judge.viewer.canvas import Canvas
from pemlo.gui.judge.viewer.overlays import noise_overlay, source_overlay
from pemlo.gui.judge.viewer.painting import Sizes
from pemlo.gui.judge.viewer.placement import Mode

WIDE, HIGH = 400, 300


def flat(colour, size=(WIDE, HIGH)):
    """A picture of one colour, with whole, half and quarter size."""
    images = []
    for times in (1, 2, 4):
        image = QImage(size[0] // times, size[1] // times, QImage.Format.Format_RGB32)
        image.fill(Qt.GlobalColor(colour))
        images.append(image)
    return Sizes(tuple(images))


@pytest.fixture
def canvas(qtbot):
    made = Canvas()
    qtbot.addWidget(made)
    made.resize(WIDE, HIGH)
    made.show()
    made.show_pictures(
        {"left": flat(Qt.GlobalColor.red), "right": flat(Qt.GlobalColor.blue), "difference": flat(Qt.GlobalColor.green)}
    )
    return made


def at(canvas, x, y):
    return canvas.grab().toImage().pixelColor(x, y).getRgb()[:3]


RED, BLUE, GREEN = (255, 0, 0), (0, 0, 255), (0, 255, 0)


def drag(canvas, start, end, modifier=Qt.KeyboardModifier.NoModifier):
    QTest.mousePress(canvas, Qt.MouseButton.LeftButton, modifier, QPoint(*start))
    QTest.mouseMove(canvas, QPoint(*end))
    QTest.mouseRelease(canvas, Qt.MouseButton.LeftButton, modifier, QPoint(*end))


def test_a_line_splits_them_and_can_be_dragged_and_turned(canvas):
    assert (at(canvas, 100, 100), at(canvas, 300, 100)) == (RED, BLUE)
    drag(canvas, (200, 250), (350, 250))
    assert at(canvas, 300, 100) == RED
    canvas.turn_line()
    drag(canvas, (200, int(0.875 * HIGH)), (200, 60))
    assert (at(canvas, 300, 40), at(canvas, 100, 100)) == (RED, BLUE)


def test_next_to_each_other_swapped_and_their_difference(canvas):
    canvas.show_mode(Mode.BESIDE)
    assert (at(canvas, 100, 150), at(canvas, 300, 150)) == (RED, BLUE)
    canvas.show_mode(Mode.DIFFERENCE)
    assert at(canvas, 100, 150) == GREEN
    canvas.swap()
    assert at(canvas, 100, 150) == BLUE
    canvas.swap()
    assert at(canvas, 100, 150) == RED


def test_one_picture_alone_fills_the_place(canvas):
    canvas.show_pictures({"left": flat(Qt.GlobalColor.red)})
    for mode in Mode:
        canvas.show_mode(mode)
        assert at(canvas, 300, 150) == RED
    canvas.show_pictures({})
    assert at(canvas, 10, 10) == SURROUND.getRgb()[:3]


def test_zoom_goes_in_steps_between_its_ends(canvas):
    seen = []
    canvas.zoom_changed.connect(seen.append)
    canvas.step_zoom(1)
    canvas.step_zoom(-1)
    for _ in range(20):
        canvas.step_zoom(-1)
    assert canvas.placement.zoom == 0.25
    for _ in range(20):
        canvas.step_zoom(1)
    assert canvas.placement.zoom == 16
    assert seen[:2] == [2.0, 1.0]


def test_a_large_picture_is_fitted_in(canvas):
    canvas.show_pictures({"left": flat(Qt.GlobalColor.red, (1600, 1200))})
    assert canvas.placement.zoom == 0.25
    assert at(canvas, 5, 5) == RED


def test_the_place_under_the_wheel_stays(canvas):
    where = QPointF(300, 60)
    for angle in (120, 120, -120):
        before = canvas.placement.place(where)
        QApplication.sendEvent(
            canvas,
            QWheelEvent(where, where, QPoint(), QPoint(0, angle), Qt.MouseButton.NoButton,
                        Qt.KeyboardModifier.NoModifier, Qt.ScrollPhase.NoScrollPhase, False),
        )  # fmt: skip
        after = canvas.placement.place(where)
        assert (after - before).manhattanLength() < 1e-6


def turn(canvas, x, y):
    where = QPointF(200, 150)
    QApplication.sendEvent(
        canvas,
        QWheelEvent(where, where, QPoint(), QPoint(x, y), Qt.MouseButton.NoButton,
                    Qt.KeyboardModifier.NoModifier, Qt.ScrollPhase.NoScrollPhase, False),
    )  # fmt: skip


def test_sideways_does_not_zoom_and_small_moves_come_to_one_step(canvas):
    zoom = canvas.placement.zoom
    for x in (120, -120, 480):
        turn(canvas, x, 0)
        turn(canvas, x, 30)
    assert canvas.placement.zoom == zoom
    seen = []
    for _ in range(24):
        turn(canvas, 0, 10)
        seen.append(canvas.placement.zoom)
    assert len({zoom, *seen}) == 3, "24 small moves are two clicks"
    for _ in range(11):
        turn(canvas, 0, -10)
    assert canvas.placement.zoom == seen[-1], "nothing before a whole click back"
    turn(canvas, 0, -10)
    assert canvas.placement.zoom == seen[15]


def test_pixels_are_squares_from_100_percent_up(canvas):
    """A picture of two alternating columns, eight times as large: no colour that the picture has not."""
    stripes = np.zeros((HIGH, WIDE), np.uint32)
    stripes[:] = 0xFF000000
    stripes[:, ::2] = 0xFFFFFFFF
    image = QImage(stripes.tobytes(), WIDE, HIGH, 4 * WIDE, QImage.Format.Format_RGB32).copy()
    canvas.show_pictures({"left": Sizes((image,))})
    for zoom in (1.0, 3.0, 8.0):
        canvas.set_zoom(zoom)
        shown = canvas.grab().toImage()
        row = [shown.pixelColor(x, 150).red() for x in range(WIDE)]
        assert set(row) == {0, 255}
        edges = np.flatnonzero(np.diff(row))
        assert set(np.diff(edges)) == {int(zoom)}


def test_dragging_moves_both_together_and_hovering_tells_the_pixel(canvas):
    seen = []
    canvas.hovered.connect(seen.append)
    canvas.set_zoom(4.0)
    QTest.mouseMove(canvas, QPoint(100, 100))
    before = seen[-1]
    drag(canvas, (100, 100), (140, 120))
    QTest.mouseMove(canvas, QPoint(141, 121))
    QTest.mouseMove(canvas, QPoint(140, 120))
    assert seen[-1] == before
    canvas.set_zoom(0.25)
    QTest.mouseMove(canvas, QPoint(2, 2))
    assert seen[-1] is None


def test_a_region_is_drawn_inside_the_picture_and_taken_away_by_a_click(canvas):
    drawn = []
    canvas.region_drawn.connect(drawn.append)
    drag(canvas, (30, 40), (90, 120), Qt.KeyboardModifier.ShiftModifier)
    left, top, right, bottom = drawn[-1]
    assert (right - left, bottom - top) == pytest.approx((60, 80), abs=2)
    drag(canvas, (350, 250), (399, 299), Qt.KeyboardModifier.ShiftModifier)
    assert drawn[-1][2:] == pytest.approx((WIDE, HIGH), abs=2)
    QTest.mouseClick(canvas, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.ShiftModifier, QPoint(50, 50))
    assert drawn[-1] is None


def test_arrow_keys_move_the_picture(canvas):
    canvas.set_zoom(2.0)
    before = QPointF(canvas.placement.centre)
    QTest.keyClick(canvas, Qt.Key.Key_Right)
    assert canvas.placement.centre.x() > before.x()
    QTest.keyClick(canvas, Qt.Key.Key_Up)
    assert canvas.placement.centre.y() < before.y()


def test_words_can_be_read_on_any_picture(canvas):
    plain = canvas.grab().toImage()
    canvas.say("one", "the other")
    named = canvas.grab().toImage()
    assert named != plain
    white = sum(named.pixelColor(x, 15).lightness() > 200 for x in range(60))
    dark = sum(named.pixelColor(x, 8).lightness() < 90 for x in range(8, 30))
    assert white
    assert dark


def test_the_noise_map_is_denser_where_it_is_noisier(canvas):
    squares = np.zeros((3, 4))
    squares[:, 2:] = 25.0
    plain = at(canvas, 20, 150), at(canvas, 380, 150)
    canvas.overlay = noise_overlay(TileMap(squares, np.full((3, 4), 1e4), 100, (WIDE, HIGH)))
    canvas.update()
    assert at(canvas, 20, 150) == plain[0]
    assert at(canvas, 380, 150) != plain[1]


def test_sources_are_told_apart_by_strokes(canvas):
    canvas.show_pictures({"left": flat(Qt.GlobalColor.red)})
    plain = canvas.grab().toImage()
    most = np.array([[0, 1, 2, 3]] * 3)
    names = ("shadow", "gloss", "through", "rest")
    canvas.overlay = source_overlay(SourceMap(names, most, np.ones((3, 4)), 100, (WIDE, HIGH)))
    canvas.update()
    marked = canvas.grab().toImage()
    columns = [marked.copy(100 * k + 10, 110, 80, 80) for k in range(4)]
    assert columns[3] == plain.copy(310, 110, 80, 80)
    assert len({bytes(column.constBits()) for column in columns}) == 4
