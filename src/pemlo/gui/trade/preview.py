"""The predicted look beside the reference, or a trial that passed: the same part of both. GUI thread.

Dragging moves the part, the wheel makes it larger, a double click goes back to the worst spot.
"""

from collections.abc import Callable
from dataclasses import dataclass
from pathlib import Path
from tempfile import TemporaryDirectory, mkdtemp
from typing import TYPE_CHECKING

from PySide6.QtCore import QPointF, QRectF, QSize, Qt, Signal
from PySide6.QtGui import QImage, QMouseEvent, QPainter, QPaintEvent, QResizeEvent, QWheelEvent
from PySide6.QtWidgets import QSizePolicy, QWidget

from pemlo.app.jobs import Jobs
from pemlo.core.pixels.box import Box
from pemlo.core.progress import Monitor
from pemlo.core.project.settings import ShotSettings
from pemlo.gui.common.colours import ON_PICTURE, SURROUND, UNDER_PICTURE
from pemlo.gui.common.fonts import SMALL, font
from pemlo.gui.common.plain import set_tip
from pemlo.gui.common.wheel import WheelSteps

if TYPE_CHECKING:
    from pemlo.core.pixels.screen import Pixels
    from pemlo.core.predict.shot_appearance import ShotAppearance

APPEARANCE, WHOLE = "predicted look", "predicted frame"
_GAP, LEAST_PX, SHAPE = 3, 120, 16 / 9
BESIDE_PX = 520  # so wide that both pictures have room side by side
TIMES = (1, 2, 3, 4, 6, 8, 12, 16)


@dataclass(frozen=True)
class Beside:
    """What stands beside the predicted look: its file, and what it is."""

    path: Path
    words: str


