"""A few steps in a real X server, where focus, fonts and painting are the platform's own."""

import os

import pytest
from PySide6.QtCore import Qt
from PySide6.QtGui import QGuiApplication
from PySide6.QtTest import QTest

from pemlo.demo import demo_project
from window import open_window, run_action, settle, type_in_cell

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
    assert window.verdict.headline.text().startswith("Likely done")
    QTest.keyClick(window, Qt.Key.Key_2, Qt.KeyboardModifier.AltModifier)
    assert window.trials.isVisible()
    picture = window.grab()
    assert picture.width() == window.width() * picture.devicePixelRatio()


def test_a_trial_of_the_demo_is_rendered(qtbot):
    """With a mouse: the card's button, the picture as it refines, the row that lands, and its picture."""
    project = demo_project()
    small = project.delivery.replace(width=96, height=54)
    shots = tuple(shot.replace(asked=shot.asked.replace(samples=32, min_samples=None)) for shot in project.shots)
    window = open_window(qtbot, project.replace(delivery=small, shots=shots, trials=()), plots=True)
    qtbot.waitExposed(window)
    window.activateWindow()
    run_action(window, "trials")
    qtbot.waitUntil(window.trials.card.render_it.isVisible)
    QTest.mouseClick(window.trials.card.render_it, Qt.MouseButton.LeftButton)
    assert window.trials.queue.waiting.isVisible()
    qtbot.waitUntil(lambda: not window.trial_queue.waiting, timeout=240_000)
    settle(qtbot, window)
    (trial,) = window.document.project.trials
    assert trial.seconds > 0
    assert trial.left_out == ""
    where = window.trials.table.visualRect(window.trials.model.index(0, 0)).center()
    viewport = window.trials.table.viewport()
    QTest.mouseClick(viewport, Qt.MouseButton.LeftButton, pos=where)
    QTest.mouseDClick(viewport, Qt.MouseButton.LeftButton, pos=where)
    qtbot.waitUntil(lambda: hasattr(window.trials.pictures, "view") and window.trials.pictures.view.isVisible())
    settle(qtbot, window)
    assert window.trials.pictures.view.canvas.picture.width() == 96
    window.trials.pictures.view.close()
