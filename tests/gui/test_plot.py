"""The plot: what is drawn can be picked, asked, and read by a screen reader."""

from dataclasses import dataclass

import numpy as np
import pytest
from PySide6.QtCore import QPoint, QPointF, Qt
from PySide6.QtTest import QTest

from pemlo.gui.common.axes import doubling_axis, duration_axis, percent_axis
from pemlo.gui.common.colours import use
from pemlo.gui.common.plot import Plot


@dataclass(frozen=True)
class Shown:
    words: str
    index: int


@pytest.fixture
def plot(qtbot):
    made = Plot("Ladder", duration_axis("time of a frame"), doubling_axis("samples"))
    qtbot.addWidget(made)
    made.resize(400, 260)
    x, y = np.log10([4.0, 64.0]), np.log10([2.0, 200.0])
    made.add_line(x, y, "ink")
    made.add_dots([Shown("4 samples, 2 s", 3), Shown("64 samples, 200 s", 7)], x, y, "ink")
    made.set_range(x, y)
    made.show()
    return made


def dark_at(plot, x, y):
    """Whether something is drawn at a place, or within two px of it."""
    image, at = plot.grab().toImage(), plot.place(x, y).toPoint()
    around = [image.pixelColor(at + QPoint(a, b)).lightness() for a in range(-2, 3) for b in range(-2, 3)]
    return min(around) < 60


def test_a_dot_is_picked_by_a_click_and_nothing_beside_it(qtbot, plot):
    picked = []
    plot.picked.connect(picked.append)
    at = plot.place(np.log10(64), np.log10(200))
    QTest.mouseClick(plot, Qt.MouseButton.LeftButton, pos=at.toPoint())
    QTest.mouseClick(plot, Qt.MouseButton.LeftButton, pos=(at + QPointF(-60, 60)).toPoint())
    assert picked == [7]
    assert plot.dot_at(at).words == "64 samples, 200 s"


def test_a_line_lies_where_its_values_say(plot):
    assert dark_at(plot, np.log10(16), np.log10(20))
    assert not dark_at(plot, np.log10(16), np.log10(100))


def test_a_screen_reader_gets_axes_words_and_values(plot):
    plot.add_words("as planned: 3 m", 1.0, 1.0, (0, 0), "ink")
    plot.set_range(np.array([0.0, 2.0]), np.array([0.0, 3.0]))
    said = plot.accessibleDescription()
    assert said.startswith("time of a frame over samples. as planned: 3 m. ")
    assert said.endswith("4 samples, 2 s; 64 samples, 200 s")


def test_the_right_axis_has_a_scale_of_its_own(plot):
    plot.set_right(percent_axis("noise left"), np.log10([0.01, 1.0]))
    left, right = plot.place(1.0, -1.0), plot.place(1.0, -1.0, right=True)
    assert left.x() == right.x()
    assert right.y() == pytest.approx(plot.field.center().y(), abs=1.0)


def test_words_do_not_lie_on_each_other(plot):
    def ink():
        image = plot.grab().toImage()
        return sum(image.pixelColor(x, y).red() > 180 and image.pixelColor(x, y).green() < 90
                   for x in range(image.width()) for y in range(image.height()))  # fmt: skip

    plot.add_words("mmmm", 1.2, 1.0, (0.5, 0.5), "limit")
    alone = ink()
    plot.add_words("mmmm", 1.2, 1.0, (0.5, 0.5), "limit")
    assert ink() > 1.8 * alone > 0


def test_a_line_is_not_covered_by_a_band_that_comes_later(plot):
    assert dark_at(plot, np.log10(16), np.log10(20))
    plot.add_band(np.array([0.6, 1.8]), np.array([0.3, 0.3]), np.array([2.3, 2.3]), "time_light")
    assert dark_at(plot, np.log10(16), np.log10(20))


def test_nothing_is_left_after_it_was_cleared(plot):
    plot.show_ring(16.0, 20.0, "ink")
    plot.clear()
    plot.set_range(np.array([0.0, 2.0]), np.array([0.0, 3.0]))
    assert plot.lines == []
    assert plot.dot_at(plot.place(np.log10(64), np.log10(200))) is None
    assert "samples, 2 s" not in plot.accessibleDescription()


def test_another_theme_changes_the_ink_of_what_is_shown(plot):
    day = plot.grab().toImage()
    try:
        use("Dim")
        assert plot.grab().toImage() != day
    finally:
        use("Day")
    assert plot.grab().toImage() == day