class PreviewView(QWidget):
    """A part of a frame as it is predicted; the reference, or a trial that passed, beside it or while it is asked for.

    Signals
    -------
    written(path, path)
        The whole frame was predicted: its file, and that of what stands beside.
    """

    written = Signal(object, object)

    def __init__(self, jobs: Jobs) -> None:
        super().__init__()
        self._jobs = jobs
        self._folder: TemporaryDirectory[str] | None = None
        self._wanted: tuple[ShotAppearance, ShotSettings, float, Beside] | None = None
        self._centre: tuple[float, float] | None = None
        self._times: int | None = None
        self._grabbed: QPointF | None = None
        self._wheel = WheelSteps()
        self._again: Callable[[], None] = lambda: None
        self._images: tuple[tuple[QImage, str], ...] = ()
        self._missing = ""
        self._asked: tuple[ShotAppearance, object] | None = None
        self._shows_other = False
        policy = QSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
        policy.setHeightForWidth(True)
        self.setSizePolicy(policy)
        self.setAccessibleName("Predicted look and reference")

    def sizeHint(self) -> QSize:
        return QSize(270, self.heightForWidth(max(self.width(), 270)))

    def hasHeightForWidth(self) -> bool:
        return True

    def heightForWidth(self, width: int) -> int:
        each = (width - _GAP) / 2 if width >= BESIDE_PX else width
        return max(LEAST_PX, round(each / SHAPE))

    @property
    def beside(self) -> bool:
        """Whether both pictures are shown."""
        return self.width() >= BESIDE_PX

    def show_other(self, *, on: bool) -> None:
        """Show what stands beside in the place of the predicted look, where there is room for one only."""
        self._shows_other = on
        self.update()

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        if self._images:  # another part of the frame has room now
            self._again()

    @property
    def words(self) -> tuple[str, ...]:
        """What stands on the pictures, or in their place."""
        return tuple(words for _, words in self._images) or (self._missing,)

    def part(self, size: tuple[int, int], worst: Box) -> tuple[Box, int]:
        """Return the part of a picture that is shown, around its worst spot or where it was moved, and how large."""
        room = (self.width() - _GAP) // 2 if self.beside else self.width()
        times = self._times or max(1, min(3, room // max(size[0] // 2, 1)))
        wide, high = min(size[0], max(room // times, 8)), min(size[1], max(self.height() // times, 8))
        x, y = self._centre or ((worst[0] + worst[2]) / 2, (worst[1] + worst[3]) / 2)
        left = min(max(round(x - wide / 2), 0), size[0] - wide)
        top = min(max(round(y - high / 2), 0), size[1] - high)
        return (left, top, left + wide, top + high), times

    def forget(self) -> None:
        """Go back to the worst spot at the first size."""
        self._centre = self._times = None
        self._asked = None

    def show_preview(
        self,
        appearance: "ShotAppearance | None",
        settings: ShotSettings,
        spent: float,
        words: str,
        trouble: str,
        passed: Beside | None = None,
    ) -> None:
        """Show the preview of settings beside the reference or what passed; `trouble` says why there is none."""
        if appearance is None or appearance.pictures is None:
            self._jobs.cancel(APPEARANCE)
            self._asked, self._wanted, self._images = None, None, ()
            self._missing = trouble or "No trial of this shot has a picture that tells its look."
            self.update()
            return
        pictures, error_model = appearance.pictures, appearance.error_model
        if self._wanted is None or self._wanted[0] is not appearance:
            self._centre = self._times = None  # another shot has another worst spot
        beside = passed or Beside(pictures.reference, f"reference, frame {appearance.frame}")
        self._wanted = appearance, settings, spent, beside
        self._again = lambda: self.show_preview(appearance, settings, spent, words, trouble, passed)
        box, times = self.part(error_model.size, pictures.worst)
        asked = (settings, round(spent, 3), box, words, beside, times)
        if self._asked is not None and self._asked[0] is appearance and self._asked[1] == asked:
            return
        self._asked = appearance, asked

        def work(monitor: Monitor) -> "tuple[Pixels, Pixels, str] | None":
            from pemlo.core.appraisal.preview import make_preview  # noqa: PLC0415
            from pemlo.core.errors import InputError  # noqa: PLC0415 - all of this is heavy to load
            from pemlo.core.files.loading import load_part  # noqa: PLC0415
            from pemlo.core.files.picture_file import ReadOptions  # noqa: PLC0415
            from pemlo.core.pixels.display import Srgb  # noqa: PLC0415
            from pemlo.core.pixels.screen import shown  # noqa: PLC0415

            monitor.step(0.0, "Predicting the look")
            try:
                found = make_preview(error_model, pictures, settings, spent, box)
            except InputError:
                return None
            if found is None:
                return None
            other = load_part(beside.path, ReadOptions(), error_model.size, box)
            return shown(found.predicted, Srgb()), shown(other, Srgb()), found.taken_from.path.name

        def done(found: "tuple[Pixels, Pixels, str] | None") -> None:
            if found is None:
                self._images, self._missing = (), "No trial with this denoiser has a picture."
            else:
                names = (f"predicted: {words}", beside.words)
                self._images = tuple((_image(one, times), name) for one, name in zip(found[:2], names, strict=True))
                set_tip(
                    self,
                    f"No render: the reference, and in proportion what {found[2]} was measured to err by. "
                    "Drag to move, wheel to enlarge, double-click for the worst spot",
                )
            self.update()

        self._jobs.submit(APPEARANCE, "Predicting the look", work, done)

    def write_whole(self) -> None:
        """Write the whole frame as files, to be looked at with all tools; `written` tells when it is there."""
        if self._wanted is None:
            return
        appearance, settings, spent, beside = self._wanted
        self._folder = self._folder or TemporaryDirectory(prefix="pemlo-")
        folder = Path(mkdtemp(dir=self._folder.name))

        def work(monitor: Monitor) -> "Path | None":
            from pemlo.core.appraisal.preview_files import write_preview  # noqa: PLC0415 - heavy to load

            return write_preview(appearance, settings, spent, folder, monitor)

        def done(path: "Path | None") -> None:
            if path is not None:
                run = {} if appearance.pictures is None else appearance.pictures.run
                self.written.emit(path, run[min(run)] if settings.frame_step > 1 and run else beside.path)

        self._jobs.submit(WHOLE, "Predicting the whole frame", work, done)

    # Hands

    def mousePressEvent(self, event: QMouseEvent) -> None:
        self._grabbed = event.position()

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if self._grabbed is None or self._wanted is None:
            return
        appearance = self._wanted[0]
        assert appearance.pictures is not None
        box, times = self.part(appearance.error_model.size, appearance.pictures.worst)
        step = event.position() - self._grabbed
        self._grabbed = event.position()
        self._centre = (box[0] + box[2]) / 2 - step.x() / times, (box[1] + box[3]) / 2 - step.y() / times
        self._again()

    def mouseReleaseEvent(self, _event: QMouseEvent) -> None:
        self._grabbed = None

    def mouseDoubleClickEvent(self, _event: QMouseEvent) -> None:
        self._centre = self._times = None
        self._again()

    def wheelEvent(self, event: QWheelEvent) -> None:
        steps = self._wheel.of(event)
        event.accept()
        if self._wanted is None or not steps:
            return
        appearance = self._wanted[0]
        assert appearance.pictures is not None
        _, times = self.part(appearance.error_model.size, appearance.pictures.worst)
        larger = steps > 0
        others = [one for one in TIMES if (one > times) == larger and one != times]
        if others:
            self._times = min(others) if larger else max(others)
            self._again()

    def paintEvent(self, _event: QPaintEvent) -> None:
        with QPainter(self) as painter:
            painter.fillRect(self.rect(), SURROUND)
            painter.setFont(font(SMALL))
            if not self._images:
                painter.setPen(ON_PICTURE)
                flags = Qt.AlignmentFlag.AlignCenter.value | Qt.TextFlag.TextWordWrap.value
                painter.drawText(self.rect().adjusted(10, 10, -10, -10), flags, self._missing)
                return
            half = (self.width() - _GAP) / 2 if self.beside else self.width()
            shown = self._images if self.beside else (self._images[self._shows_other],)
            for number, (image, words) in enumerate(shown):
                begin = number * (half + _GAP)
                room = QRectF(begin, 0, half, self.height())
                painter.setClipRect(room)
                left, above = int(begin + (half - image.width()) / 2), (self.height() - image.height()) // 2
                painter.drawImage(max(left, int(begin)), max(above, 0), image)
                width = painter.fontMetrics().horizontalAdvance(words) + 10
                label = QRectF(begin + 4, 4, min(width, half - 8), 18)
                painter.fillRect(label, UNDER_PICTURE)
                painter.setPen(ON_PICTURE)
                painter.drawText(label, Qt.AlignmentFlag.AlignCenter, words)


def _image(pixels: "Pixels", times: int) -> QImage:
    height, width = pixels.shape
    image = QImage(pixels.tobytes(), width, height, 4 * width, QImage.Format.Format_RGB32).copy()
    return image if times == 1 else image.scaled(width * times, height * times)
