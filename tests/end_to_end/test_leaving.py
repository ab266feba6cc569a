"""The window closes without a word, whatever is under way."""

import os
import subprocess
import sys

import pytest

PROGRAM = """
import sys
from PySide6.QtCore import QTimer
from PySide6.QtWidgets import QMessageBox
from pemlo.gui import main_window, project_files, start

OWN_MEMO = True

stage, after, edited = int(sys.argv[1]), int(sys.argv[2]), sys.argv[3] == "edited"
show = main_window.MainWindow.show
project_files.ProjectFiles.ask_unsaved = lambda self: QMessageBox.StandardButton.Discard

def shown(self):
    show(self)
    self.show_stage(stage)

    def leave():
        if edited:
            self.document.edit("Set film", lambda project: project.replace(title="Other"))
            self.document.edit("Remove trials", lambda project: project.replace(trials=project.trials[3:]))
        self.close()

    QTimer.singleShot(after, leave)

main_window.MainWindow.show = shown
sys.exit(start.start(["--demo"]))
"""


@pytest.mark.slow
@pytest.mark.parametrize(("stage", "after", "edited"), [(0, 0, "no"), (2, 900, "edited")])
def test_nothing_is_printed_when_the_window_closes(stage, after, edited):
    environment = {**os.environ, "PYTHONPATH": os.pathsep.join(sys.path)}
    done = subprocess.run(
        [sys.executable, "-c", PROGRAM, str(stage), str(after), edited],
        capture_output=True, text=True, timeout=120, env=environment, check=False,
    )  # fmt: skip
    lines = [line for line in done.stderr.splitlines() if "propagateSizeHints" not in line]
    assert (done.returncode, lines) == (0, [])
