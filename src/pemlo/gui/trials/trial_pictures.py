"""Pictures of trials: small copies for the table, and one larger in a window of its own. GUI thread."""

from collections.abc import Callable
from pathlib import Path

import numpy as np
import numpy.typing as npt
from PySide6.QtCore import QObject, QSize, Qt
from PySide6.QtGui import QImage, QPainter, QPaintEvent, QPixmap
from PySide6.QtWidgets import QDialog, QVBoxLayout, QWidget
from shiboken6 import isValid

from pemlo.app import picture_places
from pemlo.app.document import Document
from pemlo.app.file_facts import FileFacts
from pemlo.app.jobs import Jobs
from pemlo.core.errors import FileError, PemloError
from pemlo.core.progress import Monitor
from pemlo.gui.common.colours import SURROUND
from pemlo.gui.common.labels import label
from pemlo.gui.common.pictures import SmallPicture, small_picture
from pemlo.gui.trials import presenter
from pemlo.gui.trials.trial_columns import TrialRow


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


SHOWN, SMALL = "shown picture", "small pictures"
LARGEST_SHOWN = 1920


class TrialPictures(QObject):
    """Finds pictures on another thread, and shows them."""

    def __init__(self, document: Document, jobs: Jobs, report: Callable[[PemloError], None], parent: QWidget) -> None:
        super().__init__()
        self._document, self._jobs, self._report, self._parent = document, jobs, report, parent
        self.small = FileFacts(jobs, SMALL, lambda path, before: small_picture(self._small_of(path), before))
        document.replaced.connect(self.small.forget)
        document.replaced.connect(lambda: jobs.cancel(SHOWN))

    def _small_of(self, picture: Path) -> Path | None:
        return picture_places.small_of(picture, self._document.path)

    def small_image(self, picture: Path) -> QImage | None:
        """Return the small copy of a picture; None while it is not known."""
        found: SmallPicture | None = self.small.of(picture)
        return None if found is None else found.image

    def show_large(self, row: TrialRow) -> None:
        """Show the picture of a trial in a window of its own."""
        picture = row.picture
        if picture is None:
            self._report(FileError("This trial has no picture.", "Render it, or drop its picture into the window."))
            return

        def find(_: Monitor) -> tuple[Path | None, QImage]:
            small = self._small_of(picture)
            whole = picture if picture.is_file() and picture != small else None
            if small is None and whole is None:
                hint = "Render it again, or drop it from where it is now."
                raise FileError(f"{picture} is not there any more.", hint)
            return whole, QImage() if small is None else QImage(str(small))

        def show(found: tuple[Path | None, QImage]) -> None:
            title = f"Shot {row.trial.shot}, frame {row.trial.frame}"
            self.view = PictureView(self._parent, title, found[1], presenter.picture_words(row.trial))
            self.view.show()
            if found[0] is not None:
                self._read_whole(found[0], self.view)

        self._jobs.submit(SHOWN, f"Looking for {picture.name}", find, show, waited_for=True)

    def _read_whole(self, file: Path, view: PictureView) -> None:
        def read(monitor: Monitor) -> npt.NDArray[np.uint8]:
            from pemlo.core.files.small import read_for_display  # noqa: PLC0415 - heavy to load

            monitor.step(0.0, f"Reading {file.name}")
            return read_for_display(file, LARGEST_SHOWN)

        def show(codes: npt.NDArray[np.uint8]) -> None:
            if isValid(view):  # it may be closed by now
                view.show_whole(codes)

        self._jobs.submit(SHOWN, f"Reading {file.name}", read, show, waited_for=True)
