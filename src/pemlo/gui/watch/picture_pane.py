"""A frame's picture beside its neighbour's or a trial's, and runs of frames that play. GUI thread; reads in jobs."""

from collections.abc import Sequence
from dataclasses import dataclass
from pathlib import Path

import numpy as np
import numpy.typing as npt
from PySide6.QtCore import QRectF, QSize, Qt, QTimer
from PySide6.QtGui import QImage, QPainter, QPaintEvent
from PySide6.QtWidgets import QSizePolicy, QVBoxLayout, QWidget

from pemlo.app.jobs import Jobs
from pemlo.core.errors import PemloError
from pemlo.core.progress import Monitor
from pemlo.core.units import counted
from pemlo.gui.common.colours import ON_PICTURE, SURROUND, UNDER_PICTURE
from pemlo.gui.common.fonts import SMALL, font
from pemlo.gui.common.labels import label

PICTURE = "watched picture"
WIDTH = 640
MOST_PLAYED = 600


@dataclass(frozen=True)
class Shown:
    """A picture file and what is written on it."""

    path: Path
    words: str


class _Pictures(QWidget):
    """Paints one or two pictures beside each other, each with its words."""

    def __init__(self) -> None:
        super().__init__()
        self.shown: list[tuple[QImage, str]] = []
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)
        self.setMinimumHeight(110)
        self.setAccessibleName("Pictures of frames")

    def sizeHint(self) -> QSize:
        return QSize(320, 180)

    def paintEvent(self, _event: QPaintEvent) -> None:
        with QPainter(self) as painter:
            if not self.shown:
                return
            painter.fillRect(self.rect(), SURROUND)
            painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
            painter.setFont(font(SMALL))
            width = self.width() / max(len(self.shown), 1)
            for number, (image, words) in enumerate(self.shown):
                room = QRectF(number * width + 1, 0, width - 2, self.height())
                size = image.size().scaled(room.size().toSize(), Qt.AspectRatioMode.KeepAspectRatio)
                place = QRectF(0, 0, size.width(), size.height())
                place.moveCenter(room.center())
                painter.drawImage(place, image)
                under = QRectF(room.left(), room.bottom() - 18, room.width(), 18)
                painter.fillRect(under, UNDER_PICTURE)
                painter.setPen(ON_PICTURE)
                painter.drawText(under.adjusted(5, 0, -5, 0), Qt.AlignmentFlag.AlignVCenter, words)


class PicturePane(QWidget):
    """Shows pictures, or plays a run of frames while the rest is still rendering."""

    def __init__(self, jobs: Jobs) -> None:
        super().__init__()
        self._jobs = jobs
        self.pictures = _Pictures()
        self.words = label("Click a frame to see it.", "second", small=True, wrap=True)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(3)
        column.addWidget(self.pictures, 1)
        column.addWidget(self.words)
        self._run: list[tuple[QImage, str]] = []
        self._at = 0
        self._timer = QTimer(self)
        self._timer.timeout.connect(self._next)

    @property
    def playing(self) -> bool:
        return self._timer.isActive()

    def show_files(self, files: Sequence[Shown], words: str) -> None:
        """Read pictures in the background, and show them beside each other."""
        self.stop()
        wanted = tuple(files)
        self._jobs.submit(
            PICTURE,
            "Reading the picture",
            lambda monitor: _read(wanted, monitor),
            lambda found: self._show(found, words),
            waited_for=True,
        )

    def play(self, files: Sequence[Shown], fps: float, words: str) -> None:
        """Read a run of frames, and play it over and over."""
        self.stop()
        wanted = tuple(files[:MOST_PLAYED])
        self._jobs.submit(
            PICTURE,
            f"Reading {counted(len(wanted), 'frame')}",
            lambda monitor: _read(wanted, monitor),
            lambda found: self._begin(found, fps, words),
        )

    def stop(self) -> None:
        """Stop playing."""
        self._timer.stop()
        self._jobs.cancel(PICTURE)

    def clear(self, words: str) -> None:
        """Show nothing but words."""
        self.stop()
        self.pictures.shown = []
        self.pictures.update()
        self.words.setText(words)

    def _show(self, found: "list[tuple[_Codes | str, str]]", words: str) -> None:
        shown = [(_image(codes), text) for codes, text in found if not isinstance(codes, str)]
        wrong = [codes for codes, _ in found if isinstance(codes, str)]
        self.pictures.shown = shown
        self.pictures.update()
        self.words.setText(" ".join([words, *wrong]))

    def _begin(self, found: "list[tuple[_Codes | str, str]]", fps: float, words: str) -> None:
        self._run = [(_image(codes), text) for codes, text in found if not isinstance(codes, str)]
        if not self._run:
            self.clear("None of these frames can be shown.")
            return
        self.words.setText(words)
        self._at = 0
        self._timer.start(max(1, round(1000 / max(fps, 1.0))))
        self._next()

    def _next(self) -> None:
        self.pictures.shown = [self._run[self._at % len(self._run)]]
        self._at += 1
        self.pictures.update()


_Codes = npt.NDArray[np.uint8]


def _read(files: Sequence[Shown], monitor: Monitor) -> list[tuple[_Codes | str, str]]:
    """Return display codes of pictures, or what is wrong with them."""
    from pemlo.core.files.small import read_for_display  # noqa: PLC0415 - heavy to load

    found: list[tuple[_Codes | str, str]] = []
    for number, shown in enumerate(files):
        monitor.step(number / len(files), "Reading pictures")
        try:
            found.append((read_for_display(shown.path, WIDTH), shown.words))
        except PemloError as error:
            found.append((error.message, shown.words))
    return found


def _image(codes: _Codes) -> QImage:
    height, width, _ = codes.shape
    return QImage(codes.tobytes(), width, height, 3 * width, QImage.Format.Format_RGB888).copy()
