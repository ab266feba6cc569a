"""The question whether a command that came with a project may run on this computer. GUI thread."""

from collections.abc import Callable, Sequence

from PySide6.QtWidgets import QDialog, QHBoxLayout, QPlainTextEdit, QVBoxLayout, QWidget

from pemlo.core.project.render_ways import RenderWay
from pemlo.gui.common.labels import button, label


class AllowForm(QDialog):
    """Shows what would be run, and asks."""

    def __init__(self, parent: QWidget, way: RenderWay, lines: Sequence[str], allow: Callable[[], None]) -> None:
        super().__init__(parent)
        self._allow = allow
        self.setWindowTitle("Run this command?")
        shell = " in a shell" if way.shell else ""
        words = (
            f"“{way.name}” came with the project, and its command was never run on this computer. It would run{shell} "
            "with all that you may do. Allow it only if you know it."
        )
        self.text = QPlainTextEdit("\n".join([way.command, "", *lines]))
        self.text.setReadOnly(True)
        self.text.setAccessibleName("What would be run")
        row = QHBoxLayout()
        row.addStretch(1)
        cancel = button("Do not run it", "Run nothing", self.reject, main=True)
        row.addWidget(cancel)
        row.addWidget(button("Allow it here", "Run it, now and later, as long as it stays the same", self._on_allow))
        column = QVBoxLayout(self)
        column.addWidget(label(words, wrap=True))
        column.addWidget(self.text, 1)
        column.addLayout(row)
        self.resize(640, 320)
        cancel.setFocus()

    def _on_allow(self) -> None:
        self.accept()
        self._allow()
