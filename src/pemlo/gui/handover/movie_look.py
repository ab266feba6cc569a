"""One picture of a review movie at its real size, with the words that stand in it, any of them. GUI thread."""

from collections.abc import Callable

from PySide6.QtCore import Qt
from PySide6.QtGui import QPixmap
from PySide6.QtWidgets import QDialog, QHBoxLayout, QScrollArea, QSlider, QVBoxLayout, QWidget

from pemlo.app.export_service import MovieLook
from pemlo.core.units import counted
from pemlo.gui.common.labels import button, label
from pemlo.gui.handover.preview import as_image

Ask = Callable[[int, Callable[[MovieLook], None]], None]


class MovieLookDialog(QDialog):
    """The dialog; it blocks only the form that asked for it.

    Parameters
    ----------
    parent : QWidget
    ask : callable
        Makes the picture of a number, and calls back with it.
    """

    def __init__(self, parent: QWidget, ask: Ask) -> None:
        super().__init__(parent)
        self.setWindowTitle("A picture of the movie")
        self.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        self._ask = ask
        self.picture = label("Making it…", "second")
        self.picture.setAccessibleName("A picture of the movie")
        self.picture.setAlignment(Qt.AlignmentFlag.AlignCenter)
        scroll = QScrollArea()
        scroll.setWidget(self.picture)
        scroll.setWidgetResizable(True)
        scroll.setAccessibleName("The picture, at its real size")
        self.which = QSlider(Qt.Orientation.Horizontal)
        self.which.setAccessibleName("Which picture of the movie")
        self.which.setEnabled(False)
        self.which.valueChanged.connect(self._on_moved)
        self.said = label("", "second", wrap=True)
        column = QVBoxLayout(self)
        column.setContentsMargins(12, 10, 12, 10)
        column.addWidget(scroll, 1)
        column.addWidget(self.which)
        below = QHBoxLayout()
        below.addWidget(self.said, 1)
        below.addWidget(button("Close", "Back to the form", self.accept))
        column.addLayout(below)
        self.resize(880, 640)
        self._on_moved(0)

    def _on_moved(self, number: int) -> None:
        self._ask(number, self._show)

    def _show(self, found: MovieLook) -> None:
        if found.picture is None or found.order is None:
            self.picture.setText(found.wrong)
            self.picture.setWordWrap(True)
            self.said.setText("")
            return
        order, shown = found.order, found.order.shown[found.number]
        self.picture.setPixmap(QPixmap.fromImage(as_image(found.picture)))
        self.which.setRange(0, len(order.shown) - 1)
        self.which.setEnabled(len(order.shown) > 1)
        slates = f", {counted(order.missing, 'slate')} for missing frames" if order.missing else ""
        self.said.setText(
            f"{shown.shot}, frame {shown.frame}: picture {found.number + 1} of {len(order.shown)}{slates}. "
            f"{'×'.join(map(str, order.whole_size))} px, {len(order.shown) / order.fps:.1f} s; before it is encoded."
        )
