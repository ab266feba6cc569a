"""The line under the table of trials in which a time is typed. GUI thread."""

from collections.abc import Callable

from PySide6.QtWidgets import QHBoxLayout, QLineEdit, QWidget

from pemlo.gui.common.labels import button
from pemlo.gui.common.plain import set_tip

# name, width share (about its letters), shown while empty, tip
FIELDS = (
    ("frame", 5, "frame", "Which frame you timed"),
    ("samples", 7, "samples", "Samples a pixel; empty for as asked"),
    ("noise_threshold", 8, "threshold", "Noise threshold; empty for as asked, or for fixed sampling with samples"),
    ("denoise", 7, "denoise", "Way of denoising; empty for as asked"),
    ("resolution_percent", 6, "size %", "Resolution percentage; empty for as asked"),
    ("way", 5, "way", "Another engine, method or quality, by a name of your own: quick engine, depth 20"),
    ("region_percent", 6, "part %", "Which part of the frame you timed, % of its pixels; empty for all of it"),
    ("machine", 7, "machine", "Which machine ran it; empty for the reference machine"),
    ("seconds", 8, "time: 4:02", "What the frame took: 4:02, 4m02, 242, 1h03; a guess: ~4:02, a third, 40 %"),
)


class EntryLine(QWidget):
    """Fields for a new trial; Enter in any of them adds it."""

    def __init__(self, add: Callable[[dict[str, str]], bool]) -> None:
        super().__init__()
        self.setObjectName("entry")
        self._add = add
        self.inputs: dict[str, QLineEdit] = {}
        row = QHBoxLayout(self)
        row.setContentsMargins(0, 4, 0, 6)
        row.setSpacing(6)
        for name, share, shown, tip in FIELDS:
            made = QLineEdit()
            made.setPlaceholderText(shown)
            set_tip(made, tip)
            made.setAccessibleName(f"New trial, {shown}")
            made.setMinimumWidth(44)
            made.returnPressed.connect(self._on_add)
            self.inputs[name] = made
            row.addWidget(made, share)
        row.addWidget(button("Add trial", "Add a trial with what you typed", self._on_add))

    def _on_add(self) -> None:
        typed = {name: made.text() for name, made in self.inputs.items()}
        if self._add(typed):
            for name in ("frame", "seconds"):
                self.inputs[name].clear()
            self.inputs["frame"].setFocus()
