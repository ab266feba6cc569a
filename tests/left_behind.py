"""Nothing may be left behind by a test of the interface: no thread at work, and no window that is open."""

import threading

import pytest
from PySide6.QtWidgets import QApplication


@pytest.fixture(autouse=True)
def nothing_left_behind(qapp):
    windows = {widget for widget in QApplication.topLevelWidgets() if widget.isVisible()}
    threads = set(threading.enumerate())
    yield
    qapp.processEvents()
    # Widgets that pytest-qt closes after this fixture are its own; what else is open was forgotten.
    left = {w for w in QApplication.topLevelWidgets() if w.isVisible() and w.isModal()} - windows
    assert not left, f"left open: {left}"
    alive = [t for t in set(threading.enumerate()) - threads if t.is_alive() and not t.daemon]
    assert not alive, f"left running: {alive}"
