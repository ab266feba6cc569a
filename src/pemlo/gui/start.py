"""Starts the window: reads its few arguments, shows it, and loads what is heavy afterwards. GUI thread."""

import argparse
import os
import sys
from collections.abc import Sequence
from pathlib import Path

from PySide6.QtCore import QTimer
from PySide6.QtWidgets import QApplication

from pemlo.app.document import Document
from pemlo.app.error_centre import ErrorCentre
from pemlo.app.preferences import Preferences
from pemlo.core.errors import PemloError
from pemlo.core.foreign import visible
from pemlo.demo import demo_project
from pemlo.gui.main_window import MainWindow, make_window
from pemlo.gui.project_files import empty_project

WRONG_INPUT = 2
SCALE = "QT_SCALE_FACTOR"


def start(arguments: Sequence[str]) -> int:
    """Open the window on a project, the demo, or an empty brief, and return its exit code."""
    parser = argparse.ArgumentParser(prog="pemlo", description="Open the window on a project, or an empty brief.")
    parser.add_argument("project", nargs="?", type=Path)
    parser.add_argument("--demo", action="store_true", help="open the demo project")
    args = parser.parse_args(arguments)
    document = Document(demo_project() if args.demo else empty_project())
    if args.project is not None:
        try:
            document.open(args.project)
        except PemloError as error:
            sys.stderr.write(f"pemlo: {visible(str(error))}\n")
            return WRONG_INPUT
    preferences = Preferences()
    percent = preferences.appearance.text_percent
    if percent != 100 and SCALE not in os.environ:
        os.environ[SCALE] = f"{percent / 100:g}"  # all that is drawn grows with the text; Qt reads it once
    app = QApplication(["pemlo"])
    app.setApplicationName("Pemlo")
    app.setDesktopFileName("pemlo")
    errors = ErrorCentre()
    errors.install()
    window = make_window(document, errors, preferences)
    if args.project is not None:
        preferences.add_recent(args.project)
    window.show()
    QTimer.singleShot(0, lambda: _after_first_paint(window))
    return app.exec()


def _after_first_paint(window: MainWindow) -> None:
    window.brief.first_field.setFocus()
    window.load_stages()
    window.files.offer_recovery()
    window.watcher.look()  # a film that was named here was read before anybody watched
