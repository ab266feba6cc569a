"""What would be handed over, at its real size: paper as pages, or text. GUI thread."""

from collections.abc import Callable, Sequence
from typing import TYPE_CHECKING

from PySide6.QtCore import Qt, Signal
from PySide6.QtGui import QImage, QKeySequence, QPixmap
from PySide6.QtWidgets import QDialog, QHBoxLayout, QLabel, QPlainTextEdit, QScrollArea, QVBoxLayout, QWidget

from pemlo.core.units import counted
from pemlo.gui.common.fonts import font
from pemlo.gui.common.labels import button, label

if TYPE_CHECKING:
    from pemlo.handover.paper import U8

_GAP = 14


def as_image(page: "U8") -> QImage:
    """Return a page as an image."""
    height, width, _ = page.shape
    return QImage(page.tobytes(), width, height, 3 * width, QImage.Format.Format_RGB888).copy()


class PreviewDialog(QDialog):
    """The dialog; it blocks nothing.

    Parameters
    ----------
    parent : QWidget
    title : str
    saves : sequence of (str, callable)
        What it can be saved as, and what does it.

    Signals
    -------
    print_wanted()
        Its pages are to be printed.
    """

    print_wanted = Signal()

    def __init__(self, parent: QWidget, title: str, saves: Sequence[tuple[str, Callable[[], None]]]) -> None:
        super().__init__(parent)
        self.setWindowTitle(title)
        self.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        self.pages: list[QLabel] = []
        self.text = QPlainTextEdit()
        self.text.setReadOnly(True)
        self.text.setFont(font())
        self.text.setLineWrapMode(QPlainTextEdit.LineWrapMode.NoWrap)
        self.text.setAccessibleName(title)
        self._said = label("", "second", small=True)
        self._scroll = QScrollArea()
        self._scroll.setWidgetResizable(True)
        self._scroll.setAccessibleName(title)
        column = QVBoxLayout(self)
        column.setContentsMargins(12, 10, 12, 10)
        column.addWidget(self._scroll, 1)
        column.addWidget(self.text, 1)
        row = QHBoxLayout()
        row.addWidget(self._said, 1)
        for name, act in saves:
            row.addWidget(button(name, f"Write {title.lower()} to a file", act))
        self.print_it = button("Print…", f"Print {title.lower()} (Ctrl+P)", self.print_wanted.emit)
        self.print_it.setShortcut(QKeySequence("Ctrl+P"))
        self.print_it.hide()
        row.addWidget(self.print_it)
        row.addWidget(button("Close", "Close", self.accept))
        column.addLayout(row)
        self.resize(880, 720)

    def show_pages(self, pages: "Sequence[U8]") -> None:
        """Show paper, page under page, as large as it is."""
        inside = QWidget()
        column = QVBoxLayout(inside)
        column.setSpacing(_GAP)
        for number, page in enumerate(pages):
            shown = label()
            shown.setPixmap(QPixmap.fromImage(as_image(page)))
            shown.setAccessibleName(f"Page {number + 1}")
            column.addWidget(shown, 0, Qt.AlignmentFlag.AlignHCenter)
            self.pages.append(shown)
        column.addStretch(1)
        self._scroll.setWidget(inside)
        self.text.hide()
        self.print_it.show()
        self._said.setText(f"{counted(len(pages), 'page')}, at their size on paper")
        self.show()

    def show_text(self, words: str) -> None:
        """Show text as it is."""
        self._scroll.hide()
        self.text.setPlainText(words)
        self._said.setText(counted(len(words.splitlines()), "line"))
        self.show()
