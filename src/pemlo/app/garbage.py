"""Frees what only refers to itself, on the GUI thread. Lives there.

Python collects garbage on whichever thread happens to allocate. A widget that is collected on another thread than its
own takes the process down, so nothing is collected by itself: a timer looks as often as it is worth it.
"""

import gc
import sys

from PySide6.QtCore import QObject, QTimer

EVERY_MS = 1000


class Garbage(QObject):
    """Collects garbage in place of Python's own collector, which is off until the last of us has ended."""

    _working = 0
    _loaded = 0  # modules when what they hold was last put aside, by any of us

    def __init__(self, parent: QObject) -> None:
        super().__init__(parent)
        Garbage._working += 1
        gc.disable()
        self._put_aside()
        self._timer = QTimer(self)
        self._timer.timeout.connect(self._look)
        self._timer.start(EVERY_MS)

    def _put_aside(self) -> bool:
        """Put aside what is there whenever modules were loaded; return whether they were.

        What modules hold is nearly all there is and stays for good: going through it would hold up the window.
        """
        before, Garbage._loaded = Garbage._loaded, len(sys.modules)
        if Garbage._loaded == before:
            return False
        gc.freeze()
        return True

    def end(self) -> None:
        """Leave it to Python again; take back what was put aside, so that it can be let go when the process ends."""
        if not self._timer.isActive():
            return
        self._timer.stop()
        Garbage._working -= 1
        if not Garbage._working:
            Garbage._loaded = 0
            gc.unfreeze()
            gc.enable()

    def _look(self) -> None:
        """Collect the oldest generation that has grown beyond what Python would let it."""
        if self._put_aside():
            return
        counts, most = gc.get_count(), gc.get_threshold()
        due = [generation for generation in (0, 1, 2) if counts[generation] > most[generation]]
        if due:
            gc.collect(due[-1])
