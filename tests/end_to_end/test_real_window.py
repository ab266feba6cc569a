"""A few steps in a real X server, where focus, fonts and painting are the platform's own."""

import os

import pytest
from PySide6.QtCore import Qt
from PySide6.QtGui import QGuiApplication
from PySide6.QtTest import QTest

from pemlo.demo import demo_project
from window import open_window, settle, type_in_cell

pytestmark = pytest.mark.skipif(
    os.environ.get("QT_QPA_PLATFORM") != "xcb", reason="only where there is an X server (./dev test starts one)"
)


def test_the_demo_is_changed_and_undone(qtbot):
    assert QGuiApplication.platformName() == "xcb"
    window = open_window(qtbot, demo_project(), plots=True)
    qtbot.waitExposed(window)
    window.activateWindow()
    type_in_cell(qtbot, window.brief.machines, 0, "count", "60")
    settle(qtbot, window)
    assert window.verdict.headline.text().startswith("Makes")
    QTest.keyClick(window, Qt.Key.Key_Z, Qt.KeyboardModifier.ControlModifier)
    settle(qtbot, window)
    assert window.verdict.headline.text().startswith("Misses")
    QTest.keyClick(window, Qt.Key.Key_2, Qt.KeyboardModifier.AltModifier)
    assert window.trials.isVisible()
    picture = window.grab()
    assert picture.width() == window.width() * picture.devicePixelRatio()
