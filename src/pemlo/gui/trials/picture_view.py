"""A trial's picture, larger, with what it is of and what it took. GUI thread."""

import numpy as np
import numpy.typing as npt
from PySide6.QtCore import QSize, Qt
from PySide6.QtGui import QImage, QPainter, QPaintEvent, QPixmap
from PySide6.QtWidgets import QDialog, QVBoxLayout, QWidget

from pemlo.gui.common.colours import SURROUND
from pemlo.gui.common.labels import label


class _Canvas(QWidget):
    def __init__(self, image: QImage) -> None:
        super().__init__()
        self.picture = QPixmap.fromImage(image)
        self.setAccessibleName("Picture of the trial")

    def sizeHint(self) -> QSize:
        return QSize(960, 540)

    def paintEvent(self, _event: QPaintEvent) -> None:
        with QPainter(self) as painter:
            painter.fillRect(self.rect(), SURROUND)
            if self.picture.isNull():
                return  # it is being read
            shown = self.picture.scaled(
                self.size() * self.devicePixelRatio(),
                Qt.AspectRatioMode.KeepAspectRatio,
                Qt.TransformationMode.SmoothTransformation,
            )
            shown.setDevicePixelRatio(self.devicePixelRatio())
            size = shown.deviceIndependentSize()
            painter.drawPixmap(
                round((self.width() - size.width()) / 2), round((self.height() - size.height()) / 2), shown
            )


class PictureView(QDialog):
    """Shows a picture as large as the dialog is, its small copy until the whole one is read, and sentences below it."""

    def __init__(self, parent: QWidget, title: str, small: QImage, words: str) -> None:
        super().__init__(parent)
        self.setWindowTitle(title)
        self.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        self.canvas = _Canvas(small)
        self.words = label(words, "second", wrap=True)
        column = QVBoxLayout(self)
        column.addWidget(self.canvas, 1)
        column.addWidget(self.words)

    def show_whole(self, codes: npt.NDArray[np.uint8]) -> None:
        """Show the picture itself in place of its small copy: display codes, (H, W, 3)."""
        height, width, _ = codes.shape
        image = QImage(codes.tobytes(), width, height, 3 * width, QImage.Format.Format_RGB888)
        self.canvas.picture = QPixmap.fromImage(image)
        self.canvas.update()
