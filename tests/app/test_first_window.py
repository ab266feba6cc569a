"""What may not be loaded before the window is painted: each of these takes longer than all the rest."""

import os
import subprocess
import sys

HEAVY = ("numpy", "scipy", "numba", "llvmlite", "OpenImageIO", "PyOpenColorIO", "skimage", "pywt", "fileseq",
         "flip_evaluator", "matplotlib")  # fmt: skip
LATER = ("pemlo.core.cost.fit", "pemlo.core.cost.chains", "pemlo.core.trade.options", "pemlo.core.predict.error_model",
         "pemlo.gui.trials.panel", "pemlo.gui.judge.panel", "pemlo.gui.trade.panel", "pemlo_simulators")  # fmt: skip
FIRST_WINDOW = """
import sys
from PySide6.QtWidgets import QApplication
from pemlo.app.document import Document
from pemlo.app.error_centre import ErrorCentre
from pemlo.app.preferences import Preferences
from pemlo.demo import demo_project
from pemlo.gui import start
from pemlo.gui.main_window import MainWindow, make_window
app = QApplication([])
painted = []
paint = MainWindow.paintEvent
def painting(self, event):
    paint(self, event)
    painted.append(sorted(sys.modules))
MainWindow.paintEvent = painting
window = make_window(Document(demo_project()), ErrorCentre(), Preferences())
window.show()
while not painted:
    app.processEvents()
print(*painted[0])
window.close()
"""
LATER_STAGES = """
import sys
from PySide6.QtCore import QEvent, QObject
from PySide6.QtWidgets import QApplication, QWidget
from pemlo.app.document import Document
from pemlo.app.error_centre import ErrorCentre
from pemlo.app.preferences import Preferences
from pemlo.demo import demo_project
from pemlo.gui.main_window import make_window
app = QApplication([])
window = make_window(Document(demo_project()), ErrorCentre(), Preferences())
window.show()
app.processEvents()
class Watch(QObject):
    def eventFilter(self, what, event):
        if event.type() == QEvent.Type.Show and isinstance(what, QWidget) and what.isWindow():
            print(type(what).__name__)
        return False
watch = Watch()
app.installEventFilter(watch)
for stage in (1, 2, 3):
    window.show_stage(stage)
    app.processEvents()
app.removeEventFilter(watch)
window.close()
"""
ESTIMATE = "import pemlo.cli.main, pemlo.cli.estimate, sys; print(*sorted(sys.modules))"


def loaded(code):
    environment = {**os.environ, "PYTHONPATH": os.pathsep.join(sys.path)}
    done = subprocess.run(
        [sys.executable, "-c", code], capture_output=True, text=True, timeout=120, env=environment, check=True
    )
    return done.stdout.split()


def test_nothing_heavy_is_loaded_before_the_window_is_painted():
    modules = loaded(FIRST_WINDOW)
    assert "pemlo.gui.brief.panel" in modules, "the first stage is there"
    assert not [name for name in modules if name.split(".")[0] in HEAVY]
    assert not [name for name in modules if f"{name}.".startswith(tuple(f"{one}." for one in LATER))]


def test_no_part_of_a_later_stage_flashes_up_as_a_window_of_its_own():
    """It would take the keys with it."""
    assert loaded(LATER_STAGES) == []


def test_an_estimate_loads_no_pictures_and_nothing_compiled():
    heavy = {"numba", "llvmlite", "OpenImageIO", "PyOpenColorIO", "skimage", "PySide6"}
    assert not {name.split(".")[0] for name in loaded(ESTIMATE)} & heavy
