"""Write the pictures of docs/screenshots from the demo project.

./dev shots [folder] [width height]
"""

import os
import sys
import tempfile
from pathlib import Path

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
os.environ["PEMLO_STATE_FOLDER"] = tempfile.mkdtemp()
os.environ["XDG_CONFIG_HOME"] = tempfile.mkdtemp()

from PySide6.QtCore import QEventLoop, QTimer
from PySide6.QtWidgets import QApplication

from pemlo.app.document import Document
from pemlo.app.error_centre import ErrorCentre
from pemlo.app.preferences import Preferences
from pemlo.demo import demo_project
from pemlo.gui.main_window import BRIEF, TRIALS, MainWindow, make_window

FOLDER = Path(__file__).parents[1] / "docs/screenshots"


def wait(window: MainWindow) -> None:
    """Let the background work end, and everything be painted."""
    loop = QEventLoop()
    timer = QTimer()
    timer.timeout.connect(lambda: loop.quit() if not window.jobs.running else None)
    timer.start(50)
    loop.exec()
    QApplication.processEvents()


def main() -> None:
    folder = Path(sys.argv[1]) if len(sys.argv) > 1 else FOLDER
    folder.mkdir(parents=True, exist_ok=True)
    app = QApplication([])
    window = make_window(Document(demo_project()), ErrorCentre(), Preferences())
    window.resize(*(map(int, sys.argv[2:4]) if len(sys.argv) > 3 else (1280, 800)))
    window.show()
    window.brief.shots.setFocus()
    window.load_plots()
    wait(window)
    for theme in ("Day", "Dim"):
        window.show_theme(theme)
        for stage, name in ((BRIEF, "brief"), (TRIALS, "trials")):
            window.pick(("070",))
            window.show_stage(stage)
            wait(window)
            window.grab().save(str(folder / f"{name}-{theme.lower()}.png"))
    window.trials.table.pick([len(window.trials.model.rows) - 3])
    window.trials.show_picture()
    wait(window)
    window.trials.picture_view.resize(1000, 640)
    window.trials.picture_view.grab().save(str(folder / "picture-dim.png"))
    window.close()
    app.quit()


if __name__ == "__main__":
    main()
