"""No text of any stage is cut or lies on another: at five sizes, and with every text a third longer."""

import os
import subprocess
import sys

import pytest
from PySide6.QtWidgets import QAbstractButton, QApplication, QComboBox, QLabel, QSlider, QWidget

from pemlo.demo import demo_project
from pemlo.gui.stages import JUDGE, STAGES
from room import cut_texts, longer_texts, overlaps
from window import settle, shared_window

LARGER = float(os.environ.get("QT_SCALE_FACTOR", "1"))  # how much larger all text is
SCREENS = ((1000, 640), (1100, 700), (1280, 800), (1920, 1080), (2560, 1440))
SIZES = tuple((round(wide / LARGER), round(high / LARGER)) for wide, high in (SCREENS if LARGER == 1 else SCREENS[::2]))
NUMBERS = range(len(STAGES))


@pytest.fixture(scope="module")
def window(qapp, tmp_path_factory):
    with shared_window(tmp_path_factory.mktemp("room"), demo_project()) as made:
        yield made


def lay_out():
    """Let layouts that depend on each other settle: each asks the next in a turn of its own."""
    for _ in range(10):
        QApplication.processEvents()


@pytest.mark.parametrize("size", SIZES, ids=lambda size: f"{size[0]}x{size[1]}")
@pytest.mark.parametrize("stage", NUMBERS, ids=[one.title for one in STAGES])
def test_nothing_is_cut(qtbot, window, stage, size):
    window.resize(*size)
    window.show_stage(stage)
    settle(qtbot, window)
    lay_out()
    assert cut_texts(window) + overlaps(window) == []


@pytest.mark.parametrize("size", SIZES[:3], ids=lambda size: f"{size[0]}x{size[1]}")
@pytest.mark.parametrize("stage", NUMBERS, ids=[one.title for one in STAGES])
def test_texts_that_are_a_third_longer_have_room(qtbot, window, stage, size):
    window.resize(*size)
    window.show_stage(stage)
    settle(qtbot, window)
    with longer_texts(window.stack.currentWidget()):
        lay_out()
        found = cut_texts(window.stack) + overlaps(window.stack)
    assert found == []


@pytest.mark.parametrize("size", SIZES[:3], ids=lambda size: f"{size[0]}x{size[1]}")
def test_a_sequence_in_judge_has_room(qtbot, window, size):
    window.resize(*size)
    window.pick(("040",))
    window.show_stage(JUDGE)
    settle(qtbot, window)
    judge = window.judge
    assert judge.play_bar.isVisibleTo(window), "shot 040 has neighbouring frames"
    lay_out()
    area = window.stack.currentWidget()
    assert cut_texts(window) + overlaps(window) == []
    if size[0] >= 1280 / LARGER:
        assert area.horizontalScrollBar().maximum() == 0, "what is beside the pictures is in view"


@pytest.mark.parametrize("stage", NUMBERS, ids=[one.title for one in STAGES])
def test_what_cannot_be_used_says_why(qtbot, window, stage):
    window.show_stage(stage)
    settle(qtbot, window)
    controls = (QAbstractButton, QComboBox, QSlider)
    off = [one for one in window.findChildren(QWidget) if isinstance(one, controls) and one.isVisible()]
    assert [one.accessibleName() for one in off if not one.isEnabled() and not one.property("why not")] == []


def test_what_is_cut_or_lies_on_another_is_found(qtbot):
    root = QWidget()
    qtbot.addWidget(root)
    cut, whole, other = QLabel("as wide as this", root), QLabel("whole", root), QLabel("over it", root)
    cut.setGeometry(0, 0, 30, 20)
    whole.setGeometry(0, 40, 200, 20)
    other.setGeometry(100, 45, 200, 20)
    root.resize(400, 100)
    root.show()
    assert [words.partition("lacks")[0] for words in cut_texts(root)] == ["QLabel: “as wide as this” "]
    assert overlaps(root) == ["“whole” lies on “over it”"]


@pytest.mark.skipif(LARGER != 1, reason="this is it")
@pytest.mark.parametrize("larger", [pytest.param("1.33", marks=pytest.mark.nightly), "2"])
def test_nothing_is_cut_with_larger_text(larger):
    """Qt takes the size of text at its start: the walk is made again in a program of its own."""
    walk = subprocess.run(
        [sys.executable, "-m", "pytest", "-q", "-p", "no:cacheprovider", __file__, "-k", "test_nothing_is_cut"],
        env={**os.environ, "QT_SCALE_FACTOR": larger, "QT_QPA_PLATFORM": "offscreen"},
        capture_output=True, text=True, check=False, timeout=300,
    )  # fmt: skip
    assert walk.returncode == 0, walk.stdout[-3000:]
    assert " passed" in walk.stdout
